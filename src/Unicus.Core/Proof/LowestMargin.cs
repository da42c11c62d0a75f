namespace Unicus.Core.Proof;

using Unicus.Core.Baskets;
using Unicus.Core.Money;
using Unicus.Core.Pricing;
using Unicus.Core.Products;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Variants;

/// <summary>Proves how low a margin rules for prices can push goods (domain.md, section 5): over all configurations, quantities, moments,
/// groups, coupons and pages, reductions of the basket included.</summary>
/// <remarks>
/// For one line alone the answer is exact (<see cref="MarginSearch"/>). Net of tax means by the highest rate of any destination. What
/// cannot be bought is not looked at: goods sold only as parts but through the pages that present them, quantities below the least or
/// above the most of an order. For baskets of several lines <see cref="BasketBound"/> gives a bound that is never optimistic.
/// </remarks>
/// <param name="terms">What prices go by, from which moment on; who buys is left aside.</param>
/// <param name="range">Where parts are looked up.</param>
/// <param name="pages">The codes of the published pages that present a product, its own left out; null: none do.</param>
public sealed class LowestMargin(RunTerms terms, PublishedRange range, Func<Edition, IReadOnlyCollection<string>>? pages = null)
{
    /// <summary>Quantities of a line are looked at up to here.</summary>
    public const int MostUnits = 1000;

    /// <summary>So many moments at which other rules are in force are looked at.</summary>
    private const int MostMoments = 200;

    private const int MostOfSet = 200;

    /// <summary>The lowest margin of a product; null where no variant has both a price and a cost, where it cannot be bought, and of a set
    /// where a cost of its parts is not known or rules act inside it.</summary>
    public ProvenMargin? Of(Edition edition)
    {
        if (edition.Product.IsGroup)
            return null;
        var presenting = pages?.Invoke(edition) ?? [];
        return edition.Product.Shelf.Alone || presenting.Count > 0 ? Of(edition, presenting) : null;
    }

    private ProvenMargin? Of(Edition edition, IReadOnlyCollection<string> presenting)
    {
        var all = MayRiseToLess([.. terms.Buying.Book.Reaching(edition)]);
        var proven = Of(edition, presenting, all);
        // Where the cheapest can be had for nothing, which has no margin, others may be worst of those that have one.
        return proven?.Free is not null && !all ? Of(edition, presenting, all: true) : proven;
    }

    /// <summary>Whether rules may make more expensive answers cheaper.</summary>
    private static bool MayRiseToLess(List<PriceRule> reaching)
    {
        // Where a basket has to reach an amount, such answers may bring it there.
        if (reaching.Exists(r => r.When.BasketAtLeast is not null && r.Effect is PriceEffect.ReduceBasket))
            return true;
        // A rule that stands alone keeps bands off, and may be the lowest for cheap answers only.
        return reaching.Exists(r => r.Combine == Combine.Alone && r.Effect.Stage == PriceStage.Unit)
            && reaching.Exists(r => r.Effect.Stage is PriceStage.Quantity or PriceStage.CheapestOff);
    }

    private ProvenMargin? Of(Edition edition, IReadOnlyCollection<string> presenting, bool all)
    {
        var goods = edition.Product.IsSet ? OfSet(edition, all) : OfGoods(edition, all);
        if (goods is not { Candidates.Count: > 0 })
            return null;
        var (moments, isWhole) = Moments(edition);
        List<MarginSearch> searches = [.. moments.Select(moment => new MarginSearch(edition, goods, moment, presenting))];
        SoldAt? lowest = null;
        foreach (var search in searches)
            lowest = search.Lowest(lowest);
        var free = searches.Select(s => s.Free).FirstOrDefault(s => s is not null);
        if (lowest is null && free is null)
            return null;
        var found = lowest is null ? new Checked(null, true, null) : Check(lowest);
        var isExact = isWhole && found.IsExact && goods.IsExact && searches.TrueForAll(s => s.IsExact);
        var bound = isExact ? found.Sold?.Margin : Lower(Lower(Least(searches.Select(s => s.Bound)), found.Sold?.Margin), found.Floor);
        return new ProvenMargin(found.Sold, isExact, bound, goods.Unknown)
        {
            Free = free,
            ByRules = Least(searches.Select(s => s.Baskets.Lowest)),
            AtFloor = Least(searches.Select(s => s.Baskets.AtFloor)),
            IsPooled = searches.Exists(s => s.Baskets.IsPooled),
        };
    }

    /// <summary>A basket that was found, held against how it is priced.</summary>
    /// <param name="Sold">As what it was sold; null: as nothing.</param>
    /// <param name="IsExact">Whether it can be bought just so, and comes to what was reckoned.</param>
    /// <param name="Floor">The margin of its floor, where another way to put the set together may be held just above it.</param>
    private sealed record Checked(SoldAt? Sold, bool IsExact, decimal? Floor);

    private Checked Check(SoldAt lowest)
    {
        if (lowest.Basket(terms, range)?.Lines is not [{ Cost: { } cost } line])
            return new Checked(lowest, false, null);
        var product = lowest.Goods.Edition.Product;
        // Of ways that come to the same, one that is held by its floor may stand there by less than a minor unit above it.
        var isHeld = product.IsSet && line.Run is { Of.Room: not null } run && run.RoomLeft + run.Share <= 0;
        var least = isHeld ? (product.Floor ?? terms.Trade.Floor)?.Value : null;
        var paid = line.Total + line.Reduction;
        var priced = lowest with { Paid = MinorUnits.Of(paid), Cost = MinorUnits.Of(cost), Margin = MarginOf(line) };
        return new Checked(priced, priced == lowest && !(priced.Margin > least), least);
    }

    /// <summary>The margin of what is paid for a line, net of the highest tax of any destination, in per cent; null where a cost of it is
    /// not known or nothing is paid.</summary>
    private decimal? MarginOf(PricedLine line)
    {
        if (line.Cost is not { } cost)
            return null;
        var trade = terms.Trade;
        var (paid, tax) = ((line.Total + line.Reduction).Amount, 0m);
        if (trade.PricesIncludeTax)
            tax = trade
                .Destinations.Select(d => Taxation.Of(line.Leaves.Select(l => new TaxableAmount(l.Allocated, l.TaxClass)), trade, d).Amount)
                .DefaultIfEmpty(0)
                .Max();
        return paid - tax <= 0 ? null : (paid - tax - cost.Amount) * 100 / (paid - tax);
    }

    private static decimal? Lower(decimal? bound, decimal? other) => bound is { } known ? Math.Min(known, other ?? known) : null;

    /// <summary>The least of some bounds; null where one of them is not known.</summary>
    private static decimal? Least(IEnumerable<decimal?> bounds)
    {
        var all = bounds.ToList();
        return all.Exists(b => b is null) ? null : all.Min();
    }

    /// <summary>Every moment from now on from which other rules reach a product than before, each set of rules once.</summary>
    private (List<RunTerms> Found, bool IsWhole) Moments(Edition edition)
    {
        var (buying, seen, found) = (terms.Buying, new HashSet<string>(), new List<RunTerms>());
        List<PriceRule> reaching = [.. buying.Book.Reaching(edition).Where(r => r.State == RuleState.On)];
        foreach (var at in MomentsOf(reaching, buying))
        {
            var then = terms with { Buying = buying with { At = at } };
            if (!seen.Add(string.Concat(reaching.Select(r => PriceBook.IsInForce(r, at, then.Buying.Day) ? '1' : '0'))))
                continue;
            if (found.Count == MostMoments)
                return (found, false);
            found.Add(then);
        }
        return (found, true);
    }

    /// <summary>Each change of dates, and the seven days behind it where weekdays tell rules apart.</summary>
    private static IEnumerable<DateTimeOffset> MomentsOf(List<PriceRule> reaching, RuleContext buying)
    {
        var dates = reaching.SelectMany(r => new[] { r.When.From, r.When.Until }).OfType<DateTimeOffset>();
        var byWeekday = reaching.Exists(r => !r.When.Weekdays.IsEmpty);
        foreach (var (from, until) in Stretches([.. dates.Where(d => d > buying.At).Distinct().Order().Prepend(buying.At)]))
        {
            yield return from;
            var day = TimeZoneInfo.ConvertTime(from, buying.Zone).Date;
            for (var i = 1; byWeekday && i <= 7; i++)
                if (PriceBook.StartOfDay(day.AddDays(i), buying.Zone) is var midnight && !(midnight >= until))
                    yield return midnight;
        }
    }

    private static IEnumerable<(DateTimeOffset From, DateTimeOffset? Until)> Stretches(DateTimeOffset[] starts) =>
        starts.Select((s, i) => (s, i + 1 < starts.Length ? starts[i + 1] : (DateTimeOffset?)null));

    private MarginGoods? OfSet(Edition set, bool all)
    {
        var worst = new WorstSets(terms.Trade, range, terms.Buying.Today, all);
        if (worst.Of(set) is not { Count: > 0 } ways)
            return null;
        var goods = new MarginGoods(set, terms, range, all);
        var margin = set.Product.Floor ?? terms.Trade.Floor;
        foreach (var variant in set.Matrix.Offered.Take(MostOfSet))
            foreach (var way in ways)
            {
                long? floor = margin is { } least ? (long)decimal.Ceiling(way.Gross / (100 - least.Value)) : null;
                goods.Add(variant, way.List, way.Cost, new Percentage(worst.HighestRate), floor, way);
            }
        goods.IsExact &= worst is { IsExact: true, HasOneRate: true } && set.Matrix.OfferedCount <= MostOfSet;
        return goods;
    }

    private MarginGoods OfGoods(Edition edition, bool all)
    {
        var goods = new MarginGoods(edition, terms, range, all);
        foreach (var variant in edition.Matrix.Offered.Where(v => v.Price.Figure is not null))
            if (variant.Cost.Figure is { } cost)
                goods.Add(
                    variant,
                    MinorUnits.Of(variant.Price.Figure!.Value),
                    MinorUnits.Of(cost),
                    goods.RateOf(variant),
                    EditionPrices.FloorOf(edition, variant, terms.Trade),
                    null
                );
            else
                goods.Unknown++;
        return goods;
    }
}
