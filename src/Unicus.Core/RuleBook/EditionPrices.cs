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
    /// <param name="quantity">Units of the line; 1 or more.</param>
    /// <param name="through">The page that it is bought through; null for its own.</param>
    /// <returns>Null where no rule reaches a unit, so that list price and answers are all.</returns>
    /// <param name="wanted">The rules that may act; null: all.</param>
    public static EditionPrices? Of(Edition edition, RunTerms terms, int quantity, string? through, Func<PriceRule, bool>? wanted = null)
    {
        var buying = terms.Buying;
        var rules = new List<(ReachingRule, RuleUse)>();
        foreach (var reaching in buying.Book.At(buying.At, buying.Day).Of(edition, buying.At, buying.Day).All)
        {
            if (wanted?.Invoke(reaching.Rule) == false)
                continue;
            if (reaching.Rule.Effect.Stage != PriceStage.Unit || !reaching.IsThrough(through ?? edition.Product.Code.Text))
                continue;
            var use = new RuleUse(reaching.Rule) { Quantity = quantity };
            if (buying.Allows(use))
                rules.Add((reaching, use));
        }
        return rules.Count == 0 ? null : new EditionPrices(edition, terms.Trade, quantity, rules);
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
        return Floors.Of([(MinorUnits.Of(cost), terms.PricesIncludeTax ? Floors.HighestRate(terms, taxClass) : 0)], margin);
    }

    /// <summary>The rules that bring the price of a variant down.</summary>
    /// <param name="before">Its list price and what its answers add, in minor units.</param>
    public IEnumerable<PriceRule> ActingOn(MatrixVariant variant, long before)
    {
        var list = MinorUnits.Of(variant.Price.Figure!.Value);
        var line = LineRun.Bare(LineGoods.Of(variant, list, FloorOf(_edition, variant, _trade)), before - list, _quantity);
        var uses = _rules.Where(r => r.Reaching.Reaches(variant)).Select(r => new RuleUse(r.Reaching.Rule)).ToList();
        UnitStage.Run(line, new UnitRules(uses));
        return uses.Where(u => u.Moved < 0).Select(u => u.Rule);
    }

    /// <inheritdoc/>
    public override long Of(MatrixVariant variant, long before)
    {
        var list = MinorUnits.Of(variant.Price.Figure!.Value);
        return Of(variant, list, before - list, FloorOf(_edition, variant, _trade));
    }

    /// <summary>One unit with another list price than the variant's own.</summary>
    /// <param name="list">L, in minor units.</param>
    /// <param name="answers">A, in minor units.</param>
    /// <param name="floor">F, in minor units; null where nothing limits rules.</param>
    public long Of(MatrixVariant variant, long list, long answers, long? floor)
    {
        var line = LineRun.Bare(LineGoods.Of(variant, list, floor), answers, _quantity);
        UnitStage.Run(line, _whole ?? new UnitRules([.. _rules.Where(r => r.Reaching.Reaches(variant)).Select(r => r.Use)]));
        line.EndUnits();
        return line.Unit;
    }
}
