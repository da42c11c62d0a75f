using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>What somebody does with their own account: another password, recovery, second factor, their stays.</summary>
public sealed class OwnAccount(UnicusContext db, EventLog log, Tries tries, Sessions sessions, SecondFactor second, TimeProvider clock)
{
    /// <summary>Somebody's account; null where they were removed.</summary>
    public async Task<Person?> Find(string id) =>
        await db.People.AsNoTracking().SingleOrDefaultAsync(p => p.Id == id && p.RemovedAt == null) is { } row ? Person.Of(row) : null;

    /// <summary>Sets another password. All other stays end.</summary>
    /// <param name="stay">The stay that goes on.</param>
    public async Task<Outcome> ChangePassword(string id, string old, string password, string? stay)
    {
        var row = await db.People.SingleAsync(p => p.Id == id);
        if (await Doubt(row, old) is { } doubt)
            return new Outcome([doubt with { Where = "old" }]);
        if (Passwords.Problem(password, row.Email!, row.Name) is { } weak)
            return Outcome.No("password", weak);
        await using var transaction = await db.Database.BeginTransactionAsync();
        Set(row, password);
        await Tell(EventKind.PasswordChanged, row, "Chose another password", "Your password was changed.");
        await db.SaveChangesAsync();
        await sessions.EndOf(ChangePeople.Scheme, id, but: stay);
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>Writes a message with a link to a new password, where there is such an account. It takes as long where there is
    /// none.</summary>
    /// <param name="link">The address for a token.</param>
    public async Task Recover(string email, Caller caller, Func<string, string> link)
    {
        var until = Task.Delay(TimeSpan.FromMilliseconds(400));
        var key = Entrance.KeyOf(email);
        var row = await db.People.SingleOrDefaultAsync(p => p.EmailKey == key && p.RemovedAt == null);
        log.Note(EventKind.RecoveryAsked, "", key, caller.Device, caller.Address);
        if (row is not null && !AccountMessages.IsJustSent(row.LinkUntil, clock.GetUtcNow()))
        {
            var token = Secrets.New();
            (row.LinkHash, row.LinkUntil) = (Secrets.HashOf(token), clock.GetUtcNow() + AccountMessages.LinkLasts);
            db.Outbox.Add(AccountMessages.NewPassword(await ShopName(), row.Email!, link(token), clock.GetUtcNow()));
        }
        await db.SaveChangesAsync();
        await until;
    }

    /// <summary>Sets the password that somebody chose by the link of a message. All stays end; a second factor stays.</summary>
    public async Task<Outcome> Reset(string token, string password)
    {
        var (hash, now) = (Secrets.HashOf(token), clock.GetUtcNow());
        await using var transaction = await db.Database.BeginTransactionAsync();
        var row = await db
            .People.FromSql($"select * from people where link_hash = {hash} and link_until > {now} and removed_at is null for update")
            .SingleOrDefaultAsync();
        if (row is null)
            return Outcome.No("", "This link was used before, or is too old. Have a new one sent.");
        if (Passwords.Problem(password, row.Email!, row.Name) is { } weak)
            return Outcome.No("password", weak);
        const string noted = "Chose a password by the link of a message";
        // Whoever chooses their first one knows it.
        if (row.PasswordHash is null)
            log.Note(EventKind.PasswordChanged, row.Name, row.Email!, noted);
        else
            await Tell(EventKind.PasswordChanged, row, noted, "Your password was changed.");
        Set(row, password);
        await db.SaveChangesAsync();
        await sessions.EndOf(ChangePeople.Scheme, row.Id);
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>Turns the second factor on.</summary>
    /// <returns>The spare codes, which are shown this once.</returns>
    public async Task<Outcome<IReadOnlyList<string>>> TurnOn(string id, string password, string secret, string code)
    {
        var row = await db.People.AsNoTracking().SingleAsync(p => p.Id == id);
        if (await Doubt(row, password) is { } doubt)
            return new Outcome<IReadOnlyList<string>>(null, [doubt]);
        await using var transaction = await db.Database.BeginTransactionAsync();
        if (await second.TurnOn(id, secret, code) is not { } codes)
            return Outcome<IReadOnlyList<string>>.No("code", "That is not the code of now. Is the clock of the device right?");
        await Tell(EventKind.SecondFactor, row, "Turned the second factor on", "Signing in asks for a code of your device from now on.");
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return Outcome<IReadOnlyList<string>>.Of(codes);
    }

    /// <summary>Turns the second factor off.</summary>
    public async Task<Outcome> TurnOff(string id, string password)
    {
        var row = await db.People.AsNoTracking().SingleAsync(p => p.Id == id);
        if (await Doubt(row, password) is { } doubt)
            return new Outcome([doubt]);
        await second.TurnOff(id);
        await Tell(EventKind.SecondFactor, row, "Turned the second factor off", "Signing in no longer asks for a code.");
        await db.SaveChangesAsync();
        return Outcome.Ok;
    }

    /// <summary>Whether it is not they who ask: tries are counted like those at the door.</summary>
    private async Task<Fault?> Doubt(PersonRow row, string password)
    {
        var attempt = await tries.Begin($"password of {row.Email}", new Caller("", "Another password for a change"), row.Name);
        if (await tries.IsTooMany(attempt))
            return new Fault("current", Tries.TooMany);
        if (!Passwords.Is(row.PasswordHash, password))
            return new Fault("current", "That is not your password of now.");
        await tries.TakeBack(attempt);
        return null;
    }

    /// <summary>Notes a change in the log and writes to whom it is about.</summary>
    private async Task Tell(EventKind kind, PersonRow row, string noted, string told)
    {
        log.Note(kind, row.Name, row.Email!, noted);
        db.Outbox.Add(AccountMessages.Changed(await ShopName(), row.Email!, told, clock.GetUtcNow()));
    }

    private async Task<string> ShopName() => (await ShopSettings.Load(db)).Name;

    private static void Set(PersonRow row, string password)
    {
        (row.PasswordHash, row.Stamp) = (Passwords.Hash(password), Secrets.New());
        (row.LinkHash, row.LinkUntil) = (null, null);
    }
}
