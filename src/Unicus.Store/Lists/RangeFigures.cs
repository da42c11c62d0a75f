using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Keeps the figures that lists show: works out anew what is due, and writes what is another than before.</summary>
public sealed class RangeFigures(UnicusContext db, Catalogue catalogue, TimeProvider clock)
{
    private readonly FiguresReckoning _reckoning = new(db, catalogue, clock);

    /// <summary>Takes some products that are due and works them out; several processes may do so at the same time.</summary>
    /// <returns>How many were.</returns>
    public async Task<int> Work(int most)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var due = await db
            .Database.SqlQuery<DueRow>(
                $"""
                delete from range_due where id = any(array(select id from range_due order by id limit {most} for update skip locked))
                returning product_id as "Product", prices_only
                """
            )
            .ToListAsync();
        var now = clock.GetUtcNow();
        var come = db.RangeFigures.Where(e => e.ChangesAt <= now).OrderBy(e => e.ProductId).Take(most).Select(e => e.ProductId);
        // Whether a moment that came is one of rules alone is seen by what was kept.
        due.AddRange(await come.Select(p => new DueRow(p, true)).ToListAsync());
        if (due.Count > 0)
            await Refresh([.. due.Select(d => d.Product).Distinct()], [.. due.Where(d => !d.PricesOnly).Select(d => d.Product)]);
        await transaction.CommitAsync();
        return due.Count;
    }

    /// <summary>Works out anew what lists show of some products, where their stock moved or their day has come, and of the sets they
    /// are in; within a transaction.</summary>
    public Task Refresh(IReadOnlyCollection<int> products) => Refresh([.. products], products.ToHashSet());

    /// <param name="ids">The products.</param>
    /// <param name="moved">Those of them of which more than rules of prices changed.</param>
    /// <inheritdoc cref="Refresh(IReadOnlyCollection{int})"/>
    private async Task Refresh(int[] ids, HashSet<int> moved)
    {
        int[] stocked = [.. moved];
        if (stocked.Length > 0)
            await db.Database.ExecuteSqlAsync(
                $"""
                update products p set available = s.available
                from (select i as id, coalesce(sum(l.on_hand - l.allocated - l.on_hold), 0) as available
                  from unnest({stocked}) i left join levels l on l.product_id = i group by i) s
                where p.id = s.id and p.available <> s.available
                """
            );
        // Held before they are worked out: of two who do so the later one has seen what the earlier one saw.
        int[] held =
        [
            .. await db
                .Database.SqlQuery<int>(
                    $"""
                    select product_id as "Value" from range_figures where product_id in
                      (select unnest({ids}) union select product_id from range_entries where part_products && {ids})
                    order by product_id for no key update
                    """
                )
                .ToListAsync(),
        ];
        var shown = await _reckoning.Of(held, moved);
        await Write(shown);
        await MarkOffers(db, shown);
        await KeptBases.Write(db, shown);
    }

    /// <summary>Writes the figures of many products at once, those that are others than before.</summary>
    private async Task Write(IReadOnlyList<ShownFigures> shown)
    {
        int[] products = [.. shown.Select(s => s.Product)];
        decimal?[] from = [.. shown.Select(s => s.Figures.From?.Amount)];
        bool[] varies = [.. shown.Select(s => s.Figures.Varies)];
        decimal?[] once = [.. shown.Select(s => s.Figures.Once?.Amount)];
        string[] badges = [.. shown.Select(s => s.Badge)];
        string[] none = [.. shown.Select(s => s.NoneWords)];
        DateTimeOffset?[] changes = [.. shown.Select(s => s.Changes?.ToUniversalTime())];
        bool[] listed = [.. shown.Select(s => s.IsListed)];
        bool[] found = [.. shown.Select(s => s.IsFound)];
        bool[] featured = [.. shown.Select(s => s.IsListed && s.IsFeatured)];
        await db.Database.ExecuteSqlAsync(
            $"""
            update range_figures f set from_price = n.from_price, varies = n.varies, once = n.once, badge = n.badge,
              none_words = n.none_words, changes_at = n.changes_at
            from unnest({products}, {from}, {varies}, {once}, {badges}, {none}, {changes})
              n(product_id, from_price, varies, once, badge, none_words, changes_at)
            where f.product_id = n.product_id and (f.from_price, f.varies, f.once, f.badge, f.none_words, f.changes_at)
              is distinct from (n.from_price, n.varies, n.once, n.badge, n.none_words, n.changes_at)
            """
        );
        var moved = await db
            .Database.SqlQuery<int>(
                $"""
                select e.product_id as "Value" from range_entries e
                join unnest({products}, {listed}, {found}, {featured}) n(product_id, listed, searchable, featured)
                  on n.product_id = e.product_id
                where (e.listed, e.searchable, e.featured) <> (n.listed, n.searchable, n.featured)
                """
            )
            .ToListAsync();
        var byProduct = shown.ToDictionary(s => s.Product);
        foreach (var entry in await db.RangeEntries.Include(e => e.Figures).Where(e => moved.Contains(e.ProductId)).ToListAsync())
            byProduct[entry.ProductId].Write(entry);
        await db.SaveChangesAsync();
    }

    /// <summary>Writes which offers can be bought, where they are others than before.</summary>
    internal static async Task MarkOffers(UnicusContext db, IReadOnlyList<ShownFigures> shown)
    {
        int[] offering = [.. shown.Where(s => s.Offers?.Length > 0).Select(s => s.Product)];
        if (offering.Length == 0)
            return;
        // Most are as they were: what is there is read by the product, and only others are written.
        var there = await db
            .Database.SqlQuery<KnownOffers>(
                $"""
                select product_id as "Product", array_agg(buyable order by place) as "Buyable" from range_offers
                where product_id = any({offering}) group by product_id
                """
            )
            .ToDictionaryAsync(o => o.Product, o => o.Buyable);
        var offers = shown
            .Where(s => s.Offers is not null && !there.GetValueOrDefault(s.Product, []).SequenceEqual(s.Offers))
            .SelectMany(s => s.Offers!.Select((buyable, place) => (s.Product, place, buyable)))
            .ToList();
        if (offers.Count == 0)
            return;
        int[] products = [.. offers.Select(o => o.Product)];
        int[] places = [.. offers.Select(o => o.place)];
        bool[] buyable = [.. offers.Select(o => o.buyable)];
        await db.Database.ExecuteSqlAsync(
            $"""
            update range_offers o set buyable = b.buyable
            from unnest({products}, {places}, {buyable}) b(product, place, buyable)
            where o.product_id = b.product and o.place = b.place and o.buyable <> b.buyable
            """
        );
    }
}
