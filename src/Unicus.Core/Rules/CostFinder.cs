namespace Unicus.Core;

/// <summary>Finds the exact lowest and highest cost over all valid complete configurations that agree with answers.</summary>
/// <remarks>
/// Percentages hang on the list price, so a cost is no sum over the levels. It is one where either the percentages are settled or the list price is. So configurations are looked at in slices:
/// by the sums of percentages that can still come about, or by list price, whichever are fewer. Where both are very many, list price and percentages go into one diagram together.
/// </remarks>
internal sealed class CostFinder
{
    /// <summary>So many list prices are looked at one by one at most.</summary>
    private const int MostPrices = 1024;

    private readonly RateSums _sums;
    private readonly Lazy<ListPriceSlice[]> _prices;
    private readonly Lazy<CostSpan> _whole;

    public CostFinder(CompiledRules rules, ConfigurationCost cost)
    {
        _sums = new RateSums(rules, cost);
        _prices = new Lazy<ListPriceSlice[]>(() => [.. cost.List.OfType<long>().Distinct().Select(list => new ListPriceSlice(rules, cost, list))]);
        _whole = new Lazy<CostSpan>(() => new CostSpan(rules, cost));
    }

    /// <inheritdoc cref="ICostSlice.Find"/>
    /// <exception cref="DiagramTooLargeException">The prices are too interwoven.</exception>
    public CostExtremes? Find(bool[][] masks, IReadOnlyList<long[]?> amounts)
    {
        var sums = _sums.Open(masks);
        if (sums is [var one]) return _sums.Span(one).Find(masks, amounts);
        if (sums is not null && sums.Count <= _prices.Value.Length) return Over([.. sums.Select(_sums.Span)], masks, amounts);
        return _prices.Value.Length <= MostPrices ? Over(_prices.Value, masks, amounts) : _whole.Value.Find(masks, amounts);
    }

    /// <summary>The most promising slices first; what can be neither lower nor higher than what was found is left out.</summary>
    private static CostExtremes? Over(ICostSlice[] slices, bool[][] masks, IReadOnlyList<long[]?> amounts)
    {
        var bounded = slices.Select(s => (Slice: s, Bounds: s.Bounds(masks, amounts))).Where(s => s.Bounds is not null).Select(s => (s.Slice, s.Bounds!.Value.Lowest, s.Bounds.Value.Highest)).ToList();
        CostExtremes? best = null;
        var seen = new HashSet<ICostSlice>();
        void Look(ICostSlice slice)
        {
            if (!seen.Add(slice) || slice.Find(masks, amounts) is not { } found) return;
            best = best is not { } so ? found : new CostExtremes(Math.Min(so.Lowest, found.Lowest), Math.Max(so.Highest, found.Highest), found.Lowest < so.Lowest ? found.Cheapest : so.Cheapest);
        }
        foreach (var (slice, lowest, _) in bounded.OrderBy(b => b.Lowest))
        {
            if (best?.Lowest <= lowest) break;
            Look(slice);
        }
        foreach (var (slice, _, highest) in bounded.OrderByDescending(b => b.Highest))
        {
            if (best?.Highest >= highest) break;
            Look(slice);
        }
        return best;
    }
}

/// <summary>The variants with one list price: with it settled, a percentage is an amount like any other.</summary>
internal sealed class ListPriceSlice : ICostSlice
{
    private readonly Lazy<CostSpan> _span;
    private readonly long _list;

    /// <summary>For each level what the percentage of each state comes to; null where it has none.</summary>
    private readonly long[]?[] _shares;

    /// <summary>The amounts last asked about, with the shares added.</summary>
    private Known? _known;

    private sealed record Known(IReadOnlyList<long[]?> Amounts, long[]?[] Together);

    public ListPriceSlice(CompiledRules rules, ConfigurationCost cost, long list)
    {
        _list = list + cost.Always.Sum(r => ConfigurationCost.Share(list, r));
        _shares = [.. cost.Percent.Select(level => level?.Select(r => ConfigurationCost.Share(list, r)).ToArray())];
        _span = new Lazy<CostSpan>(() => new CostSpan(rules, cost with { Percent = new Percentage[]?[cost.Percent.Length] }, only: list));
    }

    /// <inheritdoc/>
    /// <remarks>The least and the most that each level can add, whatever the rules say.</remarks>
    public (long Lowest, long Highest)? Bounds(bool[][] masks, IReadOnlyList<long[]?> amounts)
    {
        var (lowest, highest) = (_list, _list);
        foreach (var (level, adds) in Together(amounts).Index())
        {
            if (adds is null) continue;
            var (least, most) = (long.MaxValue, long.MinValue);
            for (var state = 0; state < adds.Length; state++)
                if (masks[level][state]) (least, most) = (Math.Min(least, adds[state]), Math.Max(most, adds[state]));
            if (least > most) return null;
            (lowest, highest) = (lowest + least, highest + most);
        }
        return (lowest, highest);
    }

    /// <inheritdoc/>
    public CostExtremes? Find(bool[][] masks, IReadOnlyList<long[]?> amounts) => _span.Value.Find(masks, Together(amounts));

    private long[]?[] Together(IReadOnlyList<long[]?> amounts)
    {
        if (_known is { } known && ReferenceEquals(known.Amounts, amounts)) return known.Together;
        var together = _shares.Select((share, level) => share is null ? amounts[level] : amounts[level] is { } more ? [.. share.Zip(more, (a, b) => a + b)] : share).ToArray();
        _known = new Known(amounts, together);
        return together;
    }
}
