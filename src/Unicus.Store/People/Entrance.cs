using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>What became of a try to come in.</summary>
public abstract record Entry
{
    private Entry() { }

    /// <summary>They may come in.</summary>
    public sealed record Entered(Person Person) : Entry;

    /// <summary>The password is right; the code of the second factor is wanted too.</summary>
    /// <param name="Half">Says so for five minutes; comes back with the code.</param>
    public sealed record NeedsCode(string Half) : Entry;

    /// <summary>They may not; the words tell nothing of whether there is such an account.</summary>
    public sealed record Refused(string Why) : Entry;
}

/// <summary>The door of the back office.</summary>
public sealed class Entrance(UnicusContext db, EventLog log, Tries tries, SecondFactor second, IDataProtectionProvider protection)
{
    private const string Wrong = "Email and password do not belong together.";
    private const string WrongCode = "That is not the code of now. Wait for the next one, or use a spare code.";

    private readonly ITimeLimitedDataProtector _halves = protection.CreateProtector("half signed in").ToTimeLimitedDataProtector();

    /// <summary>Looks at email and password.</summary>
    /// <param name="device">What <see cref="DeviceOf"/> made when somebody came in on this device; null for none.</param>
    public async Task<Entry> Enter(string email, string password, Caller caller, string? device)
    {
        var key = KeyOf(email);
        var row = await db.People.AsNoTracking().FirstOrDefaultAsync(p => p.EmailKey == key && p.RemovedAt == null);
        var attempt = await tries.Begin(key, caller);
        if (await tries.IsTooMany(attempt, row is not null && tries.IsDeviceOf(device, Stamp(row))))
            return Refuse(Tries.TooMany);
        if (!Passwords.Is(row?.PasswordHash, password))
            return Refuse(Wrong);
        if (!row!.HasSecondFactor)
            return await Let(row, attempt);
        await tries.TakeBack(attempt);
        return new Entry.NeedsCode(_halves.Protect(Stamp(row), TimeSpan.FromMinutes(5)));
    }

    /// <summary>Looks at the code of the second factor, or a spare code.</summary>
    /// <param name="half">As <see cref="Entry.NeedsCode"/> gave it.</param>
    public async Task<Entry> EnterWithCode(string half, string code, Caller caller, string? device)
    {
        if (Tries.Read(_halves, half)?.Split(' ') is not [var id, _] stamps)
            return new Entry.Refused("That took too long. Begin again with email and password.");
        var row = await db.People.AsNoTracking().SingleOrDefaultAsync(p => p.Id == id && p.RemovedAt == null);
        if (row is null || Stamp(row) != string.Join(' ', stamps))
            return Refuse(Wrong);
        var attempt = await tries.Begin(row.EmailKey!, caller);
        if (await tries.IsTooMany(attempt, tries.IsDeviceOf(device, Stamp(row))))
            return Refuse(Tries.TooMany);
        return await second.Use(row, code) ? await Let(row, attempt) : Refuse(WrongCode);
    }

    /// <summary>Lets whoever sits at the machine of a demo in, as the one who was there first.</summary>
    public async Task<Person> EnterDemo(Caller caller)
    {
        var first = await db.People.AsNoTracking().OrderBy(p => p.AddedAt).ThenBy(p => p.Role).FirstAsync(p => p.RemovedAt == null);
        log.Note(EventKind.SignedIn, first.Name, first.Email, "by the door of the demo", caller.Address);
        await db.SaveChangesAsync();
        return Person.Of(first);
    }

    /// <summary>What a device keeps of somebody who came in there.</summary>
    public string DeviceOf(Person person) => tries.DeviceOf(Stamp(person.Id, person.Stamp));

    /// <summary>An address as accounts are found by it.</summary>
    public static string KeyOf(string email) => email.Trim().ToUpperInvariant();

    private static string Stamp(PersonRow row) => Stamp(row.Id, row.Stamp);

    private static string Stamp(string id, string stamp) => $"{id} {stamp}";

    private static Entry.Refused Refuse(string why)
    {
        TradeMeter.SignInsRefused.Add(1);
        return new Entry.Refused(why);
    }

    private async Task<Entry> Let(PersonRow row, EventRow attempt)
    {
        await tries.Succeed(attempt, row.Name);
        return new Entry.Entered(Person.Of(row));
    }
}
