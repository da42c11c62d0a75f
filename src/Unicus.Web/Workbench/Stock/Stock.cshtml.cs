using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>A SKU of the product in the chapter Stock.</summary>
/// <param name="Values">Null where it is no longer made, so that it is only shown.</param>
public sealed record StockLine(string Name, string Sku, string? Values, bool Retired, StockLevel Level);

/// <summary>The chapter Stock.</summary>
public sealed class StockChapter(Bench bench, MatrixCells cells) : CellsModel(bench, cells)
{
    public override Chapter Chapter => Chapter.Stock;

    private const int MostStockRows = 300;

    public IReadOnlyList<StockLine> StockRows
    {
        get
        {
            var made = Copy
                .Matrix.Variants.Take(MostStockRows)
                .DistinctBy(v => v.Sku)
                .Select(v => new StockLine(
                    Name(v.Values),
                    v.Sku.Text,
                    v.Values.Text,
                    v.Variant.Retired,
                    Copy.Stock.GetValueOrDefault(v.Sku)
                ));
            var gone = Copy.Gone.Select(g => new StockLine(
                string.Join(", ", g.Values.Pairs.Select(p => p.Value)),
                g.Sku.Text,
                null,
                true,
                Copy.Stock.GetValueOrDefault(g.Sku)
            ));
            return [.. made, .. gone];
        }
    }

    /// <inheritdoc/>
    protected override VariantScope Needed(Product product) => VariantScope.Of(FirstForStock(product));

    private static IEnumerable<Combination> FirstForStock(Product product)
    {
        var made = new MadeSet(product.Options, product.NotMade);
        return made.Made().Take(MostStockRows).Select(made.At);
    }

    private string Name(Combination values) => Copy.Product.Options.IsEmpty ? Copy.Product.Name : values.Name(Copy.Product.Options);
}
