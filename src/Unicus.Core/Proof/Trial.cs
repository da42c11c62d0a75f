namespace Unicus.Core.Proof;

using Unicus.Core.Assembling;
using Unicus.Core.Baskets;
using Unicus.Core.Money;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Stages;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Rules;
using Unicus.Core.Stock;
using Unicus.Core.Variants;

/// <summary>What a line of one variant comes to before and after.</summary>
/// <param name="Goods">What it is.</param>
/// <param name="Quantity">Units of the line.</param>
/// <param name="Now">The line as it is, in minor units.</param>
/// <param name="Then">The line as it would be.</param>
/// <param name="MarginNow">In per cent of the price net of tax; null where the cost is not known.</param>
/// <param name="MarginThen">The same as it would be.</param>
/// <param name="AtFloor">Whether the floor gives something back.</param>
public sealed record TriedPrice(
    VariantOnSale Goods,
    int Quantity,
    long Now,
    long Then,
    decimal? MarginNow,
    decimal? MarginThen,
    bool AtFloor
)
{
    /// <summary>How much the line changes; negative where it falls.</summary>
    public long Change => Then - Now;
}

/// <summary>What rules would do to every price, before they are switched on.</summary>
/// <remarks>Each variant is priced without answers, as one line that stands alone in the basket.</remarks>
/// <param name="now">What prices go by now.</param>
/// <param name="then">What they would go by.</param>
/// <param name="quantity">Units of each line; 1 or more.</param>
/// <param name="through">The page that the goods are bought through; null for their own.</param>
public sealed class Trial(RunTerms now, RunTerms then, int quantity, string? through = null)
{
    /// <summary>The units of a line at which a rule, or a row of it, begins to act.</summary>
    public static IEnumerable<int> QuantitiesOf(PriceRule rule)
    {
        IEnumerable<int> starts = rule.Effect switch
        {
            PriceEffect.Bands b => b.Rows.Select(r => r.From),
            PriceEffect.Packs p => p.Rows.Select(r => r.Units),
            PriceEffect.CheapestOff c => [c.InEvery],
            _ => [1],
        };
        return starts.Select(s => Math.Max(s, rule.When.QuantityAtLeast ?? 1)).Distinct();
    }

    /// <summary>The tax that margins of a trial are net of: the highest that any destination has for each class.</summary>
    public static string TaxInWords(TradeTerms trade)
    {
        if (!trade.PricesIncludeTax)
            return "";
        var rates = trade.TaxClasses.Select(c =>
            $"{c.Label.ToLowerInvariant()} {MarginBasis.Dearest(trade, c.Key.Text).Rate.Value:0.##} %"
        );
        return $"Margins are net of the highest tax of any destination: {string.Join(", ", rates)}.";
    }

    /// <summary>Variants of a set that are looked at.</summary>
    private const int MostOfSet = 200;

    /// <summary>The price of each variant of a product, changed or not; of a set as its page begins, open picks at their cheapest.
    /// </summary>
    /// <param name="edition">The product.</param>
    /// <param name="range">Where parts of a set are looked up; null leaves sets aside. A group has no price.</param>
    public IEnumerable<TriedPrice> Of(Edition edition, PublishedRange? range = null) =>
        edition.Product.IsSet
            ? range is null
                ? []
                : edition
                    .Matrix.Offered.Where(v => UnitsOf(v) is not null)
                    .Take(MostOfSet)
                    .Select(v => OfSet(edition, v, range, UnitsOf(v)!.Value))
                    .OfType<TriedPrice>()
            : edition.Product.IsGroup
                ? []
                : OfPlain(edition);

    /// <summary>What a line of a set comes to.</summary>
    /// <param name="Total">In minor units.</param>
    /// <param name="Margin">In per cent of what is net of tax; null where a cost is not known.</param>
    /// <param name="IsHeld">Whether the floor holds it.</param>
    private sealed record TriedLine(long Total, decimal? Margin, bool IsHeld);

    /// <summary>As many as are asked about, or the fewest that are sold; null where so many do not go into one order.</summary>
    private int? UnitsOf(MatrixVariant variant)
    {
        var units = Math.Max(quantity, variant.Selling.Least);
        return units > variant.Selling.MaximumPerOrder ? null : units;
    }

    private TriedPrice? OfSet(Edition edition, MatrixVariant variant, PublishedRange range, int units)
    {
        if (Line(now) is not { } before || Line(then) is not { } after)
            return null;
        var goods = new VariantOnSale(edition, variant);
        return new TriedPrice(goods, units, before.Total, after.Total, before.Margin, after.Margin, after.IsHeld);

        TriedLine? Line(RunTerms terms)
        {
            var stock = StockOutlook.Empty(DateOnly.MinValue);
            var around = new ConfigurationTerms(range, stock, terms, units, through);
            var status = ConfigurationStatus.Of(edition, Configuration.Of(variant.Values), Filling.Rest, around);
            if (status is { IsWhole: true, Assembled: { } assembled, Variant: { } decided })
            {
                var page = through ?? edition.Product.Code.Text;
                var line = new RunLine(new VariantOnSale(edition, decided), status.Shown, units, status.Needs.Value, page)
                {
                    Assembled = assembled,
                };
                if (PriceRun.Of([line], terms with { WithoutDelivery = true }, range, trace: false).Basket?.Lines is [var priced])
                    return new TriedLine(MinorUnits.Of(priced.Total + priced.Reduction), MarginOf(priced, terms.Trade), priced.Run.IsHeld);
            }
            return status.Price is { Working: var working }
                ? new TriedLine(MinorUnits.Of(working.Total), null, working.Steps.Any(s => s.Step == PriceStep.Floor))
                : null;
        }
    }

    /// <summary>What is left of a set's price net of tax, by the classes of its leaves; null where a cost is not known.</summary>
    private static decimal? MarginOf(PricedLine line, TradeTerms trade)
    {
        if (line.Cost is not { } cost)
            return null;
        var net = line.Leaves.Sum(l => MarginBasis.Dearest(trade, l.TaxClass).Net(l.Allocated.Amount));
        return MarginBasis.Of(net, cost.Amount);
    }

    /// <summary>Variants of one product that are looked at by one processor at a time.</summary>
    private const int AtOnce = 4_096;

    private IEnumerable<TriedPrice> OfPlain(Edition edition) =>
        edition.Matrix.Made.Combinations <= AtOnce
            ? OfSome(edition, edition.Matrix.Offered)
            : edition.Matrix.Offered.Chunk(AtOnce).AsParallel().AsOrdered().SelectMany(some => OfSome(edition, some));

    private IEnumerable<TriedPrice> OfSome(Edition edition, IEnumerable<MatrixVariant> variants)
    {
        var lines = new Dictionary<int, (LoneLines Now, LoneLines Then)>();
        foreach (var variant in variants)
        {
            if (variant.Price.Figure is not { } price || UnitsOf(variant) is not { } units)
                continue;
            if (!lines.TryGetValue(units, out var alone))
                lines[units] = alone = (new LoneLines(edition, now, units, through), new LoneLines(edition, then, units, through));
            if (alone.Now.Line(variant, price) is not { } before || alone.Then.Line(variant, price) is not { } after)
                continue;
            var (was, becomes) = (before.Total + before.Share, after.Total + after.Share);
            var margin = Margin(edition, variant, units, was);
            yield return new TriedPrice(
                new VariantOnSale(edition, variant),
                units,
                was,
                becomes,
                margin,
                becomes == was ? margin : Margin(edition, variant, units, becomes),
                after.IsHeld
            );
        }
    }

    private decimal? Margin(Edition edition, MatrixVariant variant, int units, long paid)
    {
        if (variant.Cost.Figure is not { } cost)
            return null;
        var basis = MarginBasis.Dearest(now.Trade, new VariantOnSale(edition, variant).TaxClass);
        return basis.Of(MinorUnits.ToMoney(paid, cost.Currency), cost * units).Margin;
    }
}

/// <summary>Lines of one product without answers, each alone in a basket; rules are made ready once for all that the same ones
/// reach.</summary>
/// <param name="edition">The product.</param>
/// <param name="terms">By what it is reckoned.</param>
/// <param name="quantity">Units of each line; 1 or more.</param>
/// <param name="through">The page that they are bought through; null for the product's own.</param>
internal sealed class LoneLines(Edition edition, RunTerms terms, int quantity, string? through)
{
    private readonly EditionRules _rules = terms
        .Buying.Book.At(terms.Buying.At, terms.Buying.Day)
        .Of(edition, terms.Buying.At, terms.Buying.Day);
    private readonly Dictionary<int[], Action<LineRun>> _runs = [];

    /// <summary>The line after stage 6; null where it comes to more than can be charged.</summary>
    /// <param name="variant">Which variant it is.</param>
    /// <param name="price">The list price.</param>
    public LineRun? Line(MatrixVariant variant, Money price)
    {
        var floor = EditionPrices.FloorOf(edition, variant, terms.Trade);
        var line = LineRun.Bare(LineGoods.Of(variant, MinorUnits.Of(price), floor), 0, quantity);
        if (!line.IsChargeable)
            return null;
        var reach = _rules.ReachOf(variant);
        if (!_runs.TryGetValue(reach, out var run))
        {
            var page = through ?? edition.Product.Code.Text;
            _runs[reach] = run = RuleRun.ForEachAlone(_rules, reach, page, terms.Buying, quantity);
        }
        run(line);
        return line;
    }
}
