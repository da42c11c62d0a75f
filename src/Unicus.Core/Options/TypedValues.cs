namespace Unicus.Core.Options;

using System.Text.RegularExpressions;
using Unicus.Core.Money;

/// <summary>Lists of values as people type or paste them.</summary>
public static partial class TypedValues
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
        // “12,5 cm, 15 cm”: a comma within a number, and commas between values. Other marks between them make it plain.
        var isDecimal = DecimalComma().IsMatch(text);
        var isPlain = text.IndexOfAny([';', '\n', '\t']) >= 0;
        if (isDecimal && !isPlain && text.Contains(", ", StringComparison.Ordinal))
        {
            var number = DecimalComma().Match(text).Value;
            problems.Add(
                $"Is {number} one value? Then write {number.Replace(',', '.')}, or put semicolons between the values. If it is two, put a "
                    + "blank after its comma."
            );
            return ([], problems);
        }
        char[] marks = isDecimal && isPlain ? [';', '\n', '\r', '\t'] : [',', ';', '\n', '\r', '\t'];
        foreach (var piece in text.Split(marks))
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

    [GeneratedRegex(@"(?<![\d,.])\d+,\d+(?!\d|,\d)")]
    private static partial Regex DecimalComma();

    /// <summary>A label with what it costs more or less behind it, such as “Deep +12” or “Small -3.50” or “Oak +8 %”.</summary>
    /// <returns>The label alone, and the surcharge as typed; null where there is none.</returns>
    public static (string Label, string? Surcharge) Apart(string label)
    {
        var match = Priced().Match(label);
        return match.Success ? (match.Groups["label"].Value, match.Groups["amount"].Value.Replace('−', '-')) : (label, null);
    }

    [GeneratedRegex(@"\A(?<label>.*\S)\s+(?<amount>[+\-−]\s?\d+([.,]\d+)?\s?%?)\z")]
    private static partial Regex Priced();

    /// <summary>New values for labels that may have their surcharge behind them.</summary>
    public static Read<IReadOnlyList<OptionValue>> MakePriced(
        IReadOnlyList<string> labels,
        IReadOnlyCollection<OptionValue> existing,
        Currency currency
    )
    {
        var apart = labels.Select(Apart).ToList();
        if (
            apart.Select(a => a.Label).Concat(existing.Select(v => v.Label)).GroupBy(Folded).FirstOrDefault(g => g.Skip(1).Any()) is
            { } twice
        )
            return Read<IReadOnlyList<OptionValue>>.No($"“{twice.First()}” stands there twice.");
        var values = new List<OptionValue>();
        foreach (var (value, typed) in Make(apart.Select(a => a.Label), existing).Zip(apart.Select(a => a.Surcharge)))
        {
            var surcharge = TypedSurcharge.Read(typed, currency, Ask.One);
            if (!surcharge.Ok)
                return Read<IReadOnlyList<OptionValue>>.No($"{value.Label}: {surcharge.Problem}");
            values.Add(value with { Surcharge = surcharge.Value });
        }
        return Read<IReadOnlyList<OptionValue>>.Of(values);
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
