using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Writes the index that the shop's lists are read from: an entry for each published product, with what may be picked of
/// it.</summary>
/// <remarks>
/// Written with each publication; a price that hangs on stock, rules or the day is worked out anew in the background (<see
/// cref="RangeKeeper"/>), and for a page that is shown before that by the page itself (<see cref="FiguresOfNow"/>).
/// </remarks>
public sealed class RangeEntries(UnicusContext db, Catalogue catalogue, TimeProvider clock)
{
    /// <summary>SKUs of products with at most so many variants are found by their pieces; others by their beginning.</summary>
    private const int MostSkusInText = 200;

    private readonly FiguresReckoning _reckoning = new(db, catalogue, clock);

    /// <summary>Writes the entry of a product that was just published, within the transaction that publishes it.</summary>
    public async Task Publish(Edition edition)
    {
        var product = edition.Product;
        // Held before anything is looked at, as the keeper does: else it may write what it worked out of the edition before.
        await db.Database.ExecuteSqlAsync($"select 1 from range_figures where product_id = {edition.ProductId} for no key update");
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
        var shown = await _reckoning.Of(edition, range);
        shown.Write(entry);
        // What was just added is saved before it is marked.
        await db.SaveChangesAsync();
        await RangeFigures.MarkOffers(db, [shown]);
        await KeptBases.Write(db, [shown]);
        if (!product.Shelf.Alone)
            await FindWhatContains(edition);
        // What takes it as a part may cost something else now.
        await DueMarks.MarkWhatTakes(db, edition.ProductId);
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

    private async Task WriteOffers(Edition edition)
    {
        await db.RangeOffers.Where(o => o.ProductId == edition.ProductId).ExecuteDeleteAsync();
        foreach (var (place, offer) in FiguresReckoning.Offers(edition).Index())
            db.RangeOffers.Add(
                new RangeOfferRow
                {
                    ProductId = edition.ProductId,
                    Place = place,
                    Picks = [.. offer.Key.Split('\n')],
                }
            );
    }

    private static IEnumerable<string> SkusOf(Edition edition) =>
        edition.Matrix.Made.Count > MostSkusInText
            ? []
            : edition.Matrix.Offered.SelectMany(v => v.Variant.Gtin is { } gtin ? new[] { v.Sku.Text, gtin.ToString() } : [v.Sku.Text]);
}
