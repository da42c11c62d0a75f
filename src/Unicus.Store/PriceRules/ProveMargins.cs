using Microsoft.EntityFrameworkCore;
using Unicus.Core;

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
        await foreach (var edition in catalogue.Many(db, products))
            if (await Of(edition, terms) is { } proven)
                found.Add((edition.ProductId, proven));
            else if (edition.Product.IsSet)
                sets++;
        return new ProvenProducts(found, sets);
    }

    /// <summary>The lowest margin of a product; null where none of its variants has both a price and a cost.</summary>
    public async Task<ProvenMargin?> Of(Edition edition, RunTerms terms)
    {
        var range = await catalogue.Range(db, edition);
        return new LowestMargin(terms, range).Of(edition);
    }

    /// <summary>How the price of what is sold at the lowest margin comes about.</summary>
    public async Task<PriceWorking?> Working(SoldAt sold, RunTerms terms)
    {
        var range = await catalogue.Range(db, sold.Goods.Edition);
        return sold.Line(terms, range) is var (line, bought) ? PriceRun.Working(line, bought, range) : null;
    }
}
