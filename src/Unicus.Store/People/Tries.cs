using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>
/// Counts tries to come in that fail, for an account from one address and for an account from everywhere. The account itself is never
/// locked: whoever came in before on a device comes in there, whatever strangers do elsewhere.
/// </summary>
public sealed class Tries(UnicusContext db, EventLog log, IDataProtectionProvider protection, TimeProvider clock)
{
    /// <summary>Failed tries for one account from one address within <see cref="NearSpan"/>.</summary>
    public const int MostNear = 8;

    /// <summary>Failed tries for one account from everywhere within an hour (OWASP ASVS 4.0.3, 2.2.1).</summary>
    public const int MostInAll = 100;

    /// <inheritdoc cref="MostNear"/>
    public static readonly TimeSpan NearSpan = TimeSpan.FromMinutes(15);

    /// <summary>So long a device is known on which somebody came in.</summary>
    public static readonly TimeSpan DevicesKnown = TimeSpan.FromDays(90);

    /// <summary>What is said where there were too many.</summary>
    public const string TooMany = "Too many wrong tries from here. Wait a quarter of an hour.";

    private readonly ITimeLimitedDataProtector _devices = protection.CreateProtector("known device").ToTimeLimitedDataProtector();

    /// <summary>Counts a try as failed before it is looked at, so that many at the same moment are counted too.</summary>
    /// <param name="subject">The account.</param>
    internal async Task<EventRow> Begin(string subject, Caller caller, string by = "")
    {
        var row = log.Note(EventKind.SignInRefused, by, subject, caller.Device, caller.Address);
        await db.SaveChangesAsync();
        return row;
    }

    /// <summary>Takes a try back that did not fail.</summary>
    internal async Task TakeBack(EventRow attempt)
    {
        db.Events.Remove(attempt);
        await db.SaveChangesAsync();
    }

    /// <summary>Makes a try the entry of somebody.</summary>
    internal async Task Succeed(EventRow attempt, string by)
    {
        (attempt.Kind, attempt.By) = (EventKind.SignedIn, by);
        await db.SaveChangesAsync();
    }

    /// <summary>Whether there were too many, the one begun now included.</summary>
    internal async Task<bool> IsTooMany(EventRow attempt, bool isKnown = false)
    {
        var (near, hour) = (clock.GetUtcNow() - NearSpan, clock.GetUtcNow() - TimeSpan.FromHours(1));
        var refused = db.Events.Where(e => e.Kind == EventKind.SignInRefused && e.Subject == attempt.Subject);
        return await refused.CountAsync(e => e.Address == attempt.Address && e.At > near) > MostNear
            || (!isKnown && await refused.CountAsync(e => e.At > hour) > MostInAll);
    }

    /// <summary>What a device keeps of somebody who came in there.</summary>
    /// <param name="whose">The account, with what changes along with its password.</param>
    public string DeviceOf(string whose) => _devices.Protect(whose, DevicesKnown);

    /// <summary>Whether a device is known to be somebody's.</summary>
    public bool IsDeviceOf(string? device, string whose) => Read(_devices, device) == whose;

    /// <summary>What was protected; null where it is nothing of ours, or too old.</summary>
    internal static string? Read(ITimeLimitedDataProtector protector, string? text)
    {
        try
        {
            return text is null ? null : protector.Unprotect(text);
        }
        catch (System.Security.Cryptography.CryptographicException)
        {
            return null;
        }
    }
}
