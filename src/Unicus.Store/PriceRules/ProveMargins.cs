using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>Proves over the published range how low a margin prices can be pushed.</summary>
public sealed class ProveMargins(UnicusContext db, Catalogue catalogue)
{
    /// <summary>The products that are on sale, by name.</summary>
    public async Task<IReadOnlyList<int>> Products() =>
        await db.RangeEntries.AsNoTracking().OrderBy(e => e.NameKey).ThenBy(e => e.ProductId).Select(e => e.ProductId).ToListAsync();

    /// <summary>The lowest margin of each of some products, with its product; those without a known cost are left out.</summary>
    public async Task<IReadOnlyList<(int Product, ProvenMargin Margin)>> Of(IReadOnlyList<int> products, RunTerms terms)
    {
        var found = new List<(int, ProvenMargin)>();
        await foreach (var edition in catalogue.Many(db, products))
            if (await Of(edition, terms) is { } proven)
                found.Add((edition.ProductId, proven));
        return found;
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
