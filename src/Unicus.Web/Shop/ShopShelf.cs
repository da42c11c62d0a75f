using System.Runtime.CompilerServices;
using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Shop;

/// <summary>A product on the shop's shelf.</summary>
public sealed record ShelfItem(Product Product, PriceSpan? Buyable, string? Picture, string Words);

/// <summary>The products that the shop lists, with the lowest price of what can be bought now.</summary>
public sealed class ShopShelf(UnicusContext db, Catalogue catalogue)
{
    /// <summary>What was worked out for a list of editions: once for all who ask while the catalogue gives the same list.</summary>
    private static readonly ConditionalWeakTable<object, Lazy<Task<IReadOnlyList<ShelfItem>>>> Kept = [];

    public async Task<IReadOnlyList<ShelfItem>> Items(DateOnly today)
    {
        var editions = await catalogue.All(db);
        return await Kept.GetValue(editions, _ => new Lazy<Task<IReadOnlyList<ShelfItem>>>(() => Make(editions, today))).Value;
    }

    private async Task<IReadOnlyList<ShelfItem>> Make(IReadOnlyList<CompiledEdition> editions, DateOnly today)
    {
        var stock = await SkuLookup.Stock(db, [.. editions.Select(e => e.ProductId)]);
        var items = new List<ShelfItem>(editions.Count);
        foreach (var edition in editions)
        {
            var item = Item(edition, stock, today);
            if (item.Buyable is { } span && !edition.Product.Extras.IsEmpty)
            {
                var parts = await catalogue.Parts(db, edition.Product);
                var lowest = edition.Configurator.From(
                    v => Availability.Of(v.Selling, stock.GetValueOrDefault(v.Sku), today).CanSell(1),
                    sku => parts(sku)?.Figures
                );
                item = item with
                {
                    Buyable = lowest is { } from ? span with { Lowest = from, Highest = from > span.Highest ? from : span.Highest } : null,
                };
            }
            items.Add(item);
        }
        return items;
    }

    private static ShelfItem Item(CompiledEdition edition, IReadOnlyDictionary<Sku, StockLevel> stock, DateOnly today)
    {
        var buyable = PriceSpan.Of(
            edition
                .Matrix.Offered.Where(v => Availability.Of(v.Selling, stock.GetValueOrDefault(v.Sku), today).CanSell(1))
                .Select(v => v.Price.Figure)
        );
        var off = buyable is null
            ? edition.Matrix.Offered.Select(v => Availability.Of(v.Selling, stock.GetValueOrDefault(v.Sku), today).Words).FirstOrDefault()
                ?? ""
            : "";
        return new ShelfItem(edition.Product, buyable, edition.Product.Pictures.FirstOrDefault()?.File, off);
    }
}
