using System.Security.Cryptography;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using OtpNet;

namespace Unicus.Store;

/// <summary>Codes that change with time (RFC 6238: SHA-1, six digits, 30 seconds), and spare codes for when the device is lost.</summary>
public sealed class SecondFactor(UnicusContext db, IDataProtectionProvider protection, TimeProvider clock)
{
    /// <summary>So many spare codes are made.</summary>
    public const int SpareCodes = 10;

    private readonly IDataProtector _secrets = protection.CreateProtector("second factor");

    /// <summary>A new secret, in base 32 as devices take it (RFC 4648).</summary>
    public static string NewSecret() => Base32Encoding.ToString(RandomNumberGenerator.GetBytes(20));

    /// <summary>The address that a device reads from a square of dots.</summary>
    public static string AddressOf(string secret, string shop, string email) =>
        new OtpUri(OtpType.Totp, secret, email, shop.Length == 0 ? "Unicus" : shop).ToString();

    /// <summary>The time step in which a code is right, a step of 30 seconds before or after now included; null: it is wrong.</summary>
    public static long? StepOf(string secret, string code, DateTimeOffset now) =>
        new Totp(Base32Encoding.ToBytes(secret)).VerifyTotp(
            now.UtcDateTime,
            new string([.. code.Where(char.IsAsciiDigit)]),
            out var step,
            new VerificationWindow(previous: 1, future: 1)
        )
            ? step
            : null;

    /// <summary>Whether a secret can be one that <see cref="NewSecret"/> made.</summary>
    public static bool IsSecret(string? text) => text is { Length: 32 } && text.All(c => c is (>= 'A' and <= 'Z') or (>= '2' and <= '7'));

    /// <summary>Turns it on for somebody.</summary>
    /// <returns>The spare codes, which are shown once; null where the code is wrong.</returns>
    public async Task<IReadOnlyList<string>?> TurnOn(string person, string secret, string code)
    {
        if (!IsSecret(secret) || StepOf(secret, code, clock.GetUtcNow()) is not { } step)
            return null;
        var codes = Enumerable.Range(0, SpareCodes).Select(_ => Secrets.NewCode(2)).ToList();
        var row = await db.People.SingleAsync(p => p.Id == person);
        (row.HasSecondFactor, row.CodeSecret, row.CodeStep) = (true, _secrets.Protect(secret), step);
        row.SpareCodes = [.. codes.Select(c => Secrets.HashOf(Secrets.Tidied(c)))];
        await db.SaveChangesAsync();
        return codes;
    }

    /// <summary>Turns it off for somebody.</summary>
    public Task TurnOff(string person) =>
        db
            .People.Where(p => p.Id == person)
            .ExecuteUpdateAsync(u =>
                u.SetProperty(p => p.HasSecondFactor, false)
                    .SetProperty(p => p.CodeSecret, (string?)null)
                    .SetProperty(p => p.SpareCodes, Array.Empty<string>())
            );

    /// <summary>Whether a code is right; it is used up by that, whichever of several presses comes first.</summary>
    internal async Task<bool> Use(PersonRow person, string code)
    {
        if (person.CodeSecret is null)
            return false;
        if (StepOf(_secrets.Unprotect(person.CodeSecret), code, clock.GetUtcNow()) is { } step)
            return await db
                    .People.Where(p => p.Id == person.Id && p.CodeStep < step)
                    .ExecuteUpdateAsync(u => u.SetProperty(p => p.CodeStep, step)) == 1;
        var hash = Secrets.HashOf(Secrets.Tidied(code));
        return await db.Database.ExecuteSqlAsync(
                $"""
                update people set spare_codes = array_remove(spare_codes, {hash})
                where id = {person.Id} and {hash} = any(spare_codes)
                """
            ) == 1;
    }
}
