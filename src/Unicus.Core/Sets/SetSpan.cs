using System.Collections.Immutable;

namespace Unicus.Core;

/// <summary>The ends of the prices of a set.</summary>
/// <param name="Lowest">Of one unit after stage 3 with its floor, in minor units.</param>
/// <param name="IsExact">Whether some configuration has each end; otherwise they are bounds, or not everything was looked at.</param>
internal sealed record SetEnds(long Lowest, long Highest, bool IsExact);

/// <summary>The lowest and highest price of a set over everything that is still open: its own questions, the picks of its slots, and
/// the variants, answers and quantities of its parts.</summary>
/// <remarks>
/// Questions that rules tie together, or that add to the price, are gone through one configuration after the other, each valid as the
/// diagram says; slots that no rule names are independent, so each takes its own cheapest or dearest pick. A unit's price after stage 3
/// never falls when the list price rises.
/// </remarks>
internal sealed class SetSpan(Edition edition, StandingTerms terms)
{
    private readonly SlotOptions _options = new(edition, terms);
    private readonly SetPricing _pricing = new(terms.Run, terms.Range);
    private readonly EditionPrices? _prices = terms.PricesOf(edition);
    private bool _isWhole = true;

    private Configurator Configurator => edition.Configurator;

    /// <summary>The price with these answers and its ends; null where nothing valid has one.</summary>
    public ConfiguredPrice? Price(Standing standing)
    {
        if (!standing.Reply.Valid || Ends(standing.Answers, standing.Parts) is not { } ends)
            return null;
        var asked = Configurator.Filled(standing.Answers, restNone: false, today: null, selfAnswering: false, standing.Reply);
        (MatrixVariant Variant, PriceWorking Working)? cheapest = null;
        foreach (var variant in Configurator.Offered(asked).Take(OpenConfigurations.MostLooked))
        {
            var answers = variant.Values.Pairs.Aggregate(asked, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));
            if (answers != standing.Answers && !Configurator.Rules.IsValid(answers))
                continue;
            var shown = Configurator.Shown(answers);
            var assembled = AssembledSet.Of(edition, shown, standing.Parts, Filling.Beforehand, terms, new EnteredSets(edition.ProductId));
            var line = new RunLine(
                new VariantOnSale(edition, variant),
                shown,
                terms.Quantity,
                [],
                terms.Through ?? edition.Product.Code.Text
            )
            {
                Assembled = assembled,
            };
            if (
                PriceRun.Working(line, terms.Run, terms.Range) is { } working
                && (cheapest is null || working.Unit < cheapest.Value.Working.Unit)
            )
                cheapest = (variant, working);
        }
        if (cheapest is not { } found)
            return null;
        var currency = terms.Run.Trade.Currency;
        return new ConfiguredPrice(
            found.Working,
            found.Variant,
            MinorUnits.ToMoney(ends.Lowest, currency),
            MinorUnits.ToMoney(ends.Highest, currency)
        )
        {
            IsExact = ends.IsExact,
        };
    }

    /// <summary>The ends over all valid configurations that agree; null where there is none.</summary>
    public SetEnds? Ends(Configuration given, PartAnswers said)
    {
        SetEnds? ends = null;
        foreach (var (variant, shown) in Configurations(given))
        {
            if (_options.Ends(shown, said) is not { } parts)
                continue;
            var (low, high) = (UnitOf(variant, shown, parts.Low, parts.FloorLow), UnitOf(variant, shown, parts.High, parts.FloorHigh));
            ends = ends is null
                ? new SetEnds(low, high, parts.IsExact)
                : new SetEnds(Math.Min(ends.Lowest, low), Math.Max(ends.Highest, high), ends.IsExact && parts.IsExact);
        }
        // Without a rule nothing hangs on the floor, so each end is some configuration's price.
        return ends is null ? null : ends with { IsExact = _isWhole && (ends.IsExact || _prices is null) };
    }

    /// <summary>The lowest price over what can be bought now; null where nothing can.</summary>
    public Money? From(Configuration given)
    {
        long? lowest = null;
        foreach (var (variant, shown) in Configurations(given))
            if (_options.Cheapest(new VariantOnSale(edition, variant), shown, terms.Stock) is { } parts)
            {
                var unit = UnitOf(variant, shown, parts.Low, parts.FloorLow);
                lowest = Math.Min(lowest ?? unit, unit);
            }
        return lowest is { } found ? MinorUnits.ToMoney(found, terms.Run.Trade.Currency) : null;
    }

    private long UnitOf(MatrixVariant variant, Configuration shown, long sum, decimal? floorCost)
    {
        var set = edition.Product.Parts!;
        var list = set.Price switch
        {
            SetPrice.Fixed f => Math.Max(0, MinorUnits.Of(f.Amount) + sum),
            SetPrice.Sum { Reduce: { } reduce } => reduce.Remains(sum),
            _ => sum,
        };
        var money = MinorUnits.ToMoney(list, terms.Run.Trade.Currency);
        // Only extras add something; slots do by their parts.
        var answers = edition.Product.Extras.IsEmpty
            ? 0
            : new AnswerPricing(edition.Questions, terms.Range.Figures)
                .Amounts(shown, money)
                .Where(a => !a.PerLine)
                .Sum(a => MinorUnits.Of(a.Amount));
        long? floor =
            (edition.Product.Floor ?? terms.Run.Trade.Floor) is { } margin && floorCost is { } cost
                ? (long)decimal.Ceiling(cost / (100 - margin.Value))
                : null;
        return _prices?.Of(variant, list, answers, floor) ?? list + answers;
    }

    /// <summary>The valid configurations of what is tied together or adds to the price, slots that no rule names left open.</summary>
    private IEnumerable<(MatrixVariant Variant, Configuration Shown)> Configurations(Configuration given)
    {
        var open = new OpenConfigurations(edition, q => !q.IsSlot && q.Values.Any(v => v.Surcharge is not null || v.Part is not null));
        foreach (var one in open.Of(given))
            yield return one;
        _isWhole &= open.IsWhole;
    }
}
