namespace Unicus.Core.Money;

/// <summary>Texts as people type and paste them.</summary>
public static class TypedText
{
    /// <summary>
    /// The text without signs that cannot be kept: control characters (a vertical tab that came along with a paste, NUL) become blanks,
    /// half surrogate pairs the replacement character. Line breaks and tabs stay.
    /// </summary>
    public static string Clean(string? text)
    {
        if (text is null)
            return "";
        if (!text.Any(c => IsUnfit(c) || char.IsSurrogate(c)))
            return text;
        var clean = text.ToCharArray();
        for (var i = 0; i < clean.Length; i++)
        {
            if (IsUnfit(clean[i]))
                clean[i] = ' ';
            else if (char.IsHighSurrogate(clean[i]) && i + 1 < clean.Length && char.IsLowSurrogate(clean[i + 1]))
                i++;
            else if (char.IsSurrogate(clean[i]))
                clean[i] = '\uFFFD';
        }
        return new string(clean);
    }

    /// <summary>The same on one line, without blanks at the ends.</summary>
    public static string Line(string? text) => Clean(text).ReplaceLineEndings(" ").Replace('\t', ' ').Trim();

    /// <summary>The same with its line breaks, without blanks at the ends.</summary>
    public static string Lines(string? text) => Clean(text).ReplaceLineEndings("\n").Trim();

    /// <summary>What to look for in a search: one line of at most <paramref name="longest"/> characters.</summary>
    public static string Search(string? text, int longest = 100)
    {
        var line = Line(text);
        return line.Length <= longest ? line : Clean(line[..longest]).TrimEnd();
    }

    private static bool IsUnfit(char c) => char.IsControl(c) && c is not ('\n' or '\r' or '\t');
}
