namespace Unicus.Core.Proof;

using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Stages;
using Unicus.Core.Products;
using Unicus.Core.RuleBook;
using Unicus.Core.Variants;

/// <summary>A bound for the margin of baskets of any lines with any coupons: never optimistic.</summary>
/// <remarks>
/// For goods in the scope of rules it is assumed that every quantity and amount that rules ask for is reached, and that every coupon is
/// named. The cheapest units of a pool cost at most their share of it, so reductions of the cheapest take at most their part of the
/// pool; reductions of the basket are shared out by totals, so each takes the same part of every line. How goods are put together is
/// <see cref="BasketMargin"/>'s.
/// </remarks>
internal sealed class BasketBound(EditionRules rules)
{
    private bool _isFree;
    private bool _lacksFloor;

    /// <summary>No basket of these goods has a lower margin by what rules may take off; null where they may be given away.</summary>
    public decimal? Lowest { get; private set; } = 100;

    /// <summary>No basket of these goods has a lower margin by the floor; null where some have none.</summary>
    public decimal? AtFloor { get; private set; } = 100;

    /// <summary>Whether a reduction of the cheapest reaches any of them.</summary>
    public bool IsPooled => rules.ByStage[PriceStage.CheapestOff].Length > 0;

    /// <summary>Looks at goods with answers.</summary>
    /// <param name="variant">Which variant it is.</param>
    /// <param name="list">Of one unit, in minor units.</param>
    /// <param name="answered">What its answers add and cost.</param>
    /// <param name="cost">Of one unit with its answers, in minor units.</param>
    /// <param name="floor">Of one unit without answers, in minor units; null where it has none.</param>
    /// <param name="net">What a unit of money is net of tax.</param>
    public void Add(MatrixVariant variant, long list, AnsweredCost answered, long cost, long? floor, decimal net)
    {
        if (list + answered.Adds < 0)
            return;
        var reaching = rules.All.Where(r => r.Reaches(variant)).ToList();
        var rounding = 0.5m * (1 + reaching.Count(r => r.Rule.Effect.Stage is PriceStage.CheapestOff or PriceStage.Basket));
        foreach (var group in Groups(reaching))
        {
            var uses = reaching
                .Where(r => r.Rule.When.CustomerGroups.IsEmpty || (group is { } g && r.Rule.When.CustomerGroups.Contains(g)))
                .Select(r => new RuleUse(r.Rule))
                .ToList();
            foreach (var unit in Units(variant, list, answered.Adds, floor, uses))
                Take(LowestOf(unit, Basket(uses, unit), answered, cost, net, rounding));
        }
        var atFloor = floor is { } f ? LowestOf(Math.Min(list, f) + answered.Adds, 1, answered, cost, net, 0.5m) : null;
        _lacksFloor |= atFloor is null;
        AtFloor = _lacksFloor ? null : Math.Min(AtFloor!.Value, atFloor!.Value);
    }

    private void Take(decimal? margin)
    {
        _isFree |= margin is null;
        Lowest = _isFree ? null : Math.Min(Lowest ?? 100, margin!.Value);
    }

    /// <summary>The lower margin of one unit, with what is due once, and of very many, of which that is no part; between them it only rises
    /// or only falls. Null where something may be given away.</summary>
    /// <param name="unit">What a unit is brought to.</param>
    /// <param name="share">The part of a line that reductions of the basket leave.</param>
    /// <param name="answered">What its answers add and cost.</param>
    /// <param name="cost">Of one unit with its answers, in minor units.</param>
    /// <param name="net">What a unit of money is net of tax.</param>
    /// <param name="rounding">How far rounding may move it, in minor units.</param>
    private static decimal? LowestOf(decimal unit, decimal share, AnsweredCost answered, long cost, decimal net, decimal rounding) =>
        MarginBasis.Of((unit + answered.Once) * share * net - rounding, cost + answered.OnceCost) is { } one
        && MarginBasis.Of(unit * share * net - rounding, cost) is { } many
            ? Math.Min(one, many)
            : null;

    private static IEnumerable<Key?> Groups(List<ReachingRule> rules) =>
        rules.SelectMany(r => r.Rule.When.CustomerGroups).Distinct().Select(g => (Key?)g).Prepend(null);

    /// <summary>The least that a unit comes to: with rules that stand alone, which keep later stages off, and without them.</summary>
    private static IEnumerable<decimal> Units(MatrixVariant variant, long list, long adds, long? floor, List<RuleUse> uses)
    {
        foreach (var withAlone in new[] { false, true })
        {
            var unitUses = uses.Where(u => u.Rule.Effect.Stage == PriceStage.Unit && (withAlone || u.Rule.Combine != Combine.Alone));
            var line = UnitStage.Alone(LineGoods.Of(variant, list, floor), adds, 1, new UnitRules([.. unitUses]));
            var unit = (decimal)line.Unit;
            if (!line.StandsAlone)
                unit = Cheapest(uses, Math.Min(unit, uses.Min(u => (decimal?)Banded(u, line)) ?? unit));
            yield return Math.Max(0, unit);
        }
    }

    /// <summary>The least that bands or packs leave of a unit.</summary>
    private static decimal Banded(RuleUse use, LineRun line) =>
        use.Rule.Effect switch
        {
            PriceEffect.Bands => use.Rows.Min(r => r.Of(line)),
            PriceEffect.Packs p => Math.Max(0, p.Rows.Min(r => (decimal)r.Total / r.Units) + line.Answers),
            _ => line.Unit,
        };

    /// <summary>What reductions of the cheapest leave of a unit at least.</summary>
    private static decimal Cheapest(List<RuleUse> uses, decimal unit)
    {
        var cheapest = uses.Where(u => u.Rule.Effect is PriceEffect.CheapestOff).ToList();
        // Where all rules pool the same goods, what one has reduced is out of the pool of the next. Any of them may reduce its part in
        // full or nothing, since a condition fails or units are missing; what is taken off is greatest at one of these ends. Where
        // pools differ, one may reduce just the goods that the next does not reach: then each takes its part of all.
        var samePool = cheapest.TrueForAll(u => u.Rule.Scope.IsSame(cheapest[0].Rule.Scope) && u.Rule.Owner == cheapest[0].Rule.Owner);
        var off = 0m;
        foreach (var effect in cheapest.Select(u => (PriceEffect.CheapestOff)u.Rule.Effect).Reverse())
        {
            var part = (decimal)effect.Units / effect.InEvery;
            off = samePool ? Math.Max(off, part * effect.Percent / 100 + (1 - part) * off) : off + part * effect.Percent / 100;
        }
        return unit * Math.Max(0, 1 - off);
    }

    /// <summary>The part of a line that reductions of the basket leave, from 0 to 1.</summary>
    /// <param name="uses">The rules that may act.</param>
    /// <param name="unit">What a unit is brought to before; a basket with it comes to as much at least.</param>
    private static decimal Basket(List<RuleUse> uses, decimal unit)
    {
        var basket = uses.Where(u => u.Rule.Effect is PriceEffect.ReduceBasket).ToList();
        decimal Part(RuleUse use)
        {
            var effect = (PriceEffect.ReduceBasket)use.Rule.Effect;
            var least = Math.Max(unit, use.Rule.When.BasketAtLeast ?? 0);
            return effect.Percent is { } percent ? percent / 100
                : least > effect.Amount ? (decimal)effect.Amount!.Value / least
                : 1;
        }
        var best = basket.Where(u => u.Rule.Combine == Combine.Best).Select(Part).DefaultIfEmpty(0).Max();
        var kept = 1 - best;
        var amounts = 0m;
        foreach (var use in basket.Where(u => u.Rule.Combine == Combine.Adds))
            if (((PriceEffect.ReduceBasket)use.Rule.Effect).Percent is not null)
                kept *= 1 - Part(use);
            else
                amounts += Part(use);
        var together = Math.Max(0, kept - amounts);
        var alone = basket.Where(u => u.Rule.Combine == Combine.Alone).Select(u => 1 - Part(u)).DefaultIfEmpty(1).Min();
        return Math.Min(together, alone);
    }
}
