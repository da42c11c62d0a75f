namespace Unicus.Core.RuleBook;

using Unicus.Core.Money;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Stages;
using Unicus.Core.Range;
using Unicus.Core.Variants;

/// <summary>The price of one unit of an edition by the rules that act on a line by itself.</summary>
internal sealed class EditionPrices : UnitPrices
{
    private readonly Edition _edition;
    private readonly TradeTerms _trade;
    private readonly int _quantity;
    private readonly List<(ReachingRule Reaching, RuleUse Use)> _rules;

    /// <summary>Those that reach every variant, where all do.</summary>
    private readonly UnitRules? _whole;

    private EditionPrices(Edition edition, TradeTerms trade, int quantity, List<(ReachingRule Reaching, RuleUse Use)> rules)
    {
        (_edition, _trade, _quantity, _rules) = (edition, trade, quantity, rules);
        if (rules.TrueForAll(r => r.Reaching.IsWhole))
            _whole = new UnitRules([.. rules.Select(r => r.Use)]);
    }

    /// <summary>Prices by the rules that act on a line by itself.</summary>
    /// <param name="edition">The product.</param>
    /// <param name="terms">By what it is reckoned.</param>
    /// <param name="quantity">Units of the line; 1 or more.</param>
    /// <param name="through">The page that it is bought through; null for its own.</param>
    /// <returns>Null where no rule reaches a unit, so that list price and answers are all.</returns>
    /// <param name="wanted">The rules that may act; null: all.</param>
    public static EditionPrices? Of(Edition edition, RunTerms terms, int quantity, string? through, Func<PriceRule, bool>? wanted = null)
    {
        var (buying, page) = (terms.Buying, through ?? edition.Product.Code.Text);
        var rules = new List<(ReachingRule, RuleUse)>();
        foreach (var reaching in buying.Book.At(buying.At, buying.Day).Of(edition, buying.At, buying.Day).All)
            if (wanted?.Invoke(reaching.Rule) != false && UseAlone(reaching.Rule, page, quantity, buying) is { } use)
                rules.Add((reaching, use));
        return rules.Count == 0 ? null : new EditionPrices(edition, terms.Trade, quantity, rules);
    }

    /// <summary>A rule of stage 3 for a line that is alone in a basket; null where it does not act there.</summary>
    /// <param name="rule">In force, and reaching the goods.</param>
    /// <param name="page">The code of the page that they are bought through.</param>
    /// <param name="quantity">Units of the line; 1 or more.</param>
    /// <param name="buying">Who buys, when, and by which rules.</param>
    public static RuleUse? UseAlone(PriceRule rule, string page, int quantity, RuleContext buying)
    {
        if (rule.Effect.Stage != PriceStage.Unit || !ReachingRule.IsThrough(rule, page))
            return null;
        var use = new RuleUse(rule) { Quantity = quantity };
        return buying.Allows(use) ? use : null;
    }

    /// <inheritdoc/>
    public override bool IsUniform =>
        (_edition.Product.Floor ?? _trade.Floor) is null
        && _rules.TrueForAll(r => r.Reaching.IsWhole && r.Use.Rule.Effect is PriceEffect.Reduce);

    /// <summary>The floor of a unit, F: what its leaves must bring at the least margin.</summary>
    /// <returns>In minor units; null where there is no floor, or the cost of a leaf is not known.</returns>
    public static long? FloorOf(Edition edition, MatrixVariant variant, TradeTerms terms)
    {
        if ((edition.Product.Floor ?? terms.Floor) is not { } margin || variant.Cost.Figure is not { } cost)
            return null;
        var taxClass = edition.Matrix.Figures.Resolve(variant.Variant.Own, variant.Values, f => f.TaxClass).Figure;
        return Floors.Of([(MinorUnits.Of(cost), MarginBasis.Dearest(terms, taxClass).Contained)], margin);
    }

    /// <summary>The rules that bring the price of a variant down.</summary>
    /// <param name="variant">Which variant it is.</param>
    /// <param name="before">Its list price and what its answers add, in minor units.</param>
    public IEnumerable<PriceRule> ActingOn(MatrixVariant variant, long before)
    {
        var list = MinorUnits.Of(variant.Price.Figure!.Value);
        var goods = LineGoods.Of(variant, list, FloorOf(_edition, variant, _trade));
        var uses = _rules.Where(r => r.Reaching.Reaches(variant)).Select(r => new RuleUse(r.Reaching.Rule)).ToList();
        return UnitStage.Acting(goods, before - list, _quantity, uses);
    }

    /// <inheritdoc/>
    public override long Of(MatrixVariant variant, long before)
    {
        var list = MinorUnits.Of(variant.Price.Figure!.Value);
        return Of(variant, list, before - list, FloorOf(_edition, variant, _trade));
    }

    /// <summary>One unit with another list price than the variant's own.</summary>
    /// <param name="variant">Which variant it is.</param>
    /// <param name="list">L, in minor units.</param>
    /// <param name="answers">A, in minor units.</param>
    /// <param name="floor">F, in minor units; null where nothing limits rules.</param>
    public long Of(MatrixVariant variant, long list, long answers, long? floor)
    {
        var rules = _whole ?? new UnitRules([.. _rules.Where(r => r.Reaching.Reaches(variant)).Select(r => r.Use)]);
        return UnitStage.Alone(LineGoods.Of(variant, list, floor), answers, _quantity, rules).Unit;
    }
}
