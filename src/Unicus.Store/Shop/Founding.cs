using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Unicus.Store;

/// <summary>Makes a database ready: tables, the one shop, its first location.</summary>
public static class Founding
{
    /// <summary>“FOUN”: whoever makes a shop ready holds this.</summary>
    private const long Lock = 0x464F554E;

    /// <summary>Makes the database of an application ready.</summary>
    /// <exception cref="ForeignShopException">It is another program's, or a newer one's.</exception>
    public static async Task Run(IServiceProvider services)
    {
        await using var scope = services.CreateAsyncScope();
        await Run(scope.ServiceProvider.GetRequiredService<UnicusContext>(), scope.ServiceProvider.GetRequiredService<TimeProvider>());
    }

    /// <summary>Makes a database ready that may be empty, or an older one. Several processes may do so at the same time.</summary>
    public static async Task Run(UnicusContext db, TimeProvider clock, CancellationToken stop = default)
    {
        await Begin(db, stop);
        await Finish(db, clock, stop);
    }

    /// <summary>The same, but what is made is not yet a shop to be served: <see cref="Finish"/> says that it is.</summary>
    public static async Task Begin(UnicusContext db, CancellationToken stop = default)
    {
        if (await Foreign(db, stop) is { } foreign)
            throw new ForeignShopException(foreign);
        await db.Database.MigrateAsync(stop);
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await db.Database.ExecuteSqlAsync($"select pg_advisory_xact_lock({Lock})", stop);
        if (await db.Shops.AnyAsync(stop))
            return;
        db.Shops.Add(new ShopRow { Name = "My shop", Terms = ShopSettings.WriteTerms(ShopSettings.EmptyTerms) });
        db.Locations.Add(
            new LocationRow
            {
                Key = "main",
                Name = "Main",
                Position = 1,
            }
        );
        foreach (var (label, values) in OptionLibrary.Starters)
            db.LibraryOptions.Add(OptionLibrary.NewRow(Starter(label, values)));
        await db.SaveChangesAsync(stop);
        await transaction.CommitAsync(stop);
    }

    /// <summary>Says that the shop is ready, and by which version.</summary>
    public static async Task Finish(UnicusContext db, TimeProvider clock, CancellationToken stop = default)
    {
        var now = clock.GetUtcNow();
        await db.Shops.Where(s => s.FoundedAt == null).ExecuteUpdateAsync(u => u.SetProperty(s => s.FoundedAt, now), stop);
        await db
            .Shops.Where(s => s.ServedBy != Release.Version)
            .ExecuteUpdateAsync(u => u.SetProperty(s => s.ServedBy, Release.Version), stop);
    }

    /// <summary>Whether a shop in this database was once ready.</summary>
    public static async Task<bool> IsDone(UnicusContext db, CancellationToken stop = default)
    {
        var hasTable = await db
            .Database.SqlQuery<bool>(
                $"""
                select to_regclass('public.shop') is not null as "Value"
                """
            )
            .SingleAsync(stop);
        if (!hasTable)
            return false;
        return await Foreign(db, stop) is not null || await db.Shops.AnyAsync(s => s.FoundedAt != null, stop);
    }

    /// <summary>Which version made the database, where this one cannot open it: one before the first release, or a later one.</summary>
    /// <returns>Null where this one can.</returns>
    public static async Task<ShopVersion?> Foreign(UnicusContext db, CancellationToken stop = default)
    {
        var hasHistory = await db
            .Database.SqlQuery<bool>($"select to_regclass('public.\"__EFMigrationsHistory\"') is not null as \"Value\"")
            .SingleAsync(stop);
        if (!hasHistory)
            return null;
        var known = db.Database.GetMigrations().ToHashSet();
        var unknown = (await db.Database.GetAppliedMigrationsAsync(stop)).Where(m => !known.Contains(m)).ToList();
        // Their names begin with the moment at which they were made.
        return unknown.Count == 0 ? null
            : unknown.TrueForAll(m => string.CompareOrdinal(m, known.Max()) > 0) ? ShopVersion.Newer
            : ShopVersion.Older;
    }

    /// <summary>Takes out what a founding left half made.</summary>
    /// <exception cref="InvalidOperationException">The shop was once ready; it is never taken out.</exception>
    public static async Task TakeOutHalfMade(UnicusContext db, CancellationToken stop = default)
    {
        if (await IsDone(db, stop))
            throw new InvalidOperationException("A shop that was ready is never taken out.");
        await db.Database.ExecuteSqlRawAsync("drop schema public cascade; create schema public", stop);
    }

    private static Option Starter(string label, string values) =>
        new(Key.From(label, new HashSet<Key>()), label, OptionRole.Variant)
        {
            Values = [.. TypedValues.Make(TypedValues.Split(values, []).Labels, [])],
        };
}

/// <summary>Which version of Unicus made a database that this one cannot open.</summary>
public enum ShopVersion
{
    /// <summary>One before the first release, which is not carried on.</summary>
    Older,

    /// <summary>A later one.</summary>
    Newer,
}

/// <summary>The database is of a version that this one cannot open; it was left as it is.</summary>
public sealed class ForeignShopException(ShopVersion version)
    : Exception(
        version == ShopVersion.Newer
            ? "This data folder was opened by a newer version of Unicus and cannot be opened by this one. It was left untouched."
            : "This data folder is of an older, unreleased version of Unicus and cannot be opened by this one. It was left untouched."
    );
