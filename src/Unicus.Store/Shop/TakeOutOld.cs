using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Takes out what nobody comes back for. Orders, movements and editions are never taken out.</summary>
public sealed class TakeOutOld(UnicusContext db, EraseBuyers buyers, TimeProvider clock)
{
    /// <summary>A basket that was not changed for so long; its cookie lives as long.</summary>
    public static readonly TimeSpan BasketsKept = TimeSpan.FromDays(60);

    /// <summary>A reply kept for its idempotency key.</summary>
    public static readonly TimeSpan RepliesKept = TimeSpan.FromDays(7);

    /// <summary>A message of the outbox.</summary>
    public static readonly TimeSpan MessagesKept = TimeSpan.FromDays(90);

    /// <summary>A sheet that was sent.</summary>
    public static readonly TimeSpan SheetsKept = TimeSpan.FromDays(1);

    /// <summary>“UNIC”, so that only one process sweeps at a time.</summary>
    private const long Lock = 0x554E4943;

    /// <returns>How many rows were taken out.</returns>
    public async Task<int> Run(CancellationToken stop = default)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (!await db.Database.SqlQuery<bool>($"select pg_try_advisory_xact_lock({Lock}) as \"Value\"").SingleAsync(stop))
            return 0;
        var now = clock.GetUtcNow();
        var (baskets, replies, messages, sheets) = (now - BasketsKept, now - RepliesKept, now - MessagesKept, now - SheetsKept);
        var count = await db.Baskets.Where(b => b.ChangedAt < baskets).ExecuteDeleteAsync(stop);
        count += await db.KeptReplies.Where(r => r.At < replies).ExecuteDeleteAsync(stop);
        count += await db.Outbox.Where(m => m.At < messages).ExecuteDeleteAsync(stop);
        count += await db.SheetUploads.Where(u => u.At < sheets).ExecuteDeleteAsync(stop);
        var events = now - EventLog.Kept;
        count += await db.Events.Where(e => e.At < events).ExecuteDeleteAsync(stop);
        count += await db.Sessions.Where(s => s.EndsAt < now).ExecuteDeleteAsync(stop);
        // Accounts that somebody began and whose password nobody chose.
        count += await db
            .Customers.Where(c => c.PasswordHash == CustomerAccounts.NoPassword && (c.RecoveryUntil == null || c.RecoveryUntil < now))
            .ExecuteDeleteAsync(stop);
        count += await buyers.Old(stop);
        await transaction.CommitAsync(stop);
        return count;
    }
}
