using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>A shopper's basket as it lies in the database.</summary>
/// <param name="Version">Counts up with every change.</param>
/// <param name="Destination">Where it goes, as the shopper said; null while they have not.</param>
public sealed record StoredBasket(Guid Id, int Version, ImmutableArray<LineRequest> Lines, string? Destination, BasketWords Words)
{
    /// <summary>A new one.</summary>
    internal static StoredBasket Empty => new(Guid.NewGuid(), 0, [], null, BasketWords.None);

    /// <summary>Whether nothing is to be kept of it.</summary>
    internal bool IsNothing => Lines.IsEmpty && Words.GroupCode is null;

    internal static StoredBasket Of(BasketRow row) => new(row.Id, row.Version, ReadLines(row.Lines), row.Destination, BasketWords.Of(row));

    internal static ImmutableArray<LineRequest> ReadLines(string lines) => JsonSerializer.Deserialize<ImmutableArray<LineRequest>>(lines);

    internal void Write(BasketRow row)
    {
        (row.Lines, row.Destination) = (JsonSerializer.Serialize(Lines), Destination);
        Words.Write(row);
    }
}

/// <summary>Keeps the baskets of shoppers.</summary>
public sealed class BasketKeeping(UnicusContext db, TimeProvider clock)
{
    /// <summary>A basket; null where it is kept no longer.</summary>
    public async Task<StoredBasket?> Find(Guid id) =>
        await db.Baskets.AsNoTracking().FirstOrDefaultAsync(b => b.Id == id) is { } row ? StoredBasket.Of(row) : null;

    /// <summary>Changes a basket; of several changes at the same time none is lost.</summary>
    /// <param name="id">Null, or one that is kept no longer: a new basket.</param>
    /// <returns>As it is now; null where nothing is kept, as for a stranger who puts nothing in.</returns>
    public async Task<StoredBasket?> Change(Guid? id, Func<StoredBasket, StoredBasket> change)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var row = id is { } known
            ? await db.Baskets.FromSql($"select * from baskets where id = {known} for update").SingleOrDefaultAsync()
            : null;
        var before = row is null ? StoredBasket.Empty : StoredBasket.Of(row);
        var after = change(before);
        if (row is null)
        {
            if (after.IsNothing)
                return null;
            row = new BasketRow { Id = after.Id };
            db.Baskets.Add(row);
        }
        after.Write(row);
        (row.Version, row.ChangedAt) = (row.Version + 1, clock.GetUtcNow());
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return after with { Version = row.Version };
    }
}
