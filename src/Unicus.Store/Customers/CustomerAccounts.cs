using System.Globalization;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>What a customer tells of themselves, to be filled in at the checkout.</summary>
public sealed record CustomerDetails(string Name, string Address);

/// <summary>Accounts that customers may keep; nobody needs one to buy.</summary>
/// <remarks>A known and an unknown email take the same work and get the same words.</remarks>
public sealed class CustomerAccounts(UnicusContext db, Tries tries, Sessions sessions, TimeProvider clock)
{
    /// <summary>The scheme of the stays of customers.</summary>
    public const string Scheme = "customer";

    /// <summary>Kept where no password was chosen yet; none is like it.</summary>
    internal const string NoPassword = "";

    /// <summary>The account; null where it is no more.</summary>
    public async Task<Customer?> Find(int id) =>
        await db.Customers.AsNoTracking().FirstOrDefaultAsync(c => c.Id == id) is { } row ? Customer.Of(row) : null;

    /// <summary>Those who are in a customer group, by their addresses.</summary>
    public async Task<IReadOnlyList<Customer>> InGroups(int most) =>
        [
            .. (await db.Customers.AsNoTracking().Where(c => c.GroupKey != null).OrderBy(c => c.EmailKey).Take(most).ToListAsync()).Select(
                Customer.Of
            ),
        ];

    /// <summary>Begins an account: writes a message with a link to its password. Who has one already is told so there, and nobody
    /// else.</summary>
    /// <param name="link">The address for a token.</param>
    public async Task<Outcome> SignUp(string email, string name, Func<string, string> link)
    {
        var faults = new List<Fault>();
        if (TypedEmail.Read(email) is { Ok: false, Problem: { } wrong })
            faults.Add(new Fault("email", wrong));
        if (name.Trim().Length is 0 or > 120)
            faults.Add(new Fault("name", "We need a name of 1 to 120 characters."));
        if (faults.Count > 0)
            return new Outcome(faults);
        // It takes as long where there is one.
        var until = Task.Delay(TimeSpan.FromMilliseconds(400));
        var (key, now) = (KeyOf(email), clock.GetUtcNow());
        await using var transaction = await db.Database.BeginTransactionAsync();
        await db.Database.ExecuteSqlAsync(
            $"""
            insert into customers (email, email_key, password_hash, name, address, created_at)
            values ({email.Trim()}, {key}, {NoPassword}, {name.Trim()}, '', {now}) on conflict (email_key) do nothing
            """
        );
        var row = await db.Customers.FromSql($"select * from customers where email_key = {key} for update").SingleAsync();
        // Whoever asked before without choosing a password may not have been they.
        if (row.PasswordHash == NoPassword)
            row.Name = name.Trim();
        await SendLink(row, link, row.PasswordHash == NoPassword ? AccountMessages.Welcome : AccountMessages.HasOne);
        await transaction.CommitAsync();
        await until;
        return Outcome.Ok;
    }

    /// <summary>Lets a customer in.</summary>
    /// <param name="device">What <see cref="DeviceOf"/> made when they came in on this device; null for none.</param>
    /// <returns>The account, or a sentence that tells nothing of whether there is one.</returns>
    public async Task<Outcome<Customer>> SignIn(string email, string password, Caller caller, string? device)
    {
        var key = KeyOf(email);
        var row = await db.Customers.AsNoTracking().FirstOrDefaultAsync(c => c.EmailKey == key);
        var attempt = await tries.Begin($"customer {key}", caller);
        if (await tries.IsTooMany(attempt, row is not null && tries.IsDeviceOf(device, Customer.StampOf(row))))
            return Outcome<Customer>.No("", Tries.TooMany);
        if (!Passwords.Is(row?.PasswordHash is NoPassword ? null : row?.PasswordHash, password))
            return Outcome<Customer>.No("", "Email and password do not belong together.");
        await tries.TakeBack(attempt);
        return Outcome<Customer>.Of(Customer.Of(row!));
    }

    /// <summary>What a device keeps of a customer who came in there.</summary>
    public string DeviceOf(Customer customer) => tries.DeviceOf(customer.Stamp);

    /// <summary>Writes a message with a link to a new password, where there is such an account.</summary>
    /// <param name="link">The address for a token.</param>
    public async Task Recover(string email, Func<string, string> link)
    {
        // It takes as long where there is none.
        var until = Task.Delay(TimeSpan.FromMilliseconds(400));
        var key = KeyOf(email);
        if (await db.Customers.SingleOrDefaultAsync(c => c.EmailKey == key) is { } row)
            await SendLink(row, link, row.PasswordHash == NoPassword ? AccountMessages.Welcome : AccountMessages.NewPassword);
        await until;
    }

    /// <summary>Sends a link to a password, unless one was sent a moment ago.</summary>
    private async Task SendLink(
        CustomerRow row,
        Func<string, string> link,
        Func<string, string, string, DateTimeOffset, OutboxMessage> message
    )
    {
        var (token, now) = (Secrets.New(), clock.GetUtcNow());
        if (!AccountMessages.IsJustSent(row.RecoveryUntil, now))
        {
            (row.RecoveryHash, row.RecoveryUntil) = (Secrets.HashOf(token), now + AccountMessages.LinkLasts);
            db.Outbox.Add(message((await ShopSettings.Load(db)).Name, row.Email, link(token), now));
        }
        await db.SaveChangesAsync();
    }

    /// <summary>Sets the password that was chosen by the link of a message; all sessions end.</summary>
    /// <param name="token">As the message has it.</param>
    public async Task<Outcome<Customer>> Reset(string token, string password)
    {
        var (hash, now) = (Secrets.HashOf(token), clock.GetUtcNow());
        await using var transaction = await db.Database.BeginTransactionAsync();
        var row = await db
            .Customers.FromSql($"select * from customers where recovery_hash = {hash} and recovery_until > {now} for update")
            .SingleOrDefaultAsync();
        if (row is null)
            return Outcome<Customer>.No("", "This link was used before, or is older than two hours. Have a new one sent.");
        if (Passwords.Problem(password, row.Email, row.Name) is { } weak)
            return Outcome<Customer>.No("password", weak);
        if (row.PasswordHash != NoPassword)
            db.Outbox.Add(
                AccountMessages.Changed((await ShopSettings.Load(db)).Name, row.Email, "Your password was changed.", clock.GetUtcNow())
            );
        row.PasswordHash = Passwords.Hash(password);
        (row.RecoveryHash, row.RecoveryUntil) = (null, null);
        await db.SaveChangesAsync();
        await SignOutEverywhere(row.Id);
        await transaction.CommitAsync();
        return Outcome<Customer>.Of(Customer.Of(row));
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
    public Task SignOutEverywhere(int id) => sessions.EndOf(Scheme, id.ToString(CultureInfo.InvariantCulture));

    /// <summary>Puts an account into a customer group, or into none.</summary>
    /// <returns>Whether there is such an account.</returns>
    public async Task<bool> PutIntoGroup(string email, string? group)
    {
        var key = KeyOf(email);
        return await db.Customers.Where(c => c.EmailKey == key).ExecuteUpdateAsync(u => u.SetProperty(c => c.GroupKey, group)) > 0;
    }

    private static string KeyOf(string email) => email.Trim().ToLowerInvariant();
}
