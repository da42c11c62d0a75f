using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>What a key for the HTTP interface may do.</summary>
public static class ApiScopes
{
    /// <summary>Looks at goods, prices and stock; answers and prices without placing anything.</summary>
    public const string Read = "read";

    /// <summary>Changes goods, price rules, coupons, stock and the shop's settings.</summary>
    public const string Products = "products";

    /// <summary>Places, looks at, sends and cancels orders, with the names of buyers.</summary>
    public const string Orders = "orders";

    /// <summary>All of them.</summary>
    public static ImmutableArray<string> All { get; } = [Read, Products, Orders];
}

/// <summary>A key as owners see it.</summary>
/// <param name="Start">Its first characters; the rest is kept nowhere.</param>
/// <param name="UsedAt">To the minute; null: never.</param>
/// <param name="WithdrawnAt">Null while it is in force.</param>
public sealed record ApiKey(
    int Id,
    string Name,
    string Start,
    ImmutableArray<string> Scopes,
    DateTimeOffset MadeAt,
    string MadeBy,
    DateTimeOffset? UsedAt,
    DateTimeOffset? WithdrawnAt
);

/// <summary>A key in force.</summary>
public sealed record ActiveKey(int Id, string Name, ImmutableArray<string> Scopes);

/// <summary>Makes and withdraws keys for the HTTP interface. Only their hashes are kept.</summary>
public sealed class ApiKeys(UnicusContext db, EventLog log, TimeProvider clock)
{
    /// <summary>What every key begins with, so that one that lies about is known for what it is.</summary>
    public const string Prefix = "unicus-";

    /// <summary>Every key, those in force first.</summary>
    public async Task<IReadOnlyList<ApiKey>> List() =>
        [
            .. (await db.ApiKeys.AsNoTracking().OrderBy(k => k.WithdrawnAt != null).ThenByDescending(k => k.Id).ToListAsync()).Select(
                k => new ApiKey(k.Id, k.Name, k.Start, [.. k.Scopes], k.MadeAt, k.MadeBy, k.UsedAt, k.WithdrawnAt)
            ),
        ];

    /// <summary>The keys in force by their hashes.</summary>
    internal static async Task<IReadOnlyDictionary<string, ActiveKey>> InForce(UnicusContext db) =>
        (await db.ApiKeys.AsNoTracking().Where(k => k.WithdrawnAt == null).ToListAsync()).ToDictionary(
            k => k.Hash,
            k => new ActiveKey(k.Id, k.Name, [.. k.Scopes])
        );

    /// <summary>Makes a key.</summary>
    /// <returns>The key itself, which is shown this once.</returns>
    public async Task<Outcome<string>> Make(string name, IReadOnlyCollection<string> scopes, Actor by)
    {
        var faults = new List<Fault>();
        if (name.Trim().Length is 0 or > 60)
            faults.Add(new Fault("name", "A key has a name of 1 to 60 characters: what it is for."));
        if (scopes.Count == 0 || scopes.Any(s => !ApiScopes.All.Contains(s)))
            faults.Add(new Fault("scopes", "Say what the key may do: read, products, orders."));
        if (faults.Count > 0)
            return new Outcome<string>(null, faults);
        var key = Prefix + Secrets.New();
        db.ApiKeys.Add(
            new ApiKeyRow
            {
                Name = name.Trim(),
                Start = key[..11],
                Hash = Secrets.HashOf(key),
                Scopes = [.. ApiScopes.All.Where(scopes.Contains)],
                MadeAt = clock.GetUtcNow(),
                MadeBy = by.Name,
            }
        );
        log.Note(EventKind.Keys, by.Name, name, $"Made the key {name.Trim()}: {string.Join(", ", scopes)}");
        await db.SaveChangesAsync();
        return Outcome<string>.Of(key);
    }

    /// <summary>Withdraws a key; from then on nobody comes in with it.</summary>
    /// <returns>Whether it was in force.</returns>
    public async Task<bool> Withdraw(int id, Actor by)
    {
        if (await db.ApiKeys.SingleOrDefaultAsync(k => k.Id == id && k.WithdrawnAt == null) is not { } row)
            return false;
        row.WithdrawnAt = clock.GetUtcNow();
        log.Note(EventKind.Keys, by.Name, row.Name, $"Withdrew the key {row.Name}");
        await db.SaveChangesAsync();
        return true;
    }

    /// <summary>Notes that a key was used, to the minute.</summary>
    public Task NoteUse(int id)
    {
        var now = clock.GetUtcNow();
        var before = now - TimeSpan.FromMinutes(1);
        return db
            .ApiKeys.Where(k => k.Id == id && (k.UsedAt == null || k.UsedAt < before))
            .ExecuteUpdateAsync(u => u.SetProperty(k => k.UsedAt, now));
    }
}
