using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>The lowest margins of some products.</summary>
/// <param name="SetsLeftOut">Sets of which it could not be proven.</param>
public sealed record ProvenProducts(IReadOnlyList<(int Product, ProvenMargin Margin)> Found, int SetsLeftOut);

/// <summary>Proves over the published range how low a margin prices can be pushed.</summary>
public sealed class ProveMargins(UnicusContext db, Catalogue catalogue)
{
    /// <summary>The products that are on sale, by name.</summary>
    public async Task<IReadOnlyList<int>> Products() =>
        await db.RangeEntries.AsNoTracking().OrderBy(e => e.NameKey).ThenBy(e => e.ProductId).Select(e => e.ProductId).ToListAsync();

    /// <summary>The lowest margin of each of some products, with its product; those without a known cost are left out.</summary>
    public async Task<ProvenProducts> Of(IReadOnlyList<int> products, RunTerms terms)
    {
        var (found, sets) = (new List<(int, ProvenMargin)>(), 0);
        var pages = await PagesOf(products);
        await foreach (var edition in catalogue.Editions.Many(db, products))
            if (await Of(edition, terms, pages[edition.ProductId]) is { } proven)
                found.Add((edition.ProductId, proven));
            else if (edition.Product.IsSet)
                sets++;
        return new ProvenProducts(found, sets);
    }

    /// <summary>The lowest margin of a product; null where none of its variants has both a price and a cost, or can be bought.</summary>
    public async Task<ProvenMargin?> Of(Edition edition, RunTerms terms) =>
        await Of(edition, terms, (await PagesOf([edition.ProductId]))[edition.ProductId]);

    private async Task<ProvenMargin?> Of(Edition edition, RunTerms terms, IEnumerable<string> pages)
    {
        var range = await catalogue.Editions.Range(db, edition);
        return new LowestMargin(terms, range, _ => [.. pages]).Of(edition);
    }

    /// <summary>The codes of the published pages that hold each of some products.</summary>
    private async Task<ILookup<int, string>> PagesOf(IReadOnlyCollection<int> products)
    {
        int[] asked = [.. products];
        var holders = await db
            .RangeEntries.AsNoTracking()
            .Where(e => e.PartProducts.Any(p => asked.Contains(p)))
            .Select(e => e.Code)
            .ToListAsync();
        var pages = new List<(int Product, string Page)>();
        foreach (var code in holders)
            if (await catalogue.Editions.Latest(db, code) is { Product.Parts: not null } page)
            {
                var held = page.Product.SlotsInRange.SelectMany(s => s.Candidates).Select(c => c.Product).OfType<string>().Distinct();
                foreach (var product in held)
                    if (await catalogue.Editions.Latest(db, product) is { } part)
                        pages.Add((part.ProductId, code));
            }
        return pages.ToLookup(p => p.Product, p => p.Page);
    }

    /// <summary>How the price of what is sold at the lowest margin comes about.</summary>
    public async Task<PriceWorking?> Working(SoldAt sold, RunTerms terms) =>
        sold.Working(terms, await catalogue.Editions.Range(db, sold.Goods.Edition));
}
