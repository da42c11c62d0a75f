namespace Unicus.Core;

/// <summary>Lists of values as people type or paste them.</summary>
public static class TypedValues
{
    /// <summary>The most values that one option can have.</summary>
    public const int MostValues = 1000;

    /// <summary>The longest label, in characters.</summary>
    public const int LongestLabel = 120;

    /// <summary>Labels separated by commas, semicolons or line breaks, trimmed, without blanks and without repeats (letter case
    /// ignored).</summary>
    /// <returns>The labels, and a sentence for each that cannot be taken.</returns>
    public static (IReadOnlyList<string> Labels, IReadOnlyList<string> Problems) Split(string text, IEnumerable<string> existing)
    {
        var seen = new HashSet<string>(existing.Select(Folded), StringComparer.Ordinal);
        var labels = new List<string>();
        var problems = new List<string>();
        foreach (var piece in text.Split([',', ';', '\n', '\r', '\t']))
        {
            var label = string.Join(' ', piece.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
            if (label.Length == 0)
                continue;
            if (label.Length > LongestLabel)
                problems.Add($"“{label[..40]}…” is longer than {LongestLabel} characters.");
            else if (label.Any(char.IsControl))
                problems.Add($"“{label}” holds a control character.");
            else if (!seen.Add(Folded(label)))
                problems.Add($"“{label}” is there already.");
            else
                labels.Add(label);
        }
        if (seen.Count > MostValues)
        {
            problems.Add($"An option has at most {MostValues:N0} values; these would be {seen.Count:N0}.");
            labels.Clear();
        }
        return (labels, problems);
    }

    /// <summary>New values for labels: a key and a short SKU code each, unlike those of <paramref name="existing"/> and of each
    /// other.</summary>
    public static IReadOnlyList<OptionValue> Make(IEnumerable<string> labels, IEnumerable<OptionValue> existing)
    {
        var keys = existing.Select(v => v.Key).ToHashSet();
        var codes = existing.Select(v => v.SkuPiece).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var made = new List<OptionValue>();
        foreach (var label in labels)
        {
            var key = Key.From(label, keys);
            keys.Add(key);
            var code = ShortCode(label, key, codes);
            codes.Add(code);
            made.Add(new OptionValue(key, label) { SkuCode = code });
        }
        return made;
    }

    /// <summary>
    /// A code of one to four characters that is not taken: numbers and short capitals as they are (“64 cm” → 64, “XS” → XS),
    /// else the first letter, then the first two,
    /// then letters further on, then with a number.
    /// </summary>
    public static string ShortCode(string label, Key key, IReadOnlySet<string> taken)
    {
        var letters = new string([.. Slug.Plain(label).ToUpperInvariant().Where(char.IsAsciiLetterOrDigit)]);
        if (letters.Length == 0)
            letters = key.Text.Replace("-", "").ToUpperInvariant();
        IEnumerable<string> tries = char.IsAsciiDigit(letters[0])
            ? [new string([.. letters.TakeWhile(char.IsAsciiDigit)]), letters[..Math.Min(4, letters.Length)]]
            :
            [
                letters[..1],
                .. Enumerable.Range(1, Math.Max(0, letters.Length - 1)).Select(i => $"{letters[0]}{letters[i]}"),
                letters[..Math.Min(4, letters.Length)],
            ];
        if (letters.Length <= 3 && !label.Any(char.IsLower))
            tries = tries.Prepend(letters);
        foreach (var code in tries)
            if (code.Length <= 8 && !taken.Contains(code))
                return code;
        for (var n = 2; ; n++)
            if (!taken.Contains($"{letters[0]}{n}"))
                return $"{letters[0]}{n}";
    }

    private static string Folded(string label) =>
        string.Join(' ', label.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)).ToUpperInvariant();
}
