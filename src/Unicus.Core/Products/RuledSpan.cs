namespace Unicus.Core.Products;

using Unicus.Core.Money;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Answers;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>Finds the exact lowest and highest price of a unit where rules treat variants differently.</summary>
/// <remarks>Variants are looked at one by one, the most promising first, as long as one may still lie outside of what was
/// found.</remarks>
internal sealed class RuledSpan(Configurator configurator, AnswerPricing pricing, UnitPrices prices)
{
    /// <summary>The ends in minor units; null where nothing agrees.</summary>
    /// <param name="given">The answers as they came.</param>
    /// <param name="masks">The states that agree with the answers.</param>
    public (long Lowest, long Highest)? Find(Configuration given, bool[][] masks)
    {
        var variants = configurator.Offered(given).Where(v => v.Price.Figure is not null).ToList();
        var lowest = End(given, masks, variants, configurator.Extremes.LeastOf(given, pricing), 1, e => e.Lowest);
        var highest = End(given, masks, variants, configurator.Extremes.MostOf(given, pricing), -1, e => e.Highest);
        return lowest is { } l && highest is { } h ? (l, h) : null;
    }

    private long? End(
        Configuration given,
        bool[][] masks,
        IReadOnlyList<MatrixVariant> variants,
        Func<long, long> bound,
        int way,
        Func<CostExtremes, long> end
    )
    {
        long? found = null;
        var promising = variants
            .Select(v => (Variant: v, Bound: way * prices.Of(v, bound(MinorUnits.Of(v.Price.Figure!.Value)))))
            .OrderBy(v => v.Bound);
        foreach (var (variant, least) in promising)
        {
            if (found <= least)
                break;
            var own = variant.Values.Pairs.Aggregate(given, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));
            if (configurator.Extremes.Find(own, Both(configurator.Rules.Masks(own), masks), pricing) is not { } extremes)
                continue;
            var price = way * prices.Of(variant, end(extremes));
            found = found is { } best ? Math.Min(best, price) : price;
        }
        return way * found;
    }

    /// <summary>The states that both allow.</summary>
    private static bool[][] Both(bool[][] one, bool[][] other)
    {
        var both = new bool[one.Length][];
        for (var level = 0; level < both.Length; level++)
        {
            both[level] = one[level];
            if (ReferenceEquals(one[level], other[level]))
                continue;
            both[level] = new bool[one[level].Length];
            for (var state = 0; state < both[level].Length; state++)
                both[level][state] = one[level][state] && other[level][state];
        }
        return both;
    }
}
