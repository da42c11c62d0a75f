namespace Unicus.Core.Pricing.Answers;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Rules;

/// <summary>The configurations by the list price of their variant. With the list price settled a percentage is an amount like any
/// other.</summary>
/// <remarks>
/// What the lowest of all list prices would make of the answers, whichever variants have it, bounds what any other list price L can come
/// to: from L to a higher L′ a cost rises by at least (L′ − L)·(1 + n), where n is the sum of the most negative percentage of each level,
/// less a minor unit of rounding for each of these. So it is with the highest, downwards.
/// </remarks>
internal sealed class ListPrices
{
    private readonly Slice[] _slices;

    /// <summary>The rules alone, whatever the variants cost.</summary>
    private readonly Lazy<CostSpan> _rulesOnly;

    private readonly decimal _slope;
    private readonly int _negatives;

    public ListPrices(CompiledRules rules, ConfigurationCost cost)
    {
        var settled = cost with { Percent = new Percentage[]?[cost.Percent.Length] };
        _slices = [.. cost.List.OfType<long>().Distinct().Order().Select(list => new Slice(rules, cost, settled, list))];
        _rulesOnly = new Lazy<CostSpan>(() =>
            new CostSpan(rules, settled with { List = [.. cost.List.Select(l => l is null ? l : 0)], Always = [] })
        );
        var negative = cost
            .Percent.OfType<Percentage[]>()
            .Select(level => level.Min(r => r.Value))
            .Concat(cost.Always.Select(r => r.Value))
            .Where(r => r < 0)
            .ToImmutableArray();
        (_slope, _negatives) = (1 + (negative.Sum() / 100m), negative.Length);
    }

    /// <summary>How many different list prices there are.</summary>
    public int Count => _slices.Length;

    /// <inheritdoc cref="CostFinder.Find"/>
    public CostExtremes? Find(bool[][] masks, IReadOnlyList<long[]?> amounts)
    {
        if (_slices.Length == 0)
            return null;
        var (cheap, dear) = (_slices[0], _slices[^1]);
        if (_slices.Length == 1)
            return cheap.Find(masks, amounts);
        if (
            _rulesOnly.Value.Find(masks, cheap.Together(amounts)) is not { } low
            || _rulesOnly.Value.Find(masks, dear.Together(amounts)) is not { } high
        )
            return null;
        var bounds = new (long, long)[_slices.Length];
        for (var i = 0; i < bounds.Length; i++)
            bounds[i] = (low.Lowest + cheap.Start + Rise(cheap, _slices[i]), high.Highest + dear.Start - Rise(_slices[i], dear));
        return CostParts.Over(bounds, i => _slices[i].Find(masks, amounts));
    }

    /// <summary>By how much a cost rises at least from one list price to a higher one.</summary>
    private long Rise(Slice from, Slice to) => from == to ? 0 : (long)Math.Floor((to.List - from.List) * _slope) - _negatives;

    /// <summary>The variants with one list price.</summary>
    private sealed class Slice(CompiledRules rules, ConfigurationCost cost, ConfigurationCost settled, long list)
    {
        private readonly Lazy<CostSpan> _span = new(() => new CostSpan(rules, settled, only: list));

        /// <summary>For each level what the percentage of each state comes to; null where it has none.</summary>
        private readonly long[]?[] _shares =
        [
            .. cost.Percent.Select(level => level?.Select(r => ConfigurationCost.Share(list, r)).ToArray()),
        ];

        private LevelAmounts? _known;

        private sealed record LevelAmounts(IReadOnlyList<long[]?> Amounts, long[]?[] Together);

        public long List => list;

        /// <summary>The list price with what always adds a percentage.</summary>
        public long Start { get; } = list + cost.Always.Sum(r => ConfigurationCost.Share(list, r));

        public CostExtremes? Find(bool[][] masks, IReadOnlyList<long[]?> amounts) => _span.Value.Find(masks, Together(amounts));

        /// <summary>What each state of each level adds at this list price.</summary>
        public long[]?[] Together(IReadOnlyList<long[]?> amounts)
        {
            if (_known is { } known && ReferenceEquals(known.Amounts, amounts))
                return known.Together;
            var together = _shares
                .Select(
                    (share, level) =>
                        share is null ? amounts[level]
                        : amounts[level] is { } more ? [.. share.Zip(more, (a, b) => a + b)]
                        : share
                )
                .ToArray();
            _known = new LevelAmounts(amounts, together);
            return together;
        }
    }
}
