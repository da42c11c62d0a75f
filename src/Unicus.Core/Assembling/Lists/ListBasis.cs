namespace Unicus.Core.Assembling.Lists;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Stages;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;

/// <summary>What the price that lists show of a product starts from, without its document: enough as long as only rules of prices that
/// reach all its variants alike change.</summary>
/// <param name="Code">Of the product.</param>
/// <param name="Tags">Its tags.</param>
/// <param name="Options">The keys of its options of variants.</param>
/// <param name="Least">The fewest units of it that are sold.</param>
/// <param name="HasExtras">Whether anything is asked besides its variant.</param>
/// <param name="Once">What needed answers add once for a line, in minor units.</param>
/// <param name="Rows">Its variants that have a price, in their order; kept: each kind once.</param>
public sealed record ListBasis(
    string Code,
    ImmutableArray<string> Tags,
    ImmutableArray<string> Options,
    int Least,
    bool HasExtras,
    long Once,
    ImmutableArray<ListBasis.Row> Rows
)
{
    /// <summary>What a variant comes to before rules, in minor units.</summary>
    /// <param name="List">L.</param>
    /// <param name="Low">With the cheapest answers that are needed.</param>
    /// <param name="High">With the dearest of them.</param>
    /// <param name="Floor">F; null where nothing limits rules.</param>
    /// <param name="Sells">Whether it can be bought now.</param>
    public readonly record struct Row(long List, long Low, long High, long? Floor, bool Sells);

    /// <summary>The same with each kind of row once.</summary>
    public ListBasis Kept() => this with { Rows = [.. Rows.Distinct()] };

    /// <summary>The basis of a product whose figures hang on nothing else; null where they do: on parts, on rules over answers, on price
    /// rules of its own.</summary>
    public static ListBasis? Of(Edition edition, ConfigurationTerms terms) =>
        edition.Product.Parts is null && ListFigures.IsPlain(edition.Product) && edition.Product.PriceRules.IsEmpty
            ? new(
                edition.Product.Code.Text,
                edition.Product.Tags,
                [.. edition.Matrix.Options.Select(o => o.Key.Text)],
                edition.Product.Selling.Least,
                !edition.Product.Extras.IsEmpty,
                ListFigures.NeededOnce(edition.Product),
                [.. ListFigures.Priced(edition, terms).Select(p => p.Row)]
            )
            : null;

    /// <summary>What lists show of it, and when that changes by rules alone.</summary>
    /// <param name="categories">The categories that hold it, those above them included.</param>
    /// <param name="names">Whether a rule that names SKUs names one of it.</param>
    /// <param name="terms">By what it is reckoned.</param>
    /// <returns>Null where a rule treats its variants differently, so that its document has to be looked at.</returns>
    public (ListFigures Figures, DateTimeOffset? Changes)? Figures(
        IReadOnlySet<string> categories,
        Func<PriceRule, bool> names,
        RunTerms terms
    )
    {
        var goods = new RuleGoods(Code, IsSet: false, Tags, [.. Options.Select(Key.Of)], categories);
        var buying = terms.Buying;
        var reaching = buying
            .Book.Rules.Where(r => r.State == RuleState.On && ReachingRule.Touches(r, goods) && (!r.NamesSkus || names(r)))
            .ToList();
        if (reaching.Exists(r => r.NamesSkus || r.Scope.Where is not null))
            return null;
        var uses = reaching
            .Where(r => PriceBook.IsInForce(r, buying.At, buying.Day))
            .Select(r => EditionPrices.UseAlone(r, Code, Least, buying))
            .OfType<RuleUse>()
            .ToList();
        var prices = new WholePrices(uses, Least, terms.Trade.Currency);
        var figures = ListFigures.Of(
            Rows,
            Once,
            terms.Trade.Currency,
            (row, before) => prices.Of(Rows[row], before),
            cheapest => prices.ActingOn(Rows[HasExtras ? 0 : cheapest])
        );
        return (figures, PriceBook.NextChange(reaching, buying.At, buying.Zone));
    }
}

/// <summary>The price of one unit by rules of stage 3 that reach all variants of a product alike.</summary>
/// <param name="uses">Those that may act, in their order.</param>
/// <param name="quantity">Units of the line; 1 or more.</param>
/// <param name="currency">In which amounts are.</param>
internal sealed class WholePrices(List<RuleUse> uses, int quantity, Currency currency)
{
    private readonly UnitRules _rules = new(uses);

    /// <summary>One unit, in minor units.</summary>
    /// <param name="row">The variant.</param>
    /// <param name="before">Its list price and what its answers add.</param>
    public long Of(ListBasis.Row row, long before) =>
        uses.Count == 0 ? before : UnitStage.Alone(Goods(row), before - row.List, quantity, _rules).Unit;

    /// <summary>The rules that bring the list price down.</summary>
    public IEnumerable<PriceRule> ActingOn(ListBasis.Row row) => UnitStage.Acting(Goods(row), 0, quantity, uses);

    private LineGoods Goods(ListBasis.Row row) => new("", "", currency, row.List, row.Floor);
}
