namespace Unicus.Core.Variants;

/// <summary>What several names have in common, and what sets each apart.</summary>
/// <param name="Common">A name for all of them.</param>
/// <param name="Option">What the differences might be called, such as Capacity.</param>
/// <param name="Values">One a name, in order, all different.</param>
public sealed record NameSplit(string Common, string Option, IReadOnlyList<string> Values)
{
    private static readonly (string Option, string[] Words)[] Kinds =
    [
        ("Capacity", ["litre", "litres", "l", "ml", "cl", "pint", "pints"]),
        ("Weight", ["kg", "g", "lb", "oz", "gram", "grams"]),
        ("Size", ["cm", "mm", "m", "in", "small", "medium", "large", "xs", "s", "l", "xl", "xxl"]),
        ("Pack", ["pack", "pieces", "pcs", "box", "frames"]),
        ("Colour", ["black", "white", "red", "green", "blue", "yellow", "brown", "grey"]),
    ];

    /// <summary>Takes the words that all names begin and end with as common; the rest of each is its value.</summary>
    public static NameSplit Of(IReadOnlyList<string> names)
    {
        var words = names.Select(n => n.Split(' ', StringSplitOptions.RemoveEmptyEntries)).ToList();
        var shortest = words.Min(w => w.Length);
        var front = 0;
        while (front < shortest && words.TrueForAll(w => Same(w[front], words[0][front])))
            front++;
        var back = 0;
        while (back < shortest - front && words.TrueForAll(w => Same(w[^(back + 1)], words[0][^(back + 1)])))
            back++;
        var common = string.Join(' ', words[0].Take(front).Concat(words[0].TakeLast(back))).Trim(' ', ',', '-', '(', ')', ':');
        var values = new List<string>();
        foreach (var w in words)
        {
            var rest = string.Join(' ', w.Skip(front).SkipLast(back)).Trim(' ', ',', '-', '(', ')', ':');
            if (rest.Length == 0)
                rest = "Plain";
            var value = char.ToUpperInvariant(rest[0]) + rest[1..];
            for (var n = 2; values.Contains(value, StringComparer.OrdinalIgnoreCase); n++)
                value = $"{rest} {n}";
            values.Add(value);
        }
        var told = values
            .SelectMany(v => v.Split(' ', StringSplitOptions.RemoveEmptyEntries))
            .Select(v => v.TrimStart('0', '1', '2', '3', '4', '5', '6', '7', '8', '9', '.', ',').ToLowerInvariant())
            .ToHashSet();
        var kind = Kinds.FirstOrDefault(k => k.Words.Any(told.Contains)).Option ?? "Kind";
        return new NameSplit(common.Length == 0 ? names[0] : common, kind, values);
    }

    private static bool Same(string a, string b) => string.Equals(a.TrimEnd(','), b.TrimEnd(','), StringComparison.OrdinalIgnoreCase);
}
