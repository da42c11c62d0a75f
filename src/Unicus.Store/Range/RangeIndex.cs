using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>Keeps the index that the shop's lists are read from: an entry for each published product, with what may be picked of
/// it.</summary>
/// <remarks>
/// Written with each publication; a price that hangs on stock or on the day is worked out anew in the background (<see
/// cref="RangeKeeper"/>)
/// and, if that has not happened yet, before it is shown.
/// </remarks>
public sealed class RangeIndex(UnicusContext db, Catalogue catalogue, TimeProvider clock)
{
    /// <summary>SKUs of products with at most so many variants are found by their pieces; others by their beginning.</summary>
    private const int MostSkusInText = 200;

    /// <summary>Writes the entry of a product that was just published, within the transaction that publishes it.</summary>
    public async Task Publish(Edition edition)
    {
        var product = edition.Product;
        var entry = await db.RangeEntries.SingleOrDefaultAsync(e => e.ProductId == edition.ProductId);
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
            };
            db.RangeEntries.Add(entry);
        }
        (entry.Code, entry.Address) = (product.Code.Text, product.Address);
        (entry.Name, entry.NameKey) = (product.Name, SearchWords.Fold(product.Name));
        (entry.Summary, entry.Picture) = (product.Summary, product.Pictures.FirstOrDefault()?.File);
        (entry.OwnBadge, entry.Position) = (product.Badge ?? "", product.Shelf.Position ?? Shelf.LastPosition + 1);
        entry.Named = [.. product.Categories];
        entry.Description = Membership.TextOf(product);
        entry.Categories = [.. Membership.Of(await PriceBooks.Tree(db), entry.Named, entry.Description)];
        if (product.Parts is not null)
        {
            product = await catalogue.Filled(db, product);
            edition = new Edition(edition.ProductId, edition.Number, edition.PublishedAt, product, edition.Matrix) { Sets = edition.Sets };
        }
        var range = await catalogue.Range(db, edition);
        // What is sold only as a part is found by what it is in.
        var parts = Catalogue
            .EditionsIn(edition, range)
            .Where(p => !p.Product.Shelf.Alone)
            .SelectMany(p => SkusOf(p).Append(p.Product.Name));
        entry.SearchText = SearchWords.TextOf(product, SkusOf(edition).Concat(parts));
        await SearchWords.Learn(db, entry.SearchText);
        entry.PartProducts = [.. Catalogue.PartsOf(edition, range)];
        await WriteOffers(edition);
        await WriteFigures(entry, edition, range);
        await db.SaveChangesAsync();
        // What takes it as a part may cost something else now.
        await db.Database.ExecuteSqlAsync(
            $"insert into range_due (product_id) select product_id from range_entries where part_products @> array[{edition.ProductId}]"
        );
    }

    /// <summary>Works out anew what lists show of some products, where their stock moved or their day has come.</summary>
    public async Task Refresh(IReadOnlyCollection<int> products)
    {
        int[] ids = [.. products];
        var with = await db
            .RangeEntries.Where(e => ids.Contains(e.ProductId) || e.PartProducts.Any(p => ids.Contains(p)))
            .OrderBy(e => e.ProductId)
            .ToListAsync();
        // What takes no parts is worked out by the hundred, from its own stock alone.
        await WriteSimple([.. with.Where(e => e.PartProducts.Length == 0)]);
        foreach (var entry in with.Where(e => e.PartProducts.Length > 0))
            if (await catalogue.Latest(db, entry.ProductId) is { } edition)
                await WriteFigures(entry, edition, await catalogue.Range(db, edition));
        await db.SaveChangesAsync();
        await db.Database.ExecuteSqlAsync(
            $"""
            update products p set available = s.available
            from (select i as id, coalesce(sum(l.on_hand - l.allocated - l.on_hold), 0) as available
              from unnest({ids}) i left join levels l on l.product_id = i group by i) s
            where p.id = s.id and p.available <> s.available
            """
        );
    }

    /// <summary>The same for those of some products that are due.</summary>
    /// <returns>Whether any was.</returns>
    public async Task<bool> RefreshDue(IReadOnlyCollection<int> shown)
    {
        int[] ids = [.. shown];
        var now = clock.GetUtcNow();
        var due = await db
            .Database.SqlQuery<int>(
                $"""
                select e.product_id as "Value" from range_entries e where e.product_id = any({ids}) and (e.changes_at <= {now}
                  or exists (select 1 from range_due d where d.product_id = e.product_id or d.product_id = any(e.part_products)))
                """
            )
            .ToListAsync();
        if (due.Count == 0)
            return false;
        await Refresh(due);
        return true;
    }

    /// <summary>Takes some products that are due and works them out; several processes may do so at the same time.</summary>
    /// <returns>How many were.</returns>
    public async Task<int> Work(int most)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var due = await db
            .Database.SqlQuery<int>(
                $"""
                delete from range_due where id in (select id from range_due order by id limit {most} for update skip locked)
                returning product_id as "Value"
                """
            )
            .ToListAsync();
        var now = clock.GetUtcNow();
        var come = db.RangeEntries.Where(e => e.ChangesAt <= now).OrderBy(e => e.ProductId).Take(most).Select(e => e.ProductId);
        due.AddRange(await come.ToListAsync());
        if (due.Count > 0)
            await Refresh([.. due.Distinct()]);
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
            $"""
            insert into range_due (product_id) select product_id from range_entries
            where exists (select 1 from price_rules where jsonb_exists(document -> 'scope', 'categories'))
            """
        );
    }

    private static IEnumerable<string> SkusOf(Edition edition) =>
        edition.Matrix.Made.Count > MostSkusInText
            ? []
            : edition.Matrix.Offered.SelectMany(v => v.Variant.Gtin is { } gtin ? new[] { v.Sku.Text, gtin.ToString() } : [v.Sku.Text]);

    /// <summary>What lists show that hangs on stock and day.</summary>
    private async Task WriteFigures(RangeEntryRow entry, Edition edition, PublishedRange range)
    {
        var (shop, now) = (await catalogue.Settings(db), clock.GetUtcNow());
        var levels = await catalogue.Stock(db, edition, range);
        var stock = new LeafStock(levels.Of, shop.DayAt(now));
        var shown = Shown(edition, new StandingTerms(range, stock, await catalogue.PublicTerms(db, now)));
        shown.Write(entry);
        await MarkOffers([shown]);
    }

    /// <summary>The same of many products that take no parts.</summary>
    private async Task WriteSimple(IReadOnlyList<RangeEntryRow> entries)
    {
        if (entries.Count == 0)
            return;
        var (shop, now) = (await catalogue.Settings(db), clock.GetUtcNow());
        var terms = await catalogue.PublicTerms(db, now);
        int[] ids = [.. entries.Select(e => e.ProductId)];
        var levels = await SkuLookup.Stock(db, ids);
        var stock = new LeafStock(sku => levels.GetValueOrDefault(sku), shop.DayAt(now));
        var editions = new List<Edition>();
        await foreach (var edition in catalogue.Many(db, ids))
            editions.Add(edition);
        var standing = new StandingTerms(PublishedRange.Empty, stock, terms);
        var shown = editions.AsParallel().Select(e => Shown(e, standing)).ToList();
        var byProduct = entries.ToDictionary(e => e.ProductId);
        foreach (var figures in shown)
            figures.Write(byProduct[figures.Product]);
        await MarkOffers(shown);
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
        var badge = string.Join(", ", figures.Acting.Select(r => PriceRuleWords.Badge(r, buying.Zone)));
        return new ShownFigures(edition.ProductId, figures, none, rules < changes ? rules : changes ?? rules, offers)
        {
            Badge = badge,
            IsListed = shelf.IsListed(stock.Today),
            IsFound = shelf.IsFound(stock.Today),
            IsFeatured = shelf.Featured?.Holds(stock.Today) == true,
        };
    }

    /// <param name="Changes">When it may be another; null: only when something is changed.</param>
    /// <param name="Offers">For each of its offers whether it can be bought.</param>
    private sealed record ShownFigures(int Product, ListFigures Figures, string NoneWords, DateTimeOffset? Changes, bool[] Offers)
    {
        public string Badge { get; init; } = "";
        public bool IsListed { get; init; }
        public bool IsFound { get; init; }
        public bool IsFeatured { get; init; }

        public void Write(RangeEntryRow entry)
        {
            (entry.FromPrice, entry.Varies, entry.Once) = (Figures.From?.Amount, Figures.Varies, Figures.Once?.Amount);
            (entry.NoneWords, entry.ChangesAt, entry.Badge) = (NoneWords, Changes, Badge);
            (entry.Listed, entry.Searchable, entry.Featured) = (IsListed, IsFound, IsListed && IsFeatured);
        }
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
        var offers = shown.SelectMany(s => s.Offers.Select((buyable, place) => (s.Product, place, buyable))).ToList();
        if (offers.Count == 0)
            return;
        // Those that were just added are saved before they are marked.
        await db.SaveChangesAsync();
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
