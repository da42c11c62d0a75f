namespace Unicus.Core.Pricing.Answers;

using Unicus.Core.Money;
using Unicus.Core.Rules;

/// <summary>The price spans for each sum of percentages of the list price that answers can come to.</summary>
/// <remarks>With the percentages settled the price is a matter of the variant alone. A sum is named by one number: for each level that has
/// percentages the place of the one that counts, in mixed radix.</remarks>
internal sealed class RateSums
{
    private const int MostSums = 32;

    private readonly CompiledRules _rules;
    private readonly ConfigurationCost _cost;
    private readonly int[] _levels;
    private readonly Percentage[][] _rates;

    /// <summary>For each of the levels and each of its states the place of its percentage.</summary>
    private readonly int[][] _places;

    private readonly KeptAnswers<long, CostSpan> _spans = new(span => span.Bytes);

    public RateSums(CompiledRules rules, ConfigurationCost cost)
    {
        (_rules, _cost) = (rules, cost);
        _levels = [.. cost.Percent.Index().Where(l => l.Item is not null).Select(l => l.Index)];
        _rates = [.. _levels.Select(l => cost.Percent[l]!.Distinct().ToArray())];
        _places = [.. _levels.Select((l, i) => cost.Percent[l]!.Select(r => Array.IndexOf(_rates[i], r)).ToArray())];
    }

    /// <summary>Whether all the sums that any answers can come to are so few that the span of each can be kept.</summary>
    public bool IsFew => _rates.Aggregate(1m, (sums, rates) => Math.Min(sums * rates.Length, 2 * MostSums)) <= 2 * MostSums - 1;

    /// <summary>The sums that the states left open can come to; null where they are too many to look at each.</summary>
    public IReadOnlyList<long>? Open(bool[][] masks)
    {
        List<long> sums = [0];
        for (var (i, radix) = (0, 1L); i < _levels.Length; i++)
        {
            var (mask, places, width) = (masks[_levels[i]], _places[i], _rates[i].Length);
            if (radix > long.MaxValue / width)
                return null;
            radix *= width;
            var open = new bool[width];
            for (var state = 0; state < mask.Length; state++)
                open[places[state]] |= mask[state];
            var next = new List<long>(sums.Count);
            foreach (var sum in sums)
                for (var place = 0; place < width; place++)
                    if (open[place])
                        next.Add(sum * width + place);
            if (next.Count > MostSums)
                return null;
            sums = next;
        }
        return sums;
    }

    /// <summary>The extremes over the configurations whose answers come to one of these sums.</summary>
    public CostExtremes? Find(IReadOnlyList<long> sums, bool[][] masks, IReadOnlyList<long[]?> amounts)
    {
        var spans = sums.Select(Span).Select(s => (Span: s, Bounds: s.Bounds(amounts))).Where(s => s.Bounds is not null).ToArray();
        return CostParts.Over([.. spans.Select(s => s.Bounds!.Value)], i => spans[i].Span.Find(masks, amounts));
    }

    /// <summary>The span over the configurations whose answers come to this sum.</summary>
    public CostSpan Span(long sum) => _spans.GetOrMake(sum, Make);

    private CostSpan Make(long sum)
    {
        var wanted = new Dictionary<int, Percentage>();
        for (var i = _levels.Length - 1; i >= 0; i--, sum /= _rates[i + 1].Length)
            wanted[_levels[i]] = _rates[i][sum % _rates[i].Length];
        var cost = _cost with
        {
            Percent = new Percentage[]?[_cost.Percent.Length],
            Always = [.. _cost.Always.Concat(_levels.Select(l => wanted[l])).Where(r => r.Value != 0)],
        };
        return new CostSpan(_rules, cost, (level, state) =>
            !wanted.TryGetValue(level, out var rate) || _cost.Percent[level]![state] == rate
        );
    }
}
