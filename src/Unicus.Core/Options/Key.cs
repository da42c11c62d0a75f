namespace Unicus.Core.Options;

using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;

/// <summary>The unchanging short name of an option, a value or a rule within its product: <c>[a-z0-9]+(-[a-z0-9]+)*</c>.</summary>
/// <remarks>Labels may be changed at will; the key is what identifies.</remarks>
public readonly partial record struct Key : IComparable<Key>
{
    private Key(string text) => Text = text;

    /// <summary>The key itself.</summary>
    public string Text { get; }

    /// <summary>What a key looks like, in words.</summary>
    public const string Shape = "small letters and digits, joined by single hyphens, at most 64";

    /// <summary>Parses a key.</summary>
    /// <exception cref="FormatException">The text has another shape.</exception>
    public static Key Of(string text)
    {
        if (TryParse(text, out var key))
            return key;
        throw new FormatException($"“{text}” is not a key: {Shape}.");
    }

    /// <summary>Parses a key; false where the text has another shape.</summary>
    public static bool TryParse(string text, out Key key)
    {
        var fits = text.Length <= 64 && Pattern().IsMatch(text);
        key = fits ? new Key(text) : default;
        return fits;
    }

    /// <summary>Makes a key from a label that none of <paramref name="taken"/> has: “Deep frame” becomes <c>deep-frame</c>, then
    /// <c>deep-frame-2</c>.</summary>
    /// <remarks>A label without any Latin letter or digit becomes <paramref name="fallback"/>.</remarks>
    public static Key From(string label, IReadOnlySet<Key> taken, string fallback = "value")
    {
        var stem = Slug.From(label, 56);
        if (stem.Length == 0)
            stem = fallback;
        var key = new Key(stem);
        for (var n = 2; taken.Contains(key); n++)
            key = new Key($"{stem}-{n}");
        return key;
    }

    /// <summary>Compares by the code of the characters.</summary>
    public int CompareTo(Key other) => string.CompareOrdinal(Text, other.Text);

    /// <summary>Whether the left key comes first.</summary>
    public static bool operator <(Key a, Key b) => a.CompareTo(b) < 0;

    /// <summary>Whether the left key comes last.</summary>
    public static bool operator >(Key a, Key b) => a.CompareTo(b) > 0;

    /// <summary>Whether the left key does not come last.</summary>
    public static bool operator <=(Key a, Key b) => a.CompareTo(b) <= 0;

    /// <summary>Whether the left key does not come first.</summary>
    public static bool operator >=(Key a, Key b) => a.CompareTo(b) >= 0;

    /// <inheritdoc/>
    public override string ToString() => Text ?? "";

    [GeneratedRegex(@"\A[a-z0-9]+(-[a-z0-9]+)*\z")]
    private static partial Regex Pattern();
}

/// <summary>Plain ASCII names made from labels in any script that has a Latin base letter.</summary>
public static class Slug
{
    /// <summary>Small letters and digits joined by hyphens; empty where the label has none.</summary>
    public static string From(string label, int longest)
    {
        var text = new StringBuilder();
        foreach (var c in Plain(label).ToLowerInvariant())
        {
            if (char.IsAsciiLetterOrDigit(c))
                text.Append(c);
            else if (text.Length > 0 && text[^1] != '-' && c is not ('\'' or '’'))
                text.Append('-');
            if (text.Length >= longest)
                break;
        }
        return text.ToString().Trim('-');
    }

    /// <summary>Letters without their accents.</summary>
    public static string Plain(string label)
    {
        var text = new StringBuilder();
        foreach (
            var c in label.Replace("ß", "ss").Replace("ø", "o").Replace("æ", "ae").Replace("œ", "oe").Normalize(NormalizationForm.FormD)
        )
            if (CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark)
                text.Append(c);
        return text.ToString();
    }
}
