using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>A product that was often bought with another.</summary>
/// <param name="Lift">How many times as often as by chance.</param>
public sealed record Proposed(string Code, string Name, int Orders, double Lift);

/// <summary>What is suggested beside products: companions, step-ups, and the sets that they are in.</summary>
public sealed class Suggestions(UnicusContext db, FiguresOfNow now)
{
    private const int MostSets = 4;
    private const int MostProposed = 6;

    /// <summary>Those of some products that lists show and that can be bought, in the order of their codes.</summary>
    public async Task<IReadOnlyList<ShownProduct>> Shown(IReadOnlyList<ProductCode> codes)
    {
        if (codes.Count == 0)
            return [];
        string[] wanted = [.. codes.Select(c => c.Text)];
        var found = await db
            .RangeEntries.AsNoTracking()
            .Include(e => e.Figures)
            .Where(e => e.Listed && e.Figures.FromPrice != null && wanted.Contains(e.Code))
            .ToListAsync();
        return [.. (await now.In(found)).OrderBy(e => Array.IndexOf(wanted, e.Code)).Select(ShownProduct.Of)];
    }

    /// <summary>Which of some codes name nothing that is on sale and listed.</summary>
    public async Task<IReadOnlyList<ProductCode>> NotShown(IReadOnlyList<ProductCode> codes)
    {
        if (codes.Count == 0)
            return [];
        string[] wanted = [.. codes.Select(c => c.Text)];
        var listed = await db.RangeEntries.Where(e => e.Listed && wanted.Contains(e.Code)).Select(e => e.Code).ToListAsync();
        return [.. codes.Where(c => !listed.Contains(c.Text))];
    }

    /// <summary>The listed sets and groups with any of some products in them that can be bought.</summary>
    public async Task<IReadOnlyList<ShownProduct>> SetsWith(IEnumerable<int> products)
    {
        int[] ids = [.. products];
        var found = await db
            .RangeEntries.AsNoTracking()
            .Include(e => e.Figures)
            .Where(e => e.Listed && e.Figures.FromPrice != null && e.PartProducts.Any(p => ids.Contains(p)))
            .OrderBy(e => e.Position)
            .ThenBy(e => e.NameKey)
            .Take(MostSets)
            .ToListAsync();
        return [.. (await now.In(found)).Select(ShownProduct.Of)];
    }

    /// <summary>What was often bought with a product and is not suggested beside it yet.</summary>
    public async Task<IReadOnlyList<Proposed>> ProposedFor(int product, IEnumerable<ProductCode> already)
    {
        string[] known = [.. already.Select(c => c.Text)];
        return await (
            from t in db.BoughtTogether
            join e in db.RangeEntries on t.OtherId equals e.ProductId
            where t.ProductId == product && e.Listed && !known.Contains(e.Code)
            orderby t.Lift descending, t.Orders descending
            select new Proposed(e.Code, e.Name, t.Orders, t.Lift)
        )
            .Take(MostProposed)
            .ToListAsync();
    }
}
