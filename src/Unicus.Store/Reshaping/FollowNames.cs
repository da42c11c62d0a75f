using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Lets what names goods follow them into another product: sets and groups, suggestions and price rules, in working copies and
/// on sale.</summary>
public sealed class FollowNames(UnicusContext db, Telling telling, TimeProvider clock)
{
    /// <summary>Publishes within the caller's transaction by what this transaction sees: what is kept for everyone is as it was before
    /// it.</summary>
    internal async Task<T> Publishing<T>(Func<PublishEdition, Task<T>> work)
    {
        using var catalogue = new Catalogue(telling);
        return await work(new PublishEdition(db, catalogue, new RangeEntries(db, catalogue, clock), clock));
    }

    /// <summary>Writes it within the caller's transaction, after the goods were moved.</summary>
    /// <param name="isOnSale">Whether the goods are on sale where they are now, so that what is on sale names them there; otherwise it is
    /// a change that is not published yet.</param>
    public async Task<Outcome> Run(IReadOnlyList<MovedGoods> moved, bool isOnSale, Actor by)
    {
        await Locks.PriceRules(db);
        var currency = (await ShopSettings.Load(db)).Currency;
        var patterns = moved.Select(m => $"%\"{m.From}\"%").ToArray();
        var rows = await db.PriceRules.ToListAsync();
        var rules = rows.Select(r => PriceBooks.Read(r.Document, currency)).ToList();
        var products = await db
            .Database.SqlQuery<string>(
                $"""
                select p.code as "Value" from products p
                left join editions e on e.product_id = p.id and e.number = p.edition
                where p.definition::text like any({patterns}) or e.document::text like any({patterns}) order by p.code
                """
            )
            .ToListAsync();
        var copies = new List<WorkingCopy>();
        foreach (var product in products)
            if (await WorkingCopy.Load(db, product, forChange: true) is { } copy)
                copies.Add(copy);
        var names = new NamesFollowing(moved, await SkusOf(moved, [.. rules, .. copies.SelectMany(c => c.Product.PriceRules)]));
        foreach (var (row, rule) in rows.Zip(rules))
            if (names.Of(rule) is var after && !ReferenceEquals(after, rule))
            {
                row.Document = PriceRuleWriter.Write(after).ToJsonString();
                (row.Version, row.ChangedAt, row.ChangedBy) = (row.Version + 1, clock.GetUtcNow(), by.Name);
            }
        await db.SaveChangesAsync();
        foreach (var copy in copies)
            if (await Follow(copy, names, isOnSale, by) is { Done: false } refused)
                return refused;
        await PriceHistory.Note(db, clock.GetUtcNow());
        return Outcome.Ok;
    }

    private async Task<Outcome> Follow(WorkingCopy copy, NamesFollowing names, bool isOnSale, Actor by)
    {
        var isUpToDate = copy.Row.PublishedVersion == copy.Row.Version;
        if (names.Of(copy.Product) is var after && !ReferenceEquals(after, copy.Product))
        {
            const string Sentence = "Goods in it are found in another product now";
            if (await new WorkingCopies(db, clock).Write(copy, after, Sentence, by, undoable: false) is { Done: false } refused)
                return refused;
        }
        if (!isOnSale || copy.Row.Edition is not { } number)
            return Outcome.Ok;
        var document = await db.Editions.Where(e => e.ProductId == copy.Row.Id && e.Number == number).Select(e => e.Document).SingleAsync();
        var sold = WorkingCopy.Read(document, copy.Shop.Currency);
        if (names.Of(sold) is var now && !ReferenceEquals(now, sold))
            await Publishing(p => p.Replace(copy.Row, now, copy.Sets, isUpToDate, by));
        return Outcome.Ok;
    }

    /// <summary>The SKUs of the products that rules name beside the goods.</summary>
    private async Task<Func<string, IEnumerable<string>>> SkusOf(IReadOnlyList<MovedGoods> moved, IReadOnlyList<PriceRule> rules)
    {
        var codes = rules.SelectMany(r => r.Scope.Products).Distinct().Except(moved.Select(m => m.From)).ToArray();
        var skus = await (
            from p in db.Products
            where codes.Contains(p.Code)
            join s in db.Skus on p.Id equals s.ProductId
            select new { p.Code, Sku = s.Code }
        ).ToListAsync();
        var known = skus.ToLookup(s => s.Code, s => s.Sku.ToUpperInvariant());
        return code => known[code];
    }
}
