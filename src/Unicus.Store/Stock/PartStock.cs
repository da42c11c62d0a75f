using System.Collections.Immutable;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>How many can be sold of a variant that takes parts with it.</summary>
public static class PartStock
{
    /// <summary>The fewest that any of the SKUs allows; a part that is the variant's own SKU counts with it.</summary>
    public static Availability Available(
        MatrixVariant variant,
        ImmutableArray<ValuePart> parts,
        Func<string, PartOnSale?> onSale,
        IReadOnlyDictionary<Sku, StockLevel> stock,
        DateOnly today
    )
    {
        var needs = new Dictionary<Sku, Need> { [variant.Sku] = new(variant, 1, null) };
        foreach (var part in parts)
        {
            if (onSale(part.Sku) is not { } found)
                return new Availability(0, $"{part.Sku} is not on sale", 0);
            var need = needs.GetValueOrDefault(found.Variant.Sku, new Need(found.Variant, 0, found.Figures.Name));
            needs[found.Variant.Sku] = need with { Units = need.Units + part.Quantity };
        }
        var all = needs.Select(n => n.Value.Of(Availability.Of(n.Value.Variant.Selling, stock.GetValueOrDefault(n.Key), today))).ToList();
        var least = all.Where(a => a.Units is not null).MinBy(a => a.Units) ?? all[0];
        return least with { InStock = all.Min(a => a.InStock) };
    }

    /// <summary>A SKU that one unit takes.</summary>
    /// <param name="Name">What it is called where it is a part; null for the variant itself.</param>
    private sealed record Need(MatrixVariant Variant, int Units, string? Name)
    {
        /// <summary>How many of the whole this SKU allows.</summary>
        public Availability Of(Availability own)
        {
            var sets = own.Units / Units;
            var words = Name is null
                ? own.Words
                : sets switch
                {
                    null => "",
                    0 => $"{Name}: none left",
                    { } few => $"{few:N0} left with {Name}",
                };
            return new Availability(sets, words, own.InStock / Units);
        }
    }

    /// <summary>Stock of a product's variants together with that of its parts.</summary>
    public static async Task<IReadOnlyDictionary<Sku, StockLevel>> With(
        UnicusContext db,
        IReadOnlyDictionary<Sku, StockLevel> own,
        Product product,
        Func<string, PartOnSale?> onSale
    )
    {
        var products = product
            .Extras.SelectMany(e => e.Values)
            .Select(v => v.Part is { } part ? onSale(part.Sku)?.Edition.ProductId : null)
            .OfType<int>()
            .Distinct()
            .ToList();
        if (products.Count == 0)
            return own;
        var all = new Dictionary<Sku, StockLevel>(own);
        foreach (var (sku, level) in await SkuLookup.Stock(db, products))
            all[sku] = level;
        return all;
    }
}
