using System.Collections.Immutable;
using System.Globalization;
using System.Text.RegularExpressions;

namespace Unicus.Web.Workbench;

/// <summary>What may fill a slot, its quantity, picks and reduction as merchants write them.</summary>
public static partial class PartWords
{
    /// <summary>What a piece may show, with the word for it.</summary>
    public static IReadOnlyList<(PieceShows Shows, string Words)> Showing { get; } =
    [
        (PieceShows.Picture, "picture"),
        (PieceShows.Price, "price"),
        (PieceShows.Text, "summary"),
        (PieceShows.Quantity, "quantity"),
        (PieceShows.Link, "link"),
    ];

    /// <summary>What was ticked of it.</summary>
    public static PieceShows ReadShows(IEnumerable<string?> ticked) =>
        ticked
            .Select(s => Enum.TryParse<PieceShows>(s, out var shows) ? shows : PieceShows.Nothing)
            .Aggregate(PieceShows.Nothing, (a, b) => a | b);

    /// <summary>The table by which a part follows an option, as a form has it: the part's value for each of the set's.</summary>
    /// <returns>Null where equal keys say the same.</returns>
    public static ImmutableSortedDictionary<Key, Key>? ReadTable(
        IEnumerable<(Key Value, string Counterpart)> rows,
        IReadOnlySet<Key> values
    )
    {
        var table = ImmutableSortedDictionary.CreateBuilder<Key, Key>();
        var isPlain = true;
        foreach (var (value, text) in rows)
        {
            Key? found = Key.TryParse(text, out var key) && values.Contains(key) ? key : null;
            isPlain &= found == (values.Contains(value) ? value : (Key?)null);
            if (found is { } counterpart)
                table[value] = counterpart;
        }
        return isPlain ? null : table.ToImmutable();
    }

    /// <summary>“2”, “1 to 3”, “1 to 3, usually 2”.</summary>
    public static string Of(SlotQuantity quantity)
    {
        var range = quantity.Min == quantity.Max ? $"{quantity.Min}" : $"{quantity.Min} to {quantity.Max}";
        return quantity.Default is { } usual && quantity.Min < quantity.Max ? $"{range}, usually {usual}" : range;
    }

    /// <summary>Reads a quantity.</summary>
    public static Read<SlotQuantity> ReadQuantity(string typed)
    {
        if (QuantityShape().Match(typed.Trim()) is not { Success: true } found)
            return Read<SlotQuantity>.No("A quantity is written 1, or 1 to 3, or 1 to 3, usually 2.");
        int? Number(string group) =>
            found.Groups[group] is { Success: true, Value: var text }
            && int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var n)
                ? n
                : null;
        if (Number("min") is not (>= 1 and <= SlotQuantity.Most and var min))
            return Read<SlotQuantity>.No(
                $"A quantity is 1 to {SlotQuantity.Most:N0}; where none may be picked, mark the slot as optional."
            );
        var max = found.Groups["max"].Success ? Number("max") ?? 0 : min;
        if (max < min || max > SlotQuantity.Most)
            return Read<SlotQuantity>.No("The most units are fewer than the least.");
        var usual = found.Groups["usual"].Success ? Number("usual") : null;
        if (usual < min || usual > max)
            return Read<SlotQuantity>.No($"The usual number lies between {min} and {max}.");
        return Read<SlotQuantity>.Of(new SlotQuantity(min, max, usual));
    }

    /// <summary>“one”, “1 to 2”, “2 or more”.</summary>
    public static string Of(PickLimits? picks) =>
        picks is not { } limits ? "one"
        : limits.Max is { } most ? (limits.Min == most ? $"{most}" : $"{limits.Min} to {most}")
        : $"{Math.Max(1, limits.Min)} or more";

    /// <summary>Reads how many different parts may be picked.</summary>
    public static Read<PickLimits?> ReadPicks(string typed)
    {
        var text = typed.Trim().ToLowerInvariant();
        if (text is "" or "one")
            return Read<PickLimits?>.Of(null);
        if (PicksShape().Match(text) is not { Success: true } found)
            return Read<PickLimits?>.No("Picks are written one, or 2, or 1 to 2, or 1 or more.");
        var min = int.Parse(found.Groups["min"].Value, CultureInfo.InvariantCulture);
        int? max =
            found.Groups["more"].Success ? null
            : found.Groups["max"].Success ? int.Parse(found.Groups["max"].Value, CultureInfo.InvariantCulture)
            : min;
        return max < min || max == 0
            ? Read<PickLimits?>.No("The most picks are fewer than the least.")
            : Read<PickLimits?>.Of(new PickLimits(min, max));
    }

    /// <summary>What the price of a slot's parts is: “18 %”, “3.00”, “= 20.00”, “included”, or nothing.</summary>
    public static string PriceOf(Slot slot) =>
        slot.Included ? "included"
        : slot.SetUnit is { } unit ? $"= {unit.ForPeople()}"
        : Of(slot.Reduce);

    /// <summary>“12 %” or “20.00”.</summary>
    public static string Of(PartReduction? reduce) =>
        reduce is null ? ""
        : reduce.Percent is { } percent ? $"{new Percentage(percent)} %"
        : reduce.Amount!.Value.ForPeople();

    /// <summary>Reads a reduction.</summary>
    public static Read<PartReduction?> ReadReduction(string typed, Currency currency)
    {
        var text = typed.Trim();
        if (text.Length == 0)
            return Read<PartReduction?>.Of(null);
        if (text.EndsWith('%'))
            return TypedNumbers.Percent(text[..^1]) is { Ok: true, Value: { Value: > 0 and <= 100 } percent }
                ? Read<PartReduction?>.Of(new PartReduction(percent.Value, null))
                : Read<PartReduction?>.No("A percentage is above 0 and at most 100, such as 12 %.");
        return TypedNumbers.Amount(text, currency) is { Ok: true, Value: { } amount }
            ? Read<PartReduction?>.Of(new PartReduction(null, amount))
            : Read<PartReduction?>.No("A reduction is written 12 % or 20.00.");
    }

    /// <summary>The slot with its price as it was written.</summary>
    public static Read<Slot> WithPrice(Slot slot, string typed, Currency currency)
    {
        var (bare, text) = (slot with { Included = false, SetUnit = null, Reduce = null }, typed.Trim());
        if (text.Equals("included", StringComparison.OrdinalIgnoreCase))
            return Read<Slot>.Of(bare with { Included = true });
        if (text.StartsWith('='))
            return TypedNumbers.Amount(text[1..], currency) is { Ok: true, Value: { } unit }
                ? Read<Slot>.Of(bare with { SetUnit = unit })
                : Read<Slot>.No("What a unit costs in the set is written = 20.00.");
        var reduce = ReadReduction(text, currency);
        return reduce.Ok
            ? Read<Slot>.Of(bare with { Reduce = reduce.Value })
            : Read<Slot>.No("The price of a part is less 18 % or 3.00, or = 20.00, or included; empty is its list price.");
    }

    /// <summary>A part as a line: <c>SUIT only size=m or size=l +4.00</c>.</summary>
    public static string Of(PartEntry entry)
    {
        var name = entry switch
        {
            PartEntry.OfProduct p => p.Code,
            PartEntry.OfSku s => s.Code,
            PartEntry.OfCategory c => $"category {c.Name}",
            PartEntry.OfTag t => $"tag {t.Name}",
            _ => throw new InvalidOperationException("A kind of part that has no words."),
        };
        var only = entry.Variants.IsEmpty
            ? ""
            : $" only {string.Join(" or ", entry.Variants.Select(v => string.Join(",", v.Pairs.Select(p => $"{p.Option}={p.Value}"))))}";
        return $"{name}{only}{(entry.Extra is { } extra ? $" +{extra.ForPeople()}" : "")}";
    }

    /// <summary>Reads lines of parts.</summary>
    /// <param name="find">The code of a product, or a SKU, for what was written: a code, a SKU or a name; null where there is none.</param>
    public static async Task<Read<ImmutableArray<PartEntry>>> ReadEntries(
        string typed,
        Currency currency,
        Func<string, Task<PartEntry?>> find
    )
    {
        var entries = ImmutableArray.CreateBuilder<PartEntry>();
        foreach (var line in TypedText.Lines(typed).Split('\n').Select(l => l.Trim()).Where(l => l.Length > 0))
        {
            var found = EntryShape().Match(line);
            var name = found.Groups["name"].Value.Trim();
            PartEntry? entry =
                Behind(name, "category ") is { } category ? new PartEntry.OfCategory(category)
                : Behind(name, "tag ") is { } tag ? new PartEntry.OfTag(tag)
                : await find(name);
            if (entry is null)
                return Read<ImmutableArray<PartEntry>>.No(
                    $"There is no product or SKU “{name}”. A line is a code, a SKU, a name, “category Tools” or “tag winter”."
                );
            if (found.Groups["only"] is { Success: true, Value: var only })
            {
                var variants = only.Split(" or ").Select(Values).ToList();
                if (variants.Contains(null) || entry is PartEntry.OfSku)
                    return Read<ImmutableArray<PartEntry>>.No(
                        $"{name} only … is written with option=value, as in “only size=m or size=l”."
                    );
                entry = entry with { Variants = [.. variants.OfType<Combination>()] };
            }
            if (found.Groups["extra"] is { Success: true, Value: var extra })
            {
                if (TypedNumbers.Amount(extra, currency) is not { Ok: true, Value: { } amount })
                    return Read<ImmutableArray<PartEntry>>.No($"“+{extra}” is no amount. Type it like +2.50.");
                entry = entry with { Extra = amount };
            }
            entries.Add(entry);
        }
        return entries.Count == 0
            ? Read<ImmutableArray<PartEntry>>.No("A slot has at least one part that may fill it.")
            : Read<ImmutableArray<PartEntry>>.Of(entries.ToImmutable());
    }

    private static string? Behind(string text, string word) =>
        text.StartsWith(word, StringComparison.OrdinalIgnoreCase) && text.Length > word.Length ? text[word.Length..].Trim() : null;

    private static Combination? Values(string text)
    {
        var pairs = new List<(Key, Key)>();
        foreach (var pair in text.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
            if (
                pair.Split('=') is [var option, var value]
                && Key.TryParse(option.Trim().ToLowerInvariant(), out var o)
                && Key.TryParse(value.Trim().ToLowerInvariant(), out var v)
            )
                pairs.Add((o, v));
            else
                return null;
        return pairs.Count == 0 ? null : Combination.Of(pairs);
    }

    [GeneratedRegex(@"^(?<min>\d{1,6})(\s*(to|–|-)\s*(?<max>\d{1,6}))?(\s*,?\s*usually\s+(?<usual>\d{1,6}))?$", RegexOptions.IgnoreCase)]
    private static partial Regex QuantityShape();

    [GeneratedRegex(@"^(?<min>\d{1,4})(\s*(to|–|-)\s*(?<max>\d{1,4})|\s+or\s+(?<more>more))?$")]
    private static partial Regex PicksShape();

    [GeneratedRegex(@"^(?<name>.+?)(\s+only\s+(?<only>.+?))?(\s*\+\s*(?<extra>[\d.,\s]+))?$")]
    private static partial Regex EntryShape();
}
