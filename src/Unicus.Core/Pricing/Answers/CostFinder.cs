namespace Unicus.Core.Pricing.Answers;

using Unicus.Core.Rules;

/// <summary>Finds the exact lowest and highest cost over all valid complete configurations that agree with answers.</summary>
/// <remarks>
/// Percentages hang on the list price, so a cost is no sum over the levels. It is one where either the percentages are settled or the list
/// price is. So configurations are looked at in slices: by the sums of percentages that can still come about, or by list price, whichever
/// are fewer. Where both are very many, list price and percentages go into one diagram together.
/// </remarks>
internal sealed class CostFinder
{
    /// <summary>So many list prices are looked at by themselves at most.</summary>
    private const int MostPrices = 4096;

    /// <summary>About how much memory one takes besides what its sums keep, in bytes.</summary>
    public const long Bytes = 4 * 1024 * 1024;

    /// <summary>With more combinations than these, a span takes longer to make than an answer may.</summary>
    private const int Large = 10_000;

    private readonly bool _isLarge;
    private readonly RateSums _sums;
    private readonly Lazy<ListPrices> _prices;
    private readonly Lazy<CostSpan> _whole;

    public CostFinder(CompiledRules rules, ConfigurationCost cost)
    {
        _isLarge = cost.List.Length > Large;
        _sums = new RateSums(rules, cost);
        _prices = new Lazy<ListPrices>(() => new ListPrices(rules, cost));
        _whole = new Lazy<CostSpan>(() => new CostSpan(rules, cost));
    }

    /// <summary>The extremes over the configurations whose states the masks allow.</summary>
    /// <param name="masks">By level, which answers agree.</param>
    /// <param name="amounts">For each level, what each state adds besides; null where it adds nothing.</param>
    /// <returns>Null where nothing agrees.</returns>
    /// <exception cref="DiagramTooLargeException">The prices are too interwoven.</exception>
    public CostExtremes? Find(bool[][] masks, IReadOnlyList<long[]?> amounts)
    {
        // Spans by sums are worth making where each is asked for again, or made at once; else which sums are asked for is up to whoever
        // answers.
        if (_isLarge && !_sums.IsFew && _prices.Value.Count <= MostPrices)
            return _prices.Value.Find(masks, amounts);
        var sums = _sums.Open(masks);
        if (sums is [var one])
            return _sums.Span(one).Find(masks, amounts);
        if (sums is not null && sums.Count <= _prices.Value.Count)
            return _sums.Find(sums, masks, amounts);
        return _prices.Value.Count <= MostPrices ? _prices.Value.Find(masks, amounts) : _whole.Value.Find(masks, amounts);
    }

    /// <summary>Makes sure that <see cref="Find"/> can answer, whatever is answered.</summary>
    /// <param name="open">Every state of every level.</param>
    /// <exception cref="DiagramTooLargeException">The prices are too interwoven.</exception>
    public void Prepare(bool[][] open)
    {
        if (_sums.Open(open) is null && _prices.Value.Count > MostPrices)
            _ = _whole.Value;
    }
}
