using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Puts products away: out of the lists and the shop, kept with their history, and brought back as they were.</summary>
/// <remarks>Until then such a product has no edition on sale, so that sets, baskets and pages treat it like one that was never
/// published.</remarks>
public sealed class PutAway(UnicusContext db, RangeEntries index, Catalogue catalogue, TimeProvider clock)
{
    /// <summary>Whether a product is a draft that nothing ever happened to, so that it may go for good.</summary>
    public async Task<bool> MayBeDeleted(WorkingCopy copy) =>
        copy.Row.Edition is null && copy.Row.AwayEdition is null && (await copy.Stakes(db)).All(s => !s.HasHistory && s.OnHand == 0);

    /// <summary>Puts a product away.</summary>
    public async Task<Outcome> Run(string code, Actor by)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        if (await Locked(code) is not { } row)
            return Outcome.No("", $"There is no product {code}.");
        if (row.PutAwayAt is not null)
            return Outcome.Ok;
        (row.PutAwayAt, row.PutAwayBy) = (clock.GetUtcNow(), by.Name);
        (row.AwayEdition, row.Edition) = (row.Edition, null);
        await db.SaveChangesAsync();
        // What takes it as a part cannot be had any more.
        await DueMarks.MarkWhatTakes(db, row.Id);
        await db.RangeOffers.Where(o => o.ProductId == row.Id).ExecuteDeleteAsync();
        await db.RangeEntries.Where(e => e.ProductId == row.Id).ExecuteDeleteAsync();
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>Brings a product back: on sale with the edition it had, or as the draft it was.</summary>
    public async Task<Outcome> BringBack(string code)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        if (await Locked(code) is not { } row)
            return Outcome.No("", $"There is no product {code}.");
        if (row.PutAwayAt is null)
            return Outcome.Ok;
        (row.Edition, row.AwayEdition) = (row.AwayEdition, null);
        (row.PutAwayAt, row.PutAwayBy) = (null, null);
        await db.SaveChangesAsync();
        if (row.Edition is { } number && await catalogue.Editions.Numbered(db, row.Id, number) is { } edition)
            await index.Publish(edition);
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    private Task<ProductRow?> Locked(string code) =>
        db.Products.FromSql($"select * from products where code = {code.Trim().ToUpperInvariant()} for update").SingleOrDefaultAsync();
}
