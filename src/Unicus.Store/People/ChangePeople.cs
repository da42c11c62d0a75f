using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace Unicus.Store;

/// <summary>Who works in the back office: adds them, gives them a role, takes them out and brings them back.</summary>
public sealed class ChangePeople(UnicusContext db, EventLog log, Sessions sessions, TimeProvider clock)
{
    /// <summary>The scheme of the stays of people.</summary>
    public const string Scheme = "person";

    /// <summary>So long the link in an invitation works.</summary>
    public static readonly TimeSpan InvitationLasts = TimeSpan.FromDays(2);

    /// <summary>Everybody, also those who were taken out, by name.</summary>
    public async Task<IReadOnlyList<Person>> List() =>
        [
            .. (
                await db.People.AsNoTracking().OrderBy(p => p.RemovedAt != null).ThenBy(p => p.Name).ThenBy(p => p.Email).ToListAsync()
            ).Select(Person.Of),
        ];

    /// <summary>Adds somebody and writes them a message with a link by which they choose a password.</summary>
    /// <param name="link">The address for a token.</param>
    public async Task<Outcome> Add(string email, string name, string role, Actor by, Func<string, string> link)
    {
        if (Faults(email, name, role) is { Count: > 0 } faults)
            return new Outcome(faults);
        var row = Make(email, name, role, clock.GetUtcNow());
        db.People.Add(row);
        await Invite(row, link);
        log.Note(EventKind.People, by.Name, row.Email!, $"Added {row.Name} as {role}");
        return await Save();
    }

    /// <summary>Sends somebody a new link, where the first came to nothing.</summary>
    /// <returns>Whether there is such a person.</returns>
    public async Task<bool> InviteAgain(string id, Actor by, Func<string, string> link)
    {
        if (await db.People.SingleOrDefaultAsync(p => p.Id == id && p.RemovedAt == null) is not { } row)
            return false;
        await Invite(row, link);
        log.Note(EventKind.People, by.Name, row.Email!, $"Sent {row.Name} a link to a new password");
        await db.SaveChangesAsync();
        return true;
    }

    /// <summary>Gives somebody another role; they sign in anew.</summary>
    public Task<Outcome> SetRole(string id, string role, Actor by) => Change(id, row =>
        {
            if (!Roles.All.Contains(role))
                return new Fault("role", "A role is owner or staff.");
            if (row.Role == role)
                return null;
            log.Note(EventKind.People, by.Name, row.Email!, $"{row.Name} is {role} now, was {row.Role}");
            row.Role = role;
            return null;
        });

    /// <summary>Takes somebody out; what they did stays under their name, and they can be brought back.</summary>
    public Task<Outcome> Remove(string id, Actor by) => Change(id, row =>
        {
            row.RemovedAt ??= clock.GetUtcNow();
            (row.LinkHash, row.LinkUntil) = (null, null);
            log.Note(EventKind.People, by.Name, row.Email!, $"Removed {row.Name}");
            return null;
        });

    /// <summary>Lets somebody who was taken out come in again, with the password they had.</summary>
    public Task<Outcome> BringBack(string id, Actor by) => Change(id, row =>
        {
            row.RemovedAt = null;
            log.Note(EventKind.People, by.Name, row.Email!, $"Brought {row.Name} back");
            return null;
        });

    /// <summary>Takes the second factor off somebody who lost their device and their spare codes.</summary>
    public Task<Outcome> ResetSecondFactor(string id, Actor by) => Change(id, row =>
        {
            (row.HasSecondFactor, row.CodeSecret, row.SpareCodes) = (false, null, []);
            log.Note(EventKind.SecondFactor, by.Name, row.Email!, $"Turned the second factor of {row.Name} off");
            return null;
        });

    internal static PersonRow Make(string email, string name, string role, DateTimeOffset now) =>
        new()
        {
            Email = email.Trim(),
            EmailKey = Entrance.KeyOf(email),
            Name = name.Trim(),
            Role = role,
            AddedAt = now,
            Stamp = Secrets.New(),
        };

    internal static List<Fault> Faults(string email, string name, string role)
    {
        var faults = new List<Fault>();
        if (TypedEmail.Read(email) is { Ok: false, Problem: { } wrong })
            faults.Add(new Fault("email", wrong));
        if (name.Trim().Length is 0 or > Person.LongestName)
            faults.Add(new Fault("name", $"A name has 1 to {Person.LongestName} characters."));
        if (!Roles.All.Contains(role))
            faults.Add(new Fault("role", "A role is owner or staff."));
        return faults;
    }

    private async Task Invite(PersonRow row, Func<string, string> link)
    {
        var token = Secrets.New();
        (row.LinkHash, row.LinkUntil) = (Secrets.HashOf(token), clock.GetUtcNow() + InvitationLasts);
        var shop = await ShopSettings.Load(db);
        db.Outbox.Add(
            new OutboxMessage
            {
                To = row.Email!,
                Subject = $"{shop.Name}: your account in the back office",
                Body = $"Choose your password here within two days:\n\n{link(token)}\n\nThen sign in with this email address.",
                At = clock.GetUtcNow(),
                IsPrivate = true,
            }
        );
    }

    private async Task<Outcome> Change(string id, Func<PersonRow, Fault?> change)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        // One at a time, so that of two owners who take each other out one stays.
        await db.Database.ExecuteSqlAsync($"select 1 from shop for update");
        if (await db.People.SingleOrDefaultAsync(p => p.Id == id) is not { } row)
            return Outcome.No("", "There is nobody with that account any more.");
        if (change(row) is { } fault)
            return new Outcome([fault]);
        await db.SaveChangesAsync();
        if (!await db.People.AnyAsync(p => p.Role == Roles.Owner && p.RemovedAt == null && p.PasswordHash != null))
            return Outcome.No("", $"{row.Name} is the only owner. Make somebody else owner first.");
        await sessions.EndOf(Scheme, id);
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    private async Task<Outcome> Save()
    {
        try
        {
            await db.SaveChangesAsync();
            return Outcome.Ok;
        }
        catch (DbUpdateException e) when (e.InnerException is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation })
        {
            return Outcome.No("email", "Somebody with this email is here already; look also among those who were removed.");
        }
    }
}
