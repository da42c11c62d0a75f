namespace Unicus.Store;

/// <summary>Stock levels of a product as they are.</summary>
/// <param name="Stamp">Another one whenever they were read anew, so that what was made from them can be kept under it.</param>
/// <param name="Levels">By SKU, former codes too.</param>
public sealed record ProductStock(Guid Stamp, IReadOnlyDictionary<Sku, StockLevel> Levels);

/// <summary>The stock that a product's page shows: of its variants and of the parts that its extras name.</summary>
/// <param name="Products">Its own first.</param>
public sealed record ShownStock(IReadOnlyList<ProductStock> Products)
{
    /// <summary>Changes whenever any of it changes.</summary>
    public string Stamp => string.Join('-', Products.Select(p => p.Stamp));

    /// <summary>The level of a SKU; the default where there is none.</summary>
    public StockLevel Of(Sku sku)
    {
        foreach (var product in Products)
            if (product.Levels.TryGetValue(sku, out var level))
                return level;
        return default;
    }
}

/// <summary>Stock levels by product, kept until they change.</summary>
public sealed class StockBoard : IDisposable
{
    private const long MostBytes = 64L * 1024 * 1024;

    private readonly ToldCache<int, ProductStock> _stock;

    internal StockBoard(Telling telling) =>
        _stock = new ToldCache<int, ProductStock>(telling, "stock by product", MostBytes, s => 400 + 120L * s.Levels.Count).ForgetBy(
            n => n.Product,
            NewsKind.Stock
        );

    internal IEnumerable<IKept> Kept => [_stock];

    /// <summary>The stock of a product and of the parts that its extras name.</summary>
    public async Task<ShownStock> Stock(UnicusContext db, Edition edition, PublishedRange range)
    {
        var stock = new List<ProductStock> { await StockOf(db, edition.ProductId) };
        foreach (var product in EditionParts.PartsOf(edition, range))
            stock.Add(await StockOf(db, product));
        return new ShownStock(stock);
    }

    /// <summary>The stock of everything that lines take.</summary>
    public async Task<ShownStock> Stock(UnicusContext db, IEnumerable<LeafNeed> needs)
    {
        var stock = new List<ProductStock>();
        foreach (var product in needs.Select(n => n.Goods.Edition.ProductId).Distinct())
            stock.Add(await StockOf(db, product));
        return new ShownStock(stock);
    }

    internal async Task<ProductStock> StockOf(UnicusContext db, int product) =>
        (await _stock.Get(product, async () => new ProductStock(Guid.NewGuid(), await SkuLookup.Stock(db, [product]))))!;

    /// <inheritdoc/>
    public void Dispose() => _stock.Dispose();
}
