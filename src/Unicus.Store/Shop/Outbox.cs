using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>A message that the shop sends.</summary>
public sealed record Message(int Id, DateTimeOffset At, string To, string Subject, string Body);

/// <summary>The messages of the shop: what was written, and what is still to be sent.</summary>
public sealed class Outbox(UnicusContext db, TimeProvider clock)
{
    /// <summary>The newest messages.</summary>
    /// <param name="withPrivate">Whether also those with links that open accounts, which are for owners.</param>
    public async Task<IReadOnlyList<Message>> Newest(bool withPrivate, int most) =>
        await db
            .Outbox.Where(m => !m.IsPrivate || withPrivate)
            .OrderByDescending(m => m.Id)
            .Take(most)
            .Select(m => new Message(m.Id, m.At, m.To, m.Subject, m.Body))
            .ToListAsync();

    /// <summary>Sends the oldest messages that wait. Of several processes each message is taken by one.</summary>
    /// <param name="send">Where it fails, none of them counts as sent.</param>
    /// <returns>How many were sent.</returns>
    public async Task<int> Send(int most, Func<Message, Task> send, CancellationToken stop)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var rows = await db
            .Outbox.FromSql($"select * from outbox where sent_at is null order by id limit {most} for update skip locked")
            .ToListAsync(stop);
        foreach (var row in rows)
        {
            await send(new Message(row.Id, row.At, row.To, row.Subject, row.Body));
            row.SentAt = clock.GetUtcNow();
        }
        await db.SaveChangesAsync(stop);
        await transaction.CommitAsync(stop);
        db.ChangeTracker.Clear();
        return rows.Count;
    }
}
