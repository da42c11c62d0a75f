namespace Unicus.Core.Documents;

using System.Text.Unicode;

/// <summary>Looks at JSON before it is read: the reader meets texts that are no Unicode only when they are asked for.</summary>
public static class JsonText
{
    /// <summary>Whether the bytes are UTF-8 and every escaped surrogate (RFC 8259, section 7) has its other half.</summary>
    public static bool IsWellFormed(ReadOnlySpan<byte> json)
    {
        if (!Utf8.IsValid(json))
            return false;
        var isHalf = false;
        for (var at = 0; at < json.Length;)
        {
            var next = json[at..].IndexOf((byte)'\\');
            if (next < 0)
                return !isHalf;
            if (isHalf && next > 0)
                return false;
            at += next;
            var unit = Escaped(json[at..]);
            var isHigh = unit is >= 0xD800 and <= 0xDBFF;
            var isLow = unit is >= 0xDC00 and <= 0xDFFF;
            if (isHalf != isLow)
                return false;
            isHalf = isHigh;
            at += unit is null ? 2 : 6;
        }
        return !isHalf;
    }

    /// <summary>The code unit of <c>\uXXXX</c>; null where another escape stands.</summary>
    private static int? Escaped(ReadOnlySpan<byte> at) =>
        at.Length >= 6
        && at[1] == 'u'
        && System.Buffers.Text.Utf8Parser.TryParse(at.Slice(2, 4), out int unit, out var read, 'x')
        && read == 4
            ? unit
            : null;
}
