using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Figures of now for a page that is shown before the keeper has worked them out.</summary>
public sealed class FiguresOfNow(UnicusContext db, Catalogue catalogue, FiguresMeanwhile meanwhile, TimeProvider clock)
{
    private readonly FiguresReckoning _reckoning = new(db, catalogue, clock);

    /// <summary>Puts the figures of now in place of those that are due; nothing is written, so that nobody waits for a lock to read
    /// a list.</summary>
    internal async Task<IReadOnlyList<RangeEntryRow>> In(IReadOnlyList<RangeEntryRow> entries)
    {
        if (entries.Count == 0)
            return entries;
        int[] ids = [.. entries.Select(e => e.ProductId)];
        var now = clock.GetUtcNow();
        var due = await db
            .Database.SqlQuery<DueFigures>(
                $"""
                select e.product_id as "Product", p.edition as "Edition", coalesce(d.last, 0) as "Last", f.changes_at as "Come",
                  coalesce(d.moved, false) as "Moved"
                from range_entries e join range_figures f on f.product_id = e.product_id join products p on p.id = e.product_id
                cross join lateral (select max(d.id) as last, not bool_and(d.prices_only) as moved from range_due d
                  where d.product_id = any(e.part_products || e.product_id)) d
                where e.product_id = any({ids}) and (d.last is not null or f.changes_at <= {now})
                """
            )
            .ToListAsync();
        if (due.Count == 0)
            return entries;
        var (shown, open) = (new Dictionary<int, ShownFigures>(), new Dictionary<int, DueFigures>());
        foreach (var one in due)
            if (meanwhile.Find(one) is { } kept)
                shown[one.Product] = kept;
            else
                open[one.Product] = one;
        if (open.Count > 0)
            foreach (var found in await _reckoning.Of([.. open.Keys], [.. open.Values.Where(d => d.Moved).Select(d => d.Product)]))
            {
                shown[found.Product] = found;
                meanwhile.Keep(open[found.Product], found);
            }
        foreach (var entry in entries)
            if (shown.TryGetValue(entry.ProductId, out var figures))
                figures.Write(entry);
        return [.. entries.Where(e => e.Searchable)];
    }
}
