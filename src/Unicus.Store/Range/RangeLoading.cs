namespace Unicus.Store;

/// <summary>Reads what a question needs of the published range, each product and SKU once.</summary>
internal sealed class RangeLoading(Editions editions, UnicusContext db)
{
    private readonly Dictionary<string, Edition> _editions = [];
    private readonly Dictionary<string, VariantOnSale> _skus = [];

    public RangeView View => new(_editions, _skus);

    public async Task Add(Edition edition)
    {
        if (!_editions.TryAdd(edition.Product.Code.Text, edition))
            return;
        foreach (var sku in EditionParts.PartSkus(edition.Product))
            await Add(sku);
        foreach (var candidate in edition.Product.SlotsInRange.SelectMany(s => s.Candidates))
            if (candidate.Sku is { } sku)
                await Add(sku);
            else if (await editions.Latest(db, candidate.Product!) is { } part)
                await Add(part);
    }

    public async Task Add(string sku)
    {
        var key = sku.Trim().ToUpperInvariant();
        if (_skus.ContainsKey(key) || await editions.OfSku(db, sku) is not { } found)
            return;
        _skus[key] = found;
        await Add(found.Edition);
    }
}
