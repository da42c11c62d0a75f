using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Something that happened at the doors.</summary>
public sealed record LoggedEvent(long Id, DateTimeOffset At, EventKind Kind, string By, string Subject, string Text, string Address);

/// <summary>The log of what happened at the doors: who came in, who was refused, what changed of people, keys and settings.</summary>
public sealed class EventLog(UnicusContext db, TimeProvider clock)
{
    /// <summary>So long events are kept.</summary>
    public static readonly TimeSpan Kept = TimeSpan.FromDays(365);

    /// <summary>Adds an event to what is saved next, so that it stands with what it is about or not at all.</summary>
    /// <param name="subject">The account, key or setting that it is about.</param>
    internal EventRow Note(EventKind kind, string by, string subject, string text, string address = "")
    {
        var row = new EventRow
        {
            At = clock.GetUtcNow(),
            Kind = kind,
            By = Short(by),
            Subject = Short(subject).ToLowerInvariant(),
            Text = text,
            Address = Short(address),
        };
        db.Events.Add(row);
        return row;
    }

    /// <summary>Writes that somebody signed out.</summary>
    public Task SignedOut(string name, string text, Caller caller)
    {
        Note(EventKind.SignedOut, name, name, text, caller.Address);
        return db.SaveChangesAsync();
    }

    /// <summary>A page of events, the newest first.</summary>
    /// <param name="kind">Null: all.</param>
    public async Task<IReadOnlyList<LoggedEvent>> Page(EventKind? kind, long? before, int count) =>
        await db
            .Events.AsNoTracking()
            .Where(e => (kind == null || e.Kind == kind) && (before == null || e.Id < before))
            .OrderByDescending(e => e.Id)
            .Take(count)
            .Select(e => new LoggedEvent(e.Id, e.At, e.Kind, e.By, e.Subject, e.Text, e.Address))
            .ToListAsync();

    private static string Short(string text) => text.Length <= 200 ? text : text[..200];
}
