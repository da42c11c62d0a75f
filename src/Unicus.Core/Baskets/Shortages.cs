namespace Unicus.Core.Baskets;

using Unicus.Core.Assembling;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Stock;

/// <summary>A SKU that runs short.</summary>
/// <param name="Sku">Its code.</param>
/// <param name="Wanted">Units that all lines together want.</param>
/// <param name="Available">Units that can be sold.</param>
public sealed record Shortage(string Sku, long Wanted, long Available);

/// <summary>What lines want of each SKU, against what there is.</summary>
public static class Shortages
{
    /// <summary>Every SKU of which more is wanted than can be sold, or than can ever move at once.</summary>
    /// <param name="lines">What one unit of each line takes, with its units.</param>
    /// <param name="stock">What there is.</param>
    public static IReadOnlyList<Shortage> Of(IEnumerable<RunLine> lines, StockOutlook stock) =>
        [.. lines.GroupBy(l => l.Supply).SelectMany(same => Of(same.Key, same, stock))];

    /// <summary>Of lines whose goods come in one way.</summary>
    private static IEnumerable<Shortage> Of(Supply supply, IEnumerable<RunLine> lines, StockOutlook stock)
    {
        long Capacity(VariantOnSale goods) => Math.Min(supply.CapacityOf(stock, goods) ?? Movements.MostUnits, Movements.MostUnits);
        var demand = new SetDemand(goods => Capacity(goods));
        foreach (var line in lines)
            demand.Take(line.Needs, line.Quantity);
        return demand.Short.Select(t => new Shortage(t.Goods.Variant.Sku.Text, t.Units, Capacity(t.Goods)));
    }
}
