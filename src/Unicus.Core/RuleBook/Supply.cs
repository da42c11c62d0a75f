namespace Unicus.Core.RuleBook;

using Unicus.Core.Pricing.Stages;
using Unicus.Core.Range;
using Unicus.Core.Stock;
using Unicus.Core.Variants;

/// <summary>How the goods of a line come to the buyer. Stage 1 asks it for the list price, stock for what there is to take; nothing else
/// tells the ways apart.</summary>
public abstract record Supply
{
    private Supply() { }

    /// <summary>Sold for good.</summary>
    public static Supply Sold { get; } = new ForGood();

    /// <summary>What one unit of a variant is listed at, costs and is taxed by; null where it cannot be had in this way.</summary>
    internal abstract LineGoods? Listed(SellingFigures figures, MatrixVariant variant);

    /// <summary>Units of goods that there are for it, 0 or more; null: without limit.</summary>
    internal abstract long? CapacityOf(StockOutlook stock, VariantOnSale goods);

    private sealed record ForGood : Supply
    {
        internal override LineGoods? Listed(SellingFigures figures, MatrixVariant variant) => figures.Of(variant);

        internal override long? CapacityOf(StockOutlook stock, VariantOnSale goods) => stock.CapacityOf(goods.Variant);
    }
}
