namespace Unicus.Core.Assembling;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Parts;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Answers;
using Unicus.Core.Products;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>The ends of the prices of a set.</summary>
/// <param name="Lowest">Of one unit after stage 3 with its floor, in minor units.</param>
/// <param name="Highest">The most that it can come to.</param>
/// <param name="IsExact">Whether some configuration has each end; otherwise they are bounds, or not everything was looked at.</param>
internal sealed record SetEnds(long Lowest, long Highest, bool IsExact);

/// <summary>One unit of a set with picks, rules left aside.</summary>
/// <param name="List">Its list price, in minor units.</param>
/// <param name="Answers">What its own answers add.</param>
/// <param name="Gross">As in <see cref="FrontPoint"/>; what its own answers cost is no part of it.</param>
internal readonly record struct SetUnit(long List, long Answers, decimal? Gross);

/// <summary>The units of a set that no other picks beat in price and floor together, at both ends.</summary>
internal sealed record SetUnits(List<SetUnit> Low, List<SetUnit> High, bool IsExact);

/// <summary>The lowest and highest price of a set over everything that is still open: its own questions, the picks of its slots, and
/// the variants, answers and quantities of its parts.</summary>
/// <remarks>
/// Questions that rules tie together, or that add to the price, are gone through one configuration after the other, each valid as the
/// diagram says; slots that no rule names are independent. A unit's price after stage 3 never falls when its list price or its floor
/// rises, so the ends come from the picks that no other pick beats in both (<see cref="PriceFront"/>).
/// </remarks>
/// <param name="edition">The product.</param>
/// <param name="terms">By what it is reckoned.</param>
/// <param name="isHeld">Whether a floor may hold the price of what it stands in.</param>
/// <param name="taxClass">The class of the set that it stands in, which names one for all of it; null: its own parts'.</param>
internal sealed class SetSpan(Edition edition, ConfigurationTerms terms, bool isHeld = false, string? taxClass = null)
{
    private readonly EditionPrices? _prices = terms.PricesOf(edition);
    private readonly bool _isHeld =
        isHeld || (terms.PricesOf(edition) is not null && (edition.Product.Floor ?? terms.Run.Trade.Floor) is not null);
    private SlotOptions? _options;
    private bool _isWhole = true;

    /// <summary>Whether typed questions of parts that are open count at the answers that add the least.</summary>
    public bool FillsTyped { get; init; }

    private SlotOptions Options => _options ??= new(edition, terms, _isHeld, taxClass) { FillsTyped = FillsTyped };

    private Configurator Configurator => edition.Configurator;

    /// <summary>The price with these answers and its ends; null where nothing valid has one.</summary>
    public ConfiguredPrice? Price(ConfigurationStatus status)
    {
        if (!status.Reply.Valid || Ends(status.Answers, status.Parts) is not { } ends)
            return null;
        var asked = Configurator.Filled(status.Answers, restNone: false, today: null, selfAnswering: false, status.Reply);
        (MatrixVariant Variant, PriceWorking Working)? cheapest = null;
        foreach (var variant in Configurator.Offered(asked).Take(OpenConfigurations.MostLooked))
        {
            var answers = variant.Values.Pairs.Aggregate(asked, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));
            if (answers != status.Answers && !Configurator.Rules.IsValid(answers))
                continue;
            var shown = Configurator.Shown(answers);
            var assembled = AssembledSet.Of(edition, shown, status.Parts, Filling.Beforehand, terms, new EnteredSets(edition.ProductId));
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
                LineWorking.Of(line, terms.Run, terms.Range) is { } working
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
            if (Options.Ends(shown, said) is not { } parts)
                continue;
            var low = parts.Low.Points.Min(p => PriceOf(variant, shown, p));
            var high = parts.High.Points.Max(p => PriceOf(variant, shown, p));
            var isExact = parts.Low.IsExact && parts.High.IsExact;
            ends = ends is null
                ? new SetEnds(low, high, isExact)
                : new SetEnds(Math.Min(ends.Lowest, low), Math.Max(ends.Highest, high), ends.IsExact && isExact);
        }
        // Without a rule nothing hangs on the floor, so each end is some configuration's price.
        return ends is null ? null : ends with { IsExact = _isWhole && (ends.IsExact || _prices is null) };
    }

    /// <summary>The lowest price over what can be bought now; null where nothing can.</summary>
    public Money? From(Configuration given)
    {
        long? lowest = null;
        var options = new SlotOptions(edition, terms, _isHeld, taxClass) { FillsTyped = true };
        foreach (var (variant, shown) in Configurator.WithTyped(given, terms.Stock.Today).SelectMany(Configurations))
            if (options.Cheapest(new VariantOnSale(edition, variant), shown, terms.Stock, p => PriceOf(variant, shown, p)) is { } unit)
                lowest = Math.Min(lowest ?? unit, unit);
        return lowest is { } found ? MinorUnits.ToMoney(found, terms.Run.Trade.Currency) : null;
    }

    /// <summary>One unit as it stands in another set, over all valid configurations that agree; null where there is none.</summary>
    public SetUnits? Units(Configuration given, PartAnswers said)
    {
        var (low, high, isExact) = (new List<SetUnit>(), new List<SetUnit>(), true);
        var ways = FillsTyped ? Configurator.WithTyped(given, terms.Stock.Today) : [given];
        foreach (var (variant, shown) in ways.SelectMany(Configurations))
        {
            if (Options.Ends(shown, said) is not { } parts)
                continue;
            isExact &= parts.Low.IsExact && parts.High.IsExact;
            low.AddRange(parts.Low.Points.Select(p => UnitOf(shown, p)));
            high.AddRange(parts.High.Points.Select(p => UnitOf(shown, p)));
        }
        return low.Count == 0 ? null : new SetUnits(low, high, isExact && _isWhole);
    }

    private SetUnit UnitOf(Configuration shown, FrontPoint parts)
    {
        var set = edition.Product.Parts!;
        var list = set.Price switch
        {
            SetPrice.Fixed f => Math.Max(0, MinorUnits.Of(f.Amount) + parts.Sum),
            SetPrice.Sum { Reduce: { } reduce } => reduce.Remains(parts.Sum),
            _ => parts.Sum,
        };
        // Only extras add something; slots do by their parts.
        var answers = edition.Product.Extras.IsEmpty
            ? 0
            : new AnswerPricing(edition.Questions, terms.Range.Figures)
                .Amounts(shown, MinorUnits.ToMoney(list, terms.Run.Trade.Currency))
                .Where(a => !a.PerLine)
                .Sum(a => MinorUnits.Of(a.Amount));
        return new SetUnit(list, answers, parts.Gross);
    }

    private long PriceOf(MatrixVariant variant, Configuration shown, FrontPoint parts)
    {
        var unit = UnitOf(shown, parts);
        if (_prices is null)
            return unit.List + unit.Answers;
        long? floor =
            (edition.Product.Floor ?? terms.Run.Trade.Floor) is { } margin && unit.Gross is { } gross
                ? (long)decimal.Ceiling(gross / (100 - margin.Value))
                : null;
        return _prices.Of(variant, unit.List, unit.Answers, floor);
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
