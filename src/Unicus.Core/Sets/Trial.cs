namespace Unicus.Core;

/// <summary>What a line of one variant comes to before and after.</summary>
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
    /// <summary>The units that show what a rule does: from which it acts at all.</summary>
    public static int UnitsFor(PriceRule rule) =>
        Math.Max(
            rule.When.QuantityAtLeast ?? 1,
            rule.Effect switch
            {
                PriceEffect.Bands b => b.Rows[0].From,
                PriceEffect.Packs p => p.Rows[^1].Units,
                PriceEffect.CheapestOff c => c.InEvery,
                _ => 1,
            }
        );

    /// <summary>The price of each variant of a product, changed or not.</summary>
    public IEnumerable<TriedPrice> Of(Edition edition)
    {
        foreach (var variant in edition.Matrix.Offered)
        {
            if (variant.Price.Figure is not { } price)
                continue;
            var goods = new VariantOnSale(edition, variant);
            if (Line(goods, price, now) is not { } before || Line(goods, price, then) is not { } after)
                continue;
            yield return new TriedPrice(
                goods,
                quantity,
                before.Total + before.Share,
                after.Total + after.Share,
                Margin(goods, before),
                Margin(goods, after),
                after.IsHeld
            );
        }
    }

    /// <summary>The line after stage 6; null where it comes to more than can be charged.</summary>
    private LineRun? Line(VariantOnSale goods, Money price, RunTerms terms)
    {
        var floor = EditionPrices.FloorOf(goods.Edition, goods.Variant, terms.Trade);
        var line = LineRun.Bare(goods.Variant, MinorUnits.Of(price), 0, quantity, floor);
        if (!line.IsChargeable)
            return null;
        var page = through ?? goods.Edition.Product.Code.Text;
        RuleRun.Of([line], [new RunLine(goods, Configuration.Empty, quantity, [], page)], terms.Buying);
        return line;
    }

    private decimal? Margin(VariantOnSale goods, LineRun line)
    {
        if (goods.Figures.Cost is not { } cost)
            return null;
        var rate = Margins.Rate(goods.Edition.Matrix, now.Trade, goods.Variant);
        var total = MinorUnits.ToMoney(line.Total + line.Share, cost.Currency);
        return Profit.Of(total, cost * quantity, rate, now.Trade.PricesIncludeTax).Margin;
    }
}
