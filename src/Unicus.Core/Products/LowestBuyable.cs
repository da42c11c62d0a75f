namespace Unicus.Core.Products;

using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Answers;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>Finds the exact lowest price of a unit over what can be bought now: valid complete configurations whose variant and parts can
/// be sold.</summary>
/// <remarks>
/// The cheapest of all is looked at first; where it can be sold, it is the answer. Else variants are tried by rising list price, as long as
/// one may still be cheaper than what was found. Where a cheapest configuration takes parts that run short together, at least one of the
/// picks that bring them has to go: each is left out in turn.
/// </remarks>
/// <param name="configurator">Of the product.</param>
/// <param name="pricing">Knows what parts sell for.</param>
/// <param name="sells">Whether a unit of a variant can be sold together with these parts.</param>
/// <param name="prices">What rules make of a unit; null: nothing.</param>
internal sealed class LowestBuyable(
    Configurator configurator,
    AnswerPricing pricing,
    Func<MatrixVariant, IReadOnlyList<ValuePart>, bool> sells,
    UnitPrices? prices
)
{
    private readonly IReadOnlyList<PartPick> _picks = PartPicks(configurator);
    private long? _best;

    /// <summary>A state of a level that brings a part.</summary>
    private sealed record PartPick(int Level, int State, ValuePart Part);

    /// <summary>The lowest price in minor units; null where nothing that agrees can be bought.</summary>
    public long? Find(Configuration given)
    {
        var masks = configurator.Rules.Masks(given);
        if (
            configurator.Extremes.Find(given, masks, pricing) is not { } found
            || configurator.VariantOf(found.Cheapest) is not { } cheapest
        )
            return null;
        // The cheapest before the rules is the cheapest behind them only where they treat every variant alike.
        if (prices is null or { IsUniform: true })
        {
            if (sells(cheapest, PartsOf(found.Cheapest)))
                return PriceOf(cheapest, found.Lowest);
            if (sells(cheapest, []))
                Search(given, cheapest, masks);
        }
        var least = configurator.Extremes.LeastOf(given, pricing);
        foreach (var (variant, bound) in Candidates(given, least))
            if (_best <= bound)
                break;
            else
                Search(given, variant, masks);
        return _best;
    }

    /// <summary>The variants that can be sold by themselves, with a price that none of their configurations is cheaper than; the lowest
    /// first.</summary>
    private IEnumerable<(MatrixVariant Variant, long Bound)> Candidates(Configuration given, Func<long, long> least) =>
        configurator
            .Offered(given)
            .Where(v => v.Price.Figure is not null && sells(v, []))
            .Select(v => (Variant: v, Bound: PriceOf(v, least(MinorUnits.Of(v.Price.Figure!.Value)))))
            .OrderBy(v => v.Bound);

    private long PriceOf(MatrixVariant variant, long before) => prices?.Of(variant, before) ?? before;

    /// <summary>The lowest of one variant.</summary>
    private void Search(Configuration given, MatrixVariant variant, bool[][] masks)
    {
        var own = variant.Values.Pairs.Aggregate(given, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));
        var narrowed = configurator.Rules.Masks(own);
        // What was left out of the masks before stays left out.
        Narrow(own, variant, [.. narrowed.Select((m, level) => m.Select((b, s) => b && masks[level][s]).ToArray())]);
    }

    private void Narrow(Configuration own, MatrixVariant variant, bool[][] masks)
    {
        if (configurator.Extremes.Find(own, masks, pricing) is not { } found || _best <= PriceOf(variant, found.Lowest))
            return;
        var parts = PartsOf(found.Cheapest);
        if (sells(variant, parts))
        {
            _best = PriceOf(variant, found.Lowest);
            return;
        }
        // One SKU runs short: of the picks that bring it, at least one has to go.
        var taken = _picks.Where(p => found.Cheapest[p.Level] == p.State).ToLookup(p => p.Part.Sku);
        var runsShort = taken.FirstOrDefault(sku => !sells(variant, [.. sku.Select(p => p.Part)]));
        foreach (var pick in runsShort ?? taken.SelectMany(t => t))
        {
            var without = (bool[][])masks.Clone();
            without[pick.Level] = (bool[])masks[pick.Level].Clone();
            without[pick.Level][pick.State] = false;
            Narrow(own, variant, without);
        }
    }

    private List<ValuePart> PartsOf(int[] states) => [.. _picks.Where(p => states[p.Level] == p.State).Select(p => p.Part)];

    private static List<PartPick> PartPicks(Configurator configurator)
    {
        var picks = new List<PartPick>();
        foreach (var question in configurator.Questions.Where(q => q.Role == OptionRole.Extra))
            if (configurator.Rules.Network.PlaceOf(question.Key) is { Levels: > 0 } place)
                foreach (var (i, value) in question.Values.Index())
                    if (value.Part is { } part)
                        picks.Add(
                            place.IsSeveral ? new PartPick(place.First + i, RuleNetwork.On, part) : new PartPick(place.First, i, part)
                        );
        return picks;
    }
}
