namespace Unicus.Core.RuleBook;

using Unicus.Core.Money;
using Unicus.Core.Pricing.Stages;
using Unicus.Core.Range;

/// <summary>What a line comes to at a quantity.</summary>
/// <param name="Units">How many.</param>
/// <param name="Total">After stage 5, in minor units.</param>
public readonly record struct QuantityPoint(int Units, long Total)
{
    /// <summary>What one unit comes to.</summary>
    public decimal Each => (decimal)Total / Units;
}

/// <summary>What goods cost at every quantity, as one line that stands alone in the basket.</summary>
public static class QuantityPrices
{
    /// <summary>The totals from one unit up.</summary>
    /// <param name="goods">What it is about.</param>
    /// <param name="terms">By what it is reckoned.</param>
    /// <param name="most">The largest quantity; 1 or more.</param>
    /// <param name="through">The code of the page that it is bought through; null: its own.</param>
    /// <returns>Empty where the goods have no price.</returns>
    public static IReadOnlyList<QuantityPoint> Of(VariantOnSale goods, RunTerms terms, int most, string? through = null)
    {
        if (goods.Variant.Price.Figure is not { } price)
            return [];
        var points = new List<QuantityPoint>(most);
        var floor = EditionPrices.FloorOf(goods.Edition, goods.Variant, terms.Trade);
        var sold = LineGoods.Of(goods.Variant, MinorUnits.Of(price), floor);
        var bought = new Alone(goods, through ?? goods.Edition.Product.Code.Text);
        for (var units = 1; units <= most; units++)
        {
            var line = LineRun.Bare(sold, 0, units);
            if (!line.IsChargeable)
                break;
            RuleRun.Of([line], [bought], terms.Buying);
            points.Add(new QuantityPoint(units, line.Total));
        }
        return points;
    }

    private sealed record Alone(VariantOnSale Goods, string? Through) : IBoughtGoods;

    /// <summary>The stretches of quantities at which buying more costs less in total: from the first to the last quantity of each, and
    /// the larger one that costs less.</summary>
    public static IEnumerable<DearerStretch> Dearer(IReadOnlyList<QuantityPoint> points)
    {
        // From the end: the least that any larger quantity costs.
        DearerStretch? open = null;
        var least = long.MaxValue;
        var (cheaper, found) = (0, new List<DearerStretch>());
        for (var i = points.Count - 1; i >= 0; i--)
        {
            if (points[i].Total > least)
                open = open is null ? new DearerStretch(points[i].Units, points[i].Units, cheaper) : open with { From = points[i].Units };
            else
            {
                if (open is not null)
                    found.Add(open);
                (open, least, cheaper) = (null, points[i].Total, points[i].Units);
            }
        }
        if (open is not null)
            found.Add(open);
        found.Reverse();
        return found;
    }
}

/// <summary>Quantities that cost more in total than a larger one.</summary>
/// <param name="From">Where it begins.</param>
/// <param name="To">Where it ends.</param>
/// <param name="Larger">The larger quantity that costs less.</param>
public sealed record DearerStretch(int From, int To, int Larger);
