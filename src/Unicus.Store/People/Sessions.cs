using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Who comes in, and from where.</summary>
/// <param name="Device">“Firefox on Linux”.</param>
public sealed record Caller(string Address, string Device);

/// <summary>A stay of somebody who signed in.</summary>
public sealed record Stay(string Id, string Device, string Address, DateTimeOffset StartedAt, DateTimeOffset SeenAt);

/// <summary>The stays of everybody who signed in. They lie in the database, so that one that was ended is worth nothing any more, in
/// whatever process its cookie is shown.</summary>
public sealed class Sessions(UnicusContext db, TimeProvider clock)
{
    /// <summary>A stay is marked as seen at most so often.</summary>
    private static readonly TimeSpan SeenEach = TimeSpan.FromMinutes(2);

    /// <summary>Begins a stay.</summary>
    /// <returns>The key for the cookie, which is kept nowhere else.</returns>
    public async Task<string> Begin(string scheme, string owner, Caller caller, byte[] ticket, DateTimeOffset endsAt)
    {
        var (key, now) = (Secrets.New(), clock.GetUtcNow());
        db.Sessions.Add(
            new SessionRow
            {
                Id = Secrets.HashOf(key),
                Scheme = scheme,
                Owner = owner,
                StartedAt = now,
                SeenAt = now,
                EndsAt = endsAt,
                Address = caller.Address,
                Device = caller.Device,
                Ticket = ticket,
            }
        );
        await db.SaveChangesAsync();
        return key;
    }

    /// <summary>The ticket of a stay that has not ended; null for none.</summary>
    public async Task<byte[]?> Read(string key)
    {
        var (id, now) = (Secrets.HashOf(key), clock.GetUtcNow());
        var row = await db
            .Sessions.AsNoTracking()
            .Where(s => s.Id == id && s.EndsAt > now)
            .Select(s => new { s.Ticket, s.SeenAt })
            .SingleOrDefaultAsync();
        if (row is not null && now - row.SeenAt > SeenEach)
            await db.Sessions.Where(s => s.Id == id).ExecuteUpdateAsync(u => u.SetProperty(s => s.SeenAt, now));
        return row?.Ticket;
    }

    /// <summary>Writes a ticket anew for a stay that goes on.</summary>
    public Task Renew(string key, byte[] ticket, DateTimeOffset endsAt)
    {
        var id = Secrets.HashOf(key);
        return db
            .Sessions.Where(s => s.Id == id)
            .ExecuteUpdateAsync(u => u.SetProperty(s => s.Ticket, ticket).SetProperty(s => s.EndsAt, endsAt));
    }

    /// <summary>Ends the stay with this key.</summary>
    public Task End(string key)
    {
        var id = Secrets.HashOf(key);
        return db.Sessions.Where(s => s.Id == id).ExecuteDeleteAsync();
    }

    /// <summary>Ends one stay or all stays of somebody.</summary>
    /// <param name="only">Ends just this one; null: all.</param>
    /// <param name="but">Lets this one go on; null: none.</param>
    /// <returns>How many ended.</returns>
    public Task<int> EndOf(string scheme, string owner, string? only = null, string? but = null) =>
        db
            .Sessions.Where(s => s.Scheme == scheme && s.Owner == owner && (only == null || s.Id == only) && s.Id != but)
            .ExecuteDeleteAsync();

    /// <summary>The stays of somebody, the one seen last first.</summary>
    public async Task<IReadOnlyList<Stay>> Of(string scheme, string owner)
    {
        var now = clock.GetUtcNow();
        return await db
            .Sessions.AsNoTracking()
            .Where(s => s.Scheme == scheme && s.Owner == owner && s.EndsAt > now)
            .OrderByDescending(s => s.SeenAt)
            .Select(s => new Stay(s.Id, s.Device, s.Address, s.StartedAt, s.SeenAt))
            .ToListAsync();
    }
}
