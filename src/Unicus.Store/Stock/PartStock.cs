using System.Collections.Immutable;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>How many can be sold of a variant that takes parts with it.</summary>
public static class PartStock
{
    /// <summary>The fewest that any of the SKUs allows; a part that is the variant's own SKU counts with it.</summary>
    public static Availability Available(MatrixVariant variant, ImmutableArray<ValuePart> parts, Func<string, PartOnSale?> onSale, IReadOnlyDictionary<Sku, StockLevel> stock, DateOnly today)
    {
        var needs = new Dictionary<Sku, (MatrixVariant Variant, int Units, string? Name)> { [variant.Sku] = (variant, 1, null) };
        foreach (var part in parts)
        {
            if (onSale(part.Sku) is not { } found) return new Availability(0, $"{part.Sku} is not on sale");
            var (of, units, name) = needs.GetValueOrDefault(found.Variant.Sku, (found.Variant, 0, found.Figures.Name));
            needs[found.Variant.Sku] = (of, units + part.Quantity, name);
        }
        Availability? least = null;
        foreach (var (sku, (of, units, name)) in needs)
        {
            var one = Availability.Of(of.Selling, stock.GetValueOrDefault(sku), today);
            var sets = one.Units / units;
            if (least is null || (sets is { } n && (least.Units is not { } so || n < so))) least = new Availability(sets, name is null ? one.Words : sets is { } few ? few == 0 ? $"{name}: none left" : $"{few:N0} left with {name}" : "");
        }
        return least!;
    }

    /// <summary>Stock of a product's variants together with that of its parts.</summary>
    public static async Task<IReadOnlyDictionary<Sku, StockLevel>> With(UnicusContext db, IReadOnlyDictionary<Sku, StockLevel> own, Product product, Func<string, PartOnSale?> onSale)
    {
        var products = product.Extras.SelectMany(e => e.Values).Select(v => v.Part is { } part ? onSale(part.Sku)?.Edition.ProductId : null).OfType<int>().Distinct().ToList();
        if (products.Count == 0) return own;
        var all = new Dictionary<Sku, StockLevel>(own);
        foreach (var (sku, level) in await SkuLookup.Stock(db, products)) all[sku] = level;
        return all;
    }
}
