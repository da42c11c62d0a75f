using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>What a customer tells of themselves, to be filled in at the checkout.</summary>
public sealed record CustomerDetails(string Name, string Address);

/// <summary>Accounts that customers may keep; nobody needs one to buy.</summary>
/// <remarks>A known and an unknown email take the same work and get the same words.</remarks>
public sealed class CustomerAccounts(UnicusContext db, TimeProvider clock)
{
    /// <summary>Characters of a password at least.</summary>
    public const int ShortestPassword = 10;

    /// <summary>Characters of a password at most.</summary>
    public const int LongestPassword = 200;

    /// <summary>So long a link to a new password works.</summary>
    public static readonly TimeSpan RecoveryLasts = TimeSpan.FromHours(2);

    private static readonly PasswordHasher<CustomerRow> Hasher = new();

    /// <summary>What is compared with where there is no such account, so that it takes as long.</summary>
    private static readonly Lazy<string> Nobodys = new(() => Hasher.HashPassword(null!, Guid.NewGuid().ToString()));

    /// <summary>The account, as long as its sessions hold.</summary>
    /// <param name="stamp">As it was when they signed in; a new password ends all sessions.</param>
    public async Task<CustomerRow?> Find(int id, string stamp) =>
        await db.Customers.AsNoTracking().FirstOrDefaultAsync(c => c.Id == id && c.Stamp == stamp);

    /// <summary>Makes an account.</summary>
    public async Task<Outcome<CustomerRow>> SignUp(string email, string password, string name)
    {
        var faults = new List<Fault>();
        if (email.Length is < 3 or > 200 || !email.Contains('@'))
            faults.Add(new Fault("email", "We need an address with an @."));
        if (name.Length is 0 or > 120)
            faults.Add(new Fault("name", "We need a name of 1 to 120 characters."));
        if (PasswordProblem(password) is { } weak)
            faults.Add(new Fault("password", weak));
        if (faults.Count > 0)
            return new Outcome<CustomerRow>(null, faults);
        var row = new CustomerRow
        {
            Email = email.Trim(),
            EmailKey = KeyOf(email),
            Name = name.Trim(),
            PasswordHash = Hasher.HashPassword(null!, password),
            Stamp = NewStamp(),
            CreatedAt = clock.GetUtcNow(),
        };
        if (await db.Customers.AnyAsync(c => c.EmailKey == row.EmailKey))
            return Taken();
        db.Customers.Add(row);
        try
        {
            await db.SaveChangesAsync();
        }
        catch (DbUpdateException e) when (e.InnerException is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation })
        {
            return Taken();
        }
        return Outcome<CustomerRow>.Of(row);

        static Outcome<CustomerRow> Taken() =>
            Outcome<CustomerRow>.No("email", "There is an account with this email already. Sign in, or have a new password sent.");
    }

    /// <summary>The account with this email and password; null where they do not belong together.</summary>
    public async Task<CustomerRow?> SignIn(string email, string password)
    {
        var key = KeyOf(email);
        var row = await db.Customers.AsNoTracking().FirstOrDefaultAsync(c => c.EmailKey == key);
        var checkedHash = Hasher.VerifyHashedPassword(
            null!,
            row?.PasswordHash ?? Nobodys.Value,
            password.Length > LongestPassword ? "" : password
        );
        return checkedHash == PasswordVerificationResult.Failed ? null : row;
    }

    /// <summary>Writes a message with a link to a new password, where there is such an account.</summary>
    /// <param name="link">The address for a token.</param>
    public async Task Recover(string email, Func<string, string> link)
    {
        var key = KeyOf(email);
        var row = await db.Customers.SingleOrDefaultAsync(c => c.EmailKey == key);
        if (row is null)
            return;
        var token = Convert.ToHexStringLower(System.Security.Cryptography.RandomNumberGenerator.GetBytes(24));
        (row.RecoveryHash, row.RecoveryUntil) = (HashOf(token), clock.GetUtcNow() + RecoveryLasts);
        var shop = await ShopSettings.Load(db);
        db.Outbox.Add(
            new OutboxMessage
            {
                To = row.Email,
                Subject = $"{shop.Name}: a new password",
                Body =
                    $"Somebody, we hope you, asked for a new password. Choose it here within two hours:\n\n{link(token)}\n\n"
                    + "If it was not you, leave it: nothing changes.",
                At = clock.GetUtcNow(),
            }
        );
        await db.SaveChangesAsync();
    }

    /// <summary>Sets a new password; all sessions end.</summary>
    /// <param name="token">As the message has it.</param>
    public async Task<Outcome<CustomerRow>> Reset(string token, string password)
    {
        if (PasswordProblem(password) is { } weak)
            return Outcome<CustomerRow>.No("password", weak);
        var (hash, now) = (HashOf(token), clock.GetUtcNow());
        var row = await db.Customers.SingleOrDefaultAsync(c => c.RecoveryHash == hash && c.RecoveryUntil > now);
        if (row is null)
            return Outcome<CustomerRow>.No("", "This link was used before, or is older than two hours. Have a new one sent.");
        (row.PasswordHash, row.Stamp) = (Hasher.HashPassword(null!, password), NewStamp());
        (row.RecoveryHash, row.RecoveryUntil) = (null, null);
        await db.SaveChangesAsync();
        return Outcome<CustomerRow>.Of(row);
    }

    /// <summary>Changes what is filled in at the checkout.</summary>
    public async Task<Outcome> Change(int id, CustomerDetails details)
    {
        if (details.Name.Length is 0 or > 120)
            return Outcome.No("name", "We need a name of 1 to 120 characters.");
        if (details.Address.Length > 600)
            return Outcome.No("address", "An address has at most 600 characters.");
        await db
            .Customers.Where(c => c.Id == id)
            .ExecuteUpdateAsync(u => u.SetProperty(c => c.Name, details.Name).SetProperty(c => c.Address, details.Address));
        return Outcome.Ok;
    }

    /// <summary>Ends every session of an account.</summary>
    public Task SignOutEverywhere(int id)
    {
        var stamp = NewStamp();
        return db.Customers.Where(c => c.Id == id).ExecuteUpdateAsync(u => u.SetProperty(c => c.Stamp, stamp));
    }

    /// <summary>Puts an account into a customer group, or into none.</summary>
    /// <returns>Whether there is such an account.</returns>
    public async Task<bool> PutIntoGroup(string email, string? group)
    {
        var key = KeyOf(email);
        return await db.Customers.Where(c => c.EmailKey == key).ExecuteUpdateAsync(u => u.SetProperty(c => c.GroupKey, group)) > 0;
    }

    /// <summary>The last orders of an account, the newest first, with their lines.</summary>
    public async Task<IReadOnlyList<OrderRow>> Orders(int id, int most) =>
        await db
            .Orders.AsNoTracking()
            .Include(o => o.Lines)
            .Where(o => o.CustomerId == id)
            .OrderByDescending(o => o.Number)
            .Take(most)
            .ToListAsync();

    private static string? PasswordProblem(string password) =>
        password.Length < ShortestPassword ? $"A password has {ShortestPassword} characters or more."
        : password.Length > LongestPassword ? $"A password has at most {LongestPassword} characters."
        : null;

    private static string KeyOf(string email) => email.Trim().ToLowerInvariant();

    private static string NewStamp() => Guid.NewGuid().ToString("N");

    private static string HashOf(string token) =>
        Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(token)));
}
