using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Keeps the index that the shop's lists are read from: an entry for each published product, with what may be picked of
/// it.</summary>
/// <remarks>
/// Written with each publication; a price that hangs on stock, rules or the day is worked out anew in the background (<see
/// cref="RangeKeeper"/>), and for a page that is shown before that by the page itself.
/// </remarks>
public sealed class RangeIndex(UnicusContext db, Catalogue catalogue, FiguresMeanwhile meanwhile, TimeProvider clock)
{
    /// <summary>SKUs of products with at most so many variants are found by their pieces; others by their beginning.</summary>
    private const int MostSkusInText = 200;

    /// <summary>Of products with more variants nothing is kept beside their documents.</summary>
    private const int MostVariantsKept = 1_000;

    /// <summary>Writes the entry of a product that was just published, within the transaction that publishes it.</summary>
    public async Task Publish(Edition edition)
    {
        var product = edition.Product;
        var entry = await db.RangeEntries.Include(e => e.Figures).SingleOrDefaultAsync(e => e.ProductId == edition.ProductId);
        if (entry is null)
        {
            entry = new RangeEntryRow
            {
                ProductId = edition.ProductId,
                Code = "",
                Address = "",
                Name = "",
                NameKey = "",
                Since = edition.PublishedAt,
                Figures = new RangeFiguresRow { ProductId = edition.ProductId, NameKey = "" },
            };
            db.RangeEntries.Add(entry);
        }
        (entry.Code, entry.Address) = (product.Code.Text, product.Address);
        (entry.Name, entry.NameKey) = (product.Name, SearchWords.Fold(product.Name));
        entry.Figures.NameKey = entry.NameKey;
        (entry.Summary, entry.Picture) = (product.Summary, product.Pictures.FirstOrDefault()?.File);
        (entry.OwnBadge, entry.Position) = (product.Badge ?? "", product.Shelf.Position ?? Shelf.LastPosition + 1);
        entry.Named = [.. product.Categories];
        entry.Description = Membership.TextOf(product);
        entry.Categories = [.. Membership.Of(await PriceBooks.Tree(db), entry.Named, entry.Description)];
        if (product.Parts is not null)
        {
            product = await catalogue.Editions.Filled(db, product);
            edition = new Edition(edition.ProductId, edition.Number, edition.PublishedAt, product, edition.Matrix) { Sets = edition.Sets };
        }
        var range = await catalogue.Editions.Range(db, edition);
        // What is sold only as a part is found by what it is in.
        var parts = EditionParts
            .EditionsIn(edition, range)
            .Where(p => !p.Product.Shelf.Alone)
            .SelectMany(p => SkusOf(p).Append(p.Product.Name));
        // What was brought together with it is found by the address that it had, which is its name.
        var former = await db.AddressAliases.Where(a => a.ProductId == edition.ProductId).Select(a => a.Address).ToListAsync();
        entry.SearchText = SearchWords.TextOf(product, [.. SkusOf(edition), .. parts, .. former]);
        await SearchWords.Learn(db, entry.SearchText);
        entry.PartProducts = [.. EditionParts.PartsOf(edition, range)];
        await WriteOffers(edition);
        var shown = await FiguresOf(edition, range);
        shown.Write(entry);
        // What was just added is saved before it is marked.
        await db.SaveChangesAsync();
        await MarkOffers([shown]);
        await KeptBases.Write(db, [shown]);
        if (!product.Shelf.Alone)
            await FindWhatContains(edition);
        // What takes it as a part may cost something else now.
        await db.Database.ExecuteSqlAsync(
            $"insert into range_due (product_id) select product_id from range_entries where part_products @> array[{edition.ProductId}]"
        );
    }

    /// <summary>What is sold only as a part is found by every set and group that it is in, those published before it too.</summary>
    private async Task FindWhatContains(Edition part)
    {
        var words = string.Join(' ', SearchWords.Of(string.Join(' ', SkusOf(part).Prepend(part.Product.Name))));
        await db.Database.ExecuteSqlAsync(
            $"""
            update range_entries set search_text = search_text || ' ' || {words}
            where product_id in (
                select product_id from range_entries
                where part_products @> array[{part.ProductId}] and position({words} in search_text) = 0
                order by product_id for update)
            """
        );
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
        var shown = await FiguresOf(held, moved);
        await Write(shown);
        await MarkOffers(shown);
        await KeptBases.Write(db, shown);
    }

    /// <summary>Puts the figures of now in place of those that are due; nothing is written, so that nobody waits for a lock to read
    /// a list.</summary>
    internal async Task<IReadOnlyList<RangeEntryRow>> AsOfNow(IReadOnlyList<RangeEntryRow> entries)
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
            foreach (var found in await FiguresOf([.. open.Keys], [.. open.Values.Where(d => d.Moved).Select(d => d.Product)]))
            {
                shown[found.Product] = found;
                meanwhile.Keep(open[found.Product], found);
            }
        foreach (var entry in entries)
            if (shown.TryGetValue(entry.ProductId, out var figures))
                figures.Write(entry);
        return [.. entries.Where(e => e.Searchable)];
    }

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

    /// <summary>Finds anew which categories hold which products, after the tree changed.</summary>
    public async Task Recategorise()
    {
        var tree = await PriceBooks.Tree(db);
        foreach (var entry in await db.RangeEntries.ToListAsync())
        {
            int[] categories = [.. Membership.Of(tree, entry.Named, entry.Description)];
            if (!categories.SequenceEqual(entry.Categories))
                entry.Categories = categories;
        }
        await db.SaveChangesAsync();
        // Prices may hang on categories.
        await db.Database.ExecuteSqlAsync(
            $"select all_are_due(true) where exists (select 1 from price_rules where jsonb_exists(document -> 'scope', 'categories'))"
        );
    }

    private static IEnumerable<string> SkusOf(Edition edition) =>
        edition.Matrix.Made.Count > MostSkusInText
            ? []
            : edition.Matrix.Offered.SelectMany(v => v.Variant.Gtin is { } gtin ? new[] { v.Sku.Text, gtin.ToString() } : [v.Sku.Text]);

    /// <summary>What lists show of some published products that hangs on prices, stock and day.</summary>
    /// <param name="moved">Those of which more than rules of prices changed.</param>
    private async Task<IReadOnlyList<ShownFigures>> FiguresOf(int[] products, HashSet<int> moved)
    {
        var now = clock.GetUtcNow();
        var terms = await catalogue.Terms.PublicTerms(db, now);
        var shown = await new KeptBases(db, terms, now).FiguresOf([.. products.Where(p => !moved.Contains(p))]);
        int[] others = [.. products.Except(shown.Select(s => s.Product))];
        if (others.Length > 0)
            shown.AddRange(await WorkOut(others, terms, now));
        return shown;
    }

    /// <summary>The same from documents and stock. What takes no parts is worked out by the hundred, from its own stock alone.</summary>
    private async Task<IReadOnlyList<ShownFigures>> WorkOut(int[] products, RunTerms terms, DateTimeOffset now)
    {
        var shop = await catalogue.Terms.Settings(db);
        int[] sets =
        [
            .. await db
                .RangeEntries.Where(e => products.Contains(e.ProductId) && e.PartProducts.Length > 0)
                .Select(e => e.ProductId)
                .ToListAsync(),
        ];
        int[] plain = [.. products.Except(sets)];
        var levels = await SkuLookup.Stock(db, plain);
        var stock = new StockOutlook(sku => levels.GetValueOrDefault(sku), shop.DayAt(now));
        var editions = new List<Edition>();
        await foreach (var edition in catalogue.Editions.Many(db, plain))
            editions.Add(edition);
        var standing = new StandingTerms(PublishedRange.Empty, stock, terms);
        var shown = editions.AsParallel().Select(e => Shown(e, standing)).ToList();
        foreach (var set in sets)
            if (await catalogue.Editions.Latest(db, set) is { } edition)
                shown.Add(await FiguresOf(edition, await catalogue.Editions.Range(db, edition)));
        return shown;
    }

    private async Task<ShownFigures> FiguresOf(Edition edition, PublishedRange range)
    {
        var (shop, now) = (await catalogue.Terms.Settings(db), clock.GetUtcNow());
        var levels = await catalogue.Board.Stock(db, edition, range);
        var stock = new StockOutlook(levels.Of, shop.DayAt(now));
        return Shown(edition, new StandingTerms(range, stock, await catalogue.Terms.PublicTerms(db, now)));
    }

    /// <summary>What lists show of a product now.</summary>
    private static ShownFigures Shown(Edition edition, StandingTerms terms)
    {
        var (stock, buying) = (terms.Stock, terms.Run.Buying);
        var figures = ListFigures.Of(edition, terms);
        var none = figures.From is null ? edition.Matrix.Offered.Select(v => stock.Of(v).Words).FirstOrDefault() ?? "" : "";
        var returns = edition.Matrix.Offered.Select(v => v.Selling.OffForNow?.Back).Where(d => d > stock.Today).Min();
        var shelf = edition.Product.Shelf;
        var rules = buying.Book.NextChange(edition, buying.At, buying.Zone);
        var day = new[] { returns, shelf.NextChange(stock.Today) }.Where(d => d is not null).Min();
        var changes = day is { } next ? PriceBook.StartOfDay(next.ToDateTime(TimeOnly.MinValue), buying.Zone) : (DateTimeOffset?)null;
        var offers = Offers(edition).Select(o => o.Any(stock.Sells)).ToArray();
        var shown = new ShownFigures(edition.ProductId, figures, none, KeptBases.Earlier(rules, changes), offers)
        {
            Badge = PriceRuleWords.Badges(figures.Acting, buying.Zone),
            IsListed = shelf.IsListed(stock.Today),
            IsFound = shelf.IsFound(stock.Today),
            IsFeatured = shelf.Featured?.Holds(stock.Today) == true,
        };
        if (edition.Matrix.Made.Count > MostVariantsKept || ListBasis.Of(edition, terms)?.Kept() is not { } basis)
            return shown;
        return shown with { Basis = new KeptBasis(basis, changes, none, shown.IsListed, shown.IsFound, shown.IsFeatured) };
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

    private async Task WriteOffers(Edition edition)
    {
        await db.RangeOffers.Where(o => o.ProductId == edition.ProductId).ExecuteDeleteAsync();
        foreach (var (place, offer) in Offers(edition).Index())
            db.RangeOffers.Add(
                new RangeOfferRow
                {
                    ProductId = edition.ProductId,
                    Place = place,
                    Picks = [.. offer.Key.Split('\n')],
                }
            );
    }

    private async Task MarkOffers(IReadOnlyList<ShownFigures> shown)
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

    /// <summary>The variants on offer by what they have of the library's options.</summary>
    private static IEnumerable<IGrouping<string, MatrixVariant>> Offers(Edition edition)
    {
        var options = edition.Matrix.Options.Where(o => o.Library is not null).ToImmutableArray();
        if (options.IsEmpty)
            return [];
        return edition
            .Matrix.Offered.GroupBy(v => string.Join('\n', options.Select(o => $"{o.Library}={v.Values[o.Key]}")))
            .OrderBy(g => g.Key, StringComparer.Ordinal);
    }
}
