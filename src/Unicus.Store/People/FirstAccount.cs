using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>What a new shop needs to know before anything else.</summary>
/// <param name="Code">The one-time code that the start printed.</param>
/// <param name="Destination">The code of the one country or place that goods are sent to first; empty: none yet.</param>
/// <param name="TaxRate">Per cent of the usual tax there, as typed; empty: none.</param>
public sealed record FirstSettings(
    string Code,
    string Email,
    string Name,
    string Password,
    string Shop,
    string Currency,
    string TimeZone,
    bool PricesIncludeTax,
    string Destination,
    string DestinationName,
    string TaxRate
);

/// <summary>An empty shop belongs to whoever started it: its first account needs the code that the start printed.</summary>
public sealed class FirstAccount(UnicusContext db, Tries tries, TimeProvider clock)
{
    /// <summary>In a new shop shoppers hear how many are left below this number.</summary>
    private const int CountShown = 10;

    /// <summary>Makes a new code, in place of any older one, while the shop has nobody.</summary>
    /// <returns>Null where somebody has an account.</returns>
    public static async Task<string?> NewCode(UnicusContext db)
    {
        if (await db.People.AnyAsync())
            return null;
        var code = Secrets.NewCode(3);
        var hash = Secrets.HashOf(Secrets.Tidied(code));
        await db.Shops.ExecuteUpdateAsync(u => u.SetProperty(s => s.FirstCodeHash, hash));
        return code;
    }

    /// <summary>Whether nobody has an account yet.</summary>
    public async Task<bool> IsWanted() => !await db.People.AnyAsync();

    /// <summary>Makes the first account, which owns the shop, and settles what a shop cannot be without.</summary>
    public async Task<Outcome<Person>> Make(FirstSettings first, Caller caller)
    {
        var attempt = await tries.Begin("first account", caller);
        if (await tries.IsTooMany(attempt))
            return Outcome<Person>.No("code", Tries.TooMany);
        await using var transaction = await db.Database.BeginTransactionAsync();
        var shop = await db.Shops.FromSql($"select * from shop for update").SingleAsync();
        if (await db.People.AnyAsync())
            return Outcome<Person>.No("", "This shop belongs to somebody already. Sign in instead.");
        var faults = new List<Fault>();
        if (shop.FirstCodeHash is null || Secrets.HashOf(Secrets.Tidied(first.Code)) != shop.FirstCodeHash)
            faults.Add(new Fault("code", "That is not the code that ./start printed last."));
        faults.AddRange(ChangePeople.Faults(first.Email, first.Name, Roles.Owner));
        if (Passwords.Problem(first.Password, first.Email, first.Name) is { } weak)
            faults.Add(new Fault("password", weak));
        var terms = Settle(shop, first, faults);
        if (faults.Count > 0)
        {
            if (faults.All(f => f.Where != "code"))
            {
                await tries.TakeBack(attempt);
                await transaction.CommitAsync();
            }
            return new Outcome<Person>(null, faults);
        }
        var person = ChangePeople.Make(first.Email, first.Name, Roles.Owner, clock.GetUtcNow());
        person.PasswordHash = Passwords.Hash(first.Password);
        db.People.Add(person);
        (shop.Name, shop.TimeZone, shop.Terms) = (first.Shop.Trim(), first.TimeZone, ShopSettings.WriteTerms(terms));
        (shop.FirstCodeHash, shop.Version) = (null, shop.Version + 1);
        (attempt.Kind, attempt.By, attempt.Text) = (EventKind.People, person.Name, $"{person.Name} made the first account");
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return Outcome<Person>.Of(Person.Of(person));
    }

    private static TradeTerms Settle(ShopRow shop, FirstSettings first, List<Fault> faults)
    {
        var terms = ShopSettings.From(shop).Terms;
        if (first.Shop.Trim().Length is 0 or > 120)
            faults.Add(new Fault("shop", "A shop needs a name of 1 to 120 characters."));
        if (!TimeZoneInfo.TryFindSystemTimeZoneById(first.TimeZone, out _))
            faults.Add(new Fault("timeZone", $"“{first.TimeZone}” is not a time zone. Type one like Europe/Dublin."));
        var found = Currency.Find(first.Currency);
        if (found is null)
            faults.Add(new Fault("currency", $"“{first.Currency}” is not a currency code of ISO 4217, such as EUR."));
        var rate = TypedNumbers.Percent(first.TaxRate);
        if (!rate.Ok || rate.Value?.Value is < 0 or > 100)
            faults.Add(new Fault("taxRate", "A tax rate lies between 0 and 100 %."));
        var code = first.Destination.Trim().ToUpperInvariant();
        if (code.Length > 10)
            faults.Add(new Fault("destination", "The code of a destination has at most 10 characters, such as IE."));
        if (code.Length == 0 && rate.Value is { Value: not 0 })
            faults.Add(new Fault("destination", "A tax rate needs the place where it is due, such as IE."));
        if (found is not { } currency || faults.Count > 0)
            return terms;
        var usual = terms.TaxClasses[0].Key.Text;
        return terms with
        {
            Currency = currency,
            CountShownBelow = CountShown,
            PricesIncludeTax = first.PricesIncludeTax,
            Destinations =
                code.Length == 0
                    ? []
                    :
                    [
                        new Destination(
                            code,
                            first.DestinationName.Trim() is { Length: > 0 } label ? label : code,
                            rate.Value is { Value: not 0 } r
                                ? System.Collections.Immutable.ImmutableSortedDictionary<string, decimal>.Empty.Add(usual, r.Value)
                                : System.Collections.Immutable.ImmutableSortedDictionary<string, decimal>.Empty,
                            [DeliveryService.Flat(Money.Zero(currency), usual)]
                        ),
                    ],
        };
    }
}
