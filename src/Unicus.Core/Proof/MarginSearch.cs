namespace Unicus.Core.Proof;

using System.Collections.Immutable;
using System.Numerics;
using Unicus.Core.Assembling;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Stages;
using Unicus.Core.Products;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Rules;

/// <summary>The search for the lowest margin of one line of a product, under the rules that are in force at one moment.</summary>
/// <remarks>
/// Of the answers only those are looked at that no others beat (<see cref="WorstAnswers"/>). Between two quantities at which a rule
/// begins to act or a band starts, what a line is brought to by the unit is, over the reciprocal of the quantity, the higher of something
/// that bends down only (the lowest of several straight lines, less reductions of the basket) and of what the floor leaves, a straight
/// line. Each is lowest at an end of a stretch, so the higher of the two lows bounds the whole stretch; it is halved as long as something
/// lower may be inside. A condition on the basket's amount that holds at the end of a stretch is taken to hold on all of it.
/// </remarks>
internal sealed class MarginSearch
{
    /// <summary>Of more coupons than these not every mix is looked at.</summary>
    private const int MostCoupons = 5;

    private readonly Edition _edition;
    private readonly MarginGoods _goods;
    private readonly RunTerms _terms;
    private readonly EditionRules _rules;
    private readonly SortedSet<int> _quantities;
    private readonly int _period;
    private readonly List<Ranked> _ranked = [];

    /// <summary>What rounding of units may move besides, where a unit's price is a share of its line's.</summary>
    private readonly decimal _unitRounding;

    private SoldAt? _lowest;

    /// <summary>A candidate bought by somebody.</summary>
    /// <param name="Of">What it is of.</param>
    /// <param name="By">Who did it.</param>
    /// <param name="Bound">No quantity for which something is paid has a lower margin.</param>
    private sealed record Ranked(MarginCandidate Of, BuyingWith By, decimal Bound);

    /// <summary>What a line comes to by rules, no floor in the way.</summary>
    /// <param name="Goods">After stage 5, in minor units.</param>
    /// <param name="Basket">The rules of the basket that act.</param>
    private readonly record struct Pushed(long Goods, IReadOnlyList<RuleUse> Basket);

    /// <param name="edition">The product.</param>
    /// <param name="goods">What it is about.</param>
    /// <param name="terms">With the moment.</param>
    /// <param name="pages">The codes of the published pages that present the product, its own left out.</param>
    public MarginSearch(Edition edition, MarginGoods goods, RunTerms terms, IReadOnlyCollection<string> pages)
    {
        (_edition, _goods, _terms) = (edition, goods, terms);
        _rules = terms.Buying.Book.At(terms.Buying.At, terms.Buying.Day).Of(edition, terms.Buying.At, terms.Buying.Day);
        _quantities = [.. Quantities()];
        _period = Period();
        _unitRounding = _rules.ByStage[PriceStage.CheapestOff].Length > 0 ? 1.5m : 0;
        Baskets = new BasketBound(_rules);
        var buyers = Buyers(pages).ToList();
        var all = goods.Candidates.SelectMany(c => buyers.Select(b => (Of: c, By: b)));
        var bounded = all.AsParallel().AsOrdered().Select(x => (x.Of, x.By, Bound: BoundOf(x.Of, x.By))).ToList();
        foreach (var (of, by, (bound, free)) in bounded)
        {
            if (bound is { } known)
                _ranked.Add(new Ranked(of, by, known));
            if (free is { } units)
                Take(of, by, units);
        }
        foreach (var candidate in goods.Candidates)
            Baskets.Add(candidate.Variant, candidate.List, candidate.Answered, candidate.Cost, candidate.Floor, Factor(candidate.Rate));
    }

    /// <summary>The bound of baskets of several lines.</summary>
    public BasketBound Baskets { get; }

    /// <summary>Whether everybody that rules tell apart was looked at.</summary>
    public bool IsExact { get; private set; } = true;

    /// <summary>No line for which something is paid has a lower margin; null where that is not known.</summary>
    public decimal? Bound =>
        _ranked.Count > 0 && _ranked.Min(r => r.Bound) is > decimal.MinValue and < decimal.MaxValue and var bound ? bound : null;

    /// <summary>A line for which nothing is paid; null where none was met.</summary>
    public SoldAt? Free { get; private set; }

    /// <summary>The lowest of all.</summary>
    /// <param name="before">What was found elsewhere; only something lower is looked for.</param>
    public SoldAt? Lowest(SoldAt? before)
    {
        _lowest = before;
        foreach (var ranked in _ranked.OrderBy(r => r.Bound))
        {
            if (IsReached(ranked.Bound))
                break;
            foreach (var (from, to) in Stretches(ranked.Of))
                Look(ranked, from, to);
        }
        return _lowest;
    }

    /// <summary>The stretches of quantities, in steps of the period, over which the same rules and bands hold.</summary>
    private IEnumerable<(int From, int To)> Stretches(MarginCandidate of)
    {
        var (least, most) = of.Quantities;
        foreach (var (first, behind) in _quantities.Zip(_quantities.Skip(1).Append(LowestMargin.MostUnits + 1)))
            for (
                var start = Math.Max(first, least);
                start < Math.Min(Math.Min(behind, most + 1), Math.Max(first, least) + _period);
                start++
            )
                yield return (start, start + (Math.Min(behind - 1, most) - start) / _period * _period);
    }

    /// <summary>Looks at a stretch of quantities; halves it as long as one of them may be lower than what was found.</summary>
    private void Look(Ranked ranked, int from, int to)
    {
        var bound = BoundOf(ranked.Of, ranked.By, from, to);
        if (IsReached(bound))
            return;
        Take(ranked.Of, ranked.By, from);
        if (from == to || bound == decimal.MaxValue)
            return;
        Take(ranked.Of, ranked.By, to);
        var middle = from + (to - from) / _period / 2 * _period;
        if (middle > from)
        {
            Look(ranked, from, middle);
            Look(ranked, middle, to);
        }
    }

    /// <summary>Whether something as low was found already.</summary>
    private bool IsReached(decimal margin) => _lowest?.Margin <= margin;

    /// <summary>Takes so many units as the lowest, or as what is had for nothing, where they are.</summary>
    private void Take(MarginCandidate of, BuyingWith by, int units)
    {
        var line = LineRun.Bare(of.Goods, of.Answered.Adds, units, of.Answered.Once);
        if (!line.IsChargeable || line.Total < 0)
            return;
        Run(line, of, by, units);
        var (paid, cost) = (line.Total + line.Share, of.CostOf(units));
        // Answers are put together only for what is kept, since that takes longer than all else.
        if (MarginOf(paid, cost, of.Rate) is not { } margin)
            Free ??= Sold(of, by, units, paid, cost, null);
        else if (!(margin >= _lowest?.Margin))
            _lowest = Sold(of, by, units, paid, cost, margin);
    }

    private SoldAt Sold(MarginCandidate of, BuyingWith by, int units, long paid, long cost, decimal? margin) =>
        new(new VariantOnSale(_edition, of.Variant), _goods.ConfigurationOf(of), units, by, _terms.Buying.At, paid, cost, margin)
        {
            Parts = WorstSets.AnswersOf(of.Way?.Picks),
        };

    private RuleRun Run(LineRun line, MarginCandidate of, BuyingWith by, int units)
    {
        var page = by.Through ?? _edition.Product.Code.Text;
        var goods = new RunLine(new VariantOnSale(_edition, of.Variant), Configuration.Empty, units, [], page);
        return RuleRun.Of([line], [goods], by.Under(_terms.Buying));
    }

    /// <summary>The margin of an amount, in per cent; null where nothing is paid net of tax.</summary>
    private decimal? MarginOf(long paid, long cost, Percentage rate) =>
        MarginBasis.Of(BasisAt(rate).NetCharged(paid, _terms.Trade.Currency), cost);

    /// <summary>A margin that no quantity for which something is paid is below; null where nothing can be bought.</summary>
    /// <returns>With a quantity for which nothing is paid, where one was met.</returns>
    private (decimal? Bound, int? Free) BoundOf(MarginCandidate of, BuyingWith by)
    {
        var (lowest, free) = ((decimal?)null, (int?)null);
        foreach (var (from, to) in Stretches(of))
        {
            var bound = BoundOf(of, by, from, to);
            if (bound == decimal.MaxValue)
                free ??= from;
            lowest = Math.Min(lowest ?? decimal.MaxValue, bound);
        }
        return (lowest, free);
    }

    /// <summary>A margin that no quantity of a stretch is below.</summary>
    private decimal BoundOf(MarginCandidate of, BuyingWith by, int from, int to)
    {
        if (PushedTo(of, by, from) is not { } first || PushedTo(of, by, to) is not { } last)
            return decimal.MinValue;
        if (_goods.IsExact && IsFree(of, first, last, to))
            return decimal.MaxValue;
        var basket = first.Basket.Count >= last.Basket.Count ? first.Basket : last.Basket;
        // What the floor leaves is a whole number already: only its tax is rounded.
        var (ofTax, rounding) = (0.5m / from, 0.5m * (1 + basket.Count) / from + _unitRounding);
        decimal At(decimal paid, int units, decimal rounding)
        {
            var net = paid / units * Factor(of.Rate) - rounding;
            return MarginBasis.Of(net, (decimal)of.CostOf(units) / units) ?? decimal.MinValue;
        }
        var ends = (First: BasketStage.Unheld(first.Goods, basket), Last: BasketStage.Unheld(last.Goods, basket));
        var pushed = Math.Min(At(ends.First, from, rounding), At(ends.Last, to, rounding));
        var held = Math.Min(At(of.HeldOf(from), from, ofTax), At(of.HeldOf(to), to, ofTax));
        return Math.Max(pushed, held);
    }

    /// <summary>Whether nothing is paid in any quantity of a stretch, since nothing is at its end by rules that act on all of it.</summary>
    private static bool IsFree(MarginCandidate of, Pushed first, Pushed last, int to) =>
        first.Basket.Count == last.Basket.Count && of.HeldOf(to) == 0 && BasketStage.Unheld(last.Goods, last.Basket) == 0;

    /// <summary>What rules bring so many units to; null where they cannot be bought.</summary>
    private Pushed? PushedTo(MarginCandidate of, BuyingWith by, int units)
    {
        var line = LineRun.Bare(of.Unheld, of.Answered.Adds, units, of.Answered.Once);
        if (!line.IsChargeable || line.Total < 0)
            return null;
        // What several were put together to may stand for one that comes to more: one that bands reach, or a reduction of the basket.
        line.MayStandAlone = _goods.IsExact;
        var run = Run(line, of, by, units);
        var amount = Math.Max(line.Total, of.HeldOf(units));
        return new Pushed(line.Total, [.. run.OfBasket.Where(u => !_goods.IsExact || !(amount < u.Rule.When.BasketAtLeast))]);
    }

    private decimal Factor(Percentage rate) => BasisAt(rate).Net(1);

    private MarginBasis BasisAt(Percentage rate) => new(rate, _terms.Trade.PricesIncludeTax);

    /// <summary>Everybody that rules tell apart.</summary>
    private IEnumerable<BuyingWith> Buyers(IReadOnlyCollection<string> presenting)
    {
        var when = _rules.All.Select(r => r.Rule.When).ToList();
        var groups = when.SelectMany(w => w.CustomerGroups).Distinct().Select(g => (Key?)g).Prepend(null);
        var mixes = Mixes([.. when.Select(NamedCoupon.AskedBy).OfType<NamedCoupon>().Distinct()]).ToList();
        var named = _rules.All.Select(r => r.Rule.Scope.Through).OfType<string>().Distinct();
        List<string?> pages = [.. named.Where(presenting.Contains)];
        if (_edition.Product.Shelf.Alone)
            pages.Add(null);
        else
            pages.AddRange(presenting.Where(p => !pages.Contains(p)).Take(1));
        return from g in groups from c in mixes from p in pages select new BuyingWith(g, c, p);
    }

    /// <summary>Every mix of coupons that one buyer may name; of very many none, each by itself, and all.</summary>
    private IEnumerable<ImmutableArray<NamedCoupon>> Mixes(IReadOnlyList<NamedCoupon> coupons)
    {
        if (coupons.Count > MostCoupons)
        {
            IsExact = false;
            return coupons.Select(c => ImmutableArray.Create(c)).Append([.. coupons]).Prepend([]);
        }
        return Enumerable.Range(0, 1 << coupons.Count).Select(mix => coupons.Where((_, i) => (mix >> i & 1) > 0).ToImmutableArray());
    }

    /// <summary>The quantities from which on a rule acts, or a band begins.</summary>
    private IEnumerable<int> Quantities() =>
        _rules
            .All.Select(r => r.Rule.When.QuantityAtLeast ?? 1)
            .Concat(
                _rules
                    .ByStage[PriceStage.Quantity]
                    .Select(r => r.Rule.Effect)
                    .OfType<PriceEffect.Bands>()
                    .SelectMany(b => b.Rows.Select(r => r.From))
            )
            .Append(1)
            .Where(q => q is >= 1 and <= LowestMargin.MostUnits);

    /// <summary>After so many units packs and reductions of the cheapest begin anew.</summary>
    /// <remarks>What one reduction of the cheapest leaves is the pool of the next: one in two and then one in four begin anew after eight
    /// units, not four. Whichever of them act, and in whatever order, their product is a multiple of that.</remarks>
    private int Period()
    {
        var packs = _rules
            .ByStage[PriceStage.Quantity]
            .Select(r => r.Rule.Effect)
            .OfType<PriceEffect.Packs>()
            .Select(p => (long)p.Rows[0].Units);
        var cheapest = _rules.ByStage[PriceStage.CheapestOff].Select(r => (long)((PriceEffect.CheapestOff)r.Rule.Effect).InEvery);
        var together = cheapest.Aggregate(1L, (a, b) => Math.Min(LowestMargin.MostUnits, a * b));
        return (int)
            packs.Aggregate(together, (a, b) => Math.Min(LowestMargin.MostUnits, a / (long)BigInteger.GreatestCommonDivisor(a, b) * b));
    }
}
