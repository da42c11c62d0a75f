using Microsoft.EntityFrameworkCore;
using OtpNet;

namespace Unicus.Store.Tests;

/// <summary>The doors of the back office: who comes in, with what, and until when.</summary>
public sealed class PeopleTests(Database db) : IClassFixture<Database>, IAsyncLifetime
{
    private const string Password = "four quiet words here";
    private static readonly Caller Home = new("10.1.1.1", "Firefox on Linux");

    public async ValueTask InitializeAsync() =>
        await db.Use<UnicusContext, int>(async c =>
        {
            await c.People.ExecuteDeleteAsync();
            await c.Events.ExecuteDeleteAsync();
            await c.Sessions.ExecuteDeleteAsync();
            return 0;
        });

    public ValueTask DisposeAsync() => ValueTask.CompletedTask;

    private async Task<PersonRow> Add(string email, string role)
    {
        var token = "";
        var outcome = await db.Use<ChangePeople, Outcome>(p => p.Add(email, email.Split('@')[0], role, Database.Tester, t => token = t));
        Assert.True(outcome.Done, string.Join(' ', outcome.Faults));
        Assert.True((await db.Use<OwnAccount, Outcome>(a => a.Reset(token, Password))).Done);
        return await Find(email);
    }

    private Task<PersonRow> Find(string email) =>
        db.Use<UnicusContext, PersonRow>(c => c.People.AsNoTracking().SingleAsync(p => p.Email == email));

    private Task<Entry> Enter(string email, string password, Caller? caller = null, string? device = null) =>
        db.Use<Entrance, Entry>(e => e.Enter(email, password, caller ?? Home, device));

    [Fact]
    public async Task Whoever_is_added_chooses_a_password_by_the_link_of_a_message_which_works_once()
    {
        var token = "";
        await db.Use<ChangePeople, Outcome>(p => p.Add("ada@example.org", "Ada", Roles.Owner, Database.Tester, t => token = t));
        Assert.IsType<Entry.Refused>(await Enter("ada@example.org", ""));
        Assert.Equal("password", (await db.Use<OwnAccount, Outcome>(a => a.Reset(token, "password1234"))).Faults[0].Where);
        Assert.True((await db.Use<OwnAccount, Outcome>(a => a.Reset(token, Password))).Done);
        Assert.False((await db.Use<OwnAccount, Outcome>(a => a.Reset(token, Password + "!"))).Done);
        Assert.IsType<Entry.Entered>(await Enter(" ADA@example.ORG", Password));
        var again = await db.Use<ChangePeople, Outcome>(p =>
            p.Add("Ada@Example.org", "Other", Roles.Staff, Database.Tester, t => token = t)
        );
        Assert.Equal("email", again.Faults[0].Where);
    }

    [Fact]
    public async Task Known_and_unknown_accounts_are_refused_in_the_same_words()
    {
        await Add("ada@example.org", Roles.Owner);
        var known = Assert.IsType<Entry.Refused>(await Enter("ada@example.org", "not the password"));
        Assert.Equal(known, await Enter("nobody@example.org", "not the password"));
    }

    [Fact]
    public async Task Strangers_who_try_without_end_are_stopped_and_do_not_lock_the_owner_out()
    {
        var ada = await Add("ada@example.org", Roles.Owner);
        var device = await db.Use<Entrance, string>(e => Task.FromResult(e.DeviceOf(Person.Of(ada))));
        // Thirty at the same moment from one address: most are not even looked at.
        var near = await Task.WhenAll(
            Enumerable.Range(0, 30).Select(i => Enter("ada@example.org", $"guess {i}", new Caller("6.6.6.6", "curl")))
        );
        Assert.True(near.Count(e => e == new Entry.Refused(Tries.TooMany)) >= 22);
        Assert.Equal(new Entry.Refused(Tries.TooMany), await Enter("ada@example.org", Password, new Caller("6.6.6.6", "curl")));
        Assert.IsType<Entry.Entered>(await Enter("ada@example.org", Password));
        // A hundred from everywhere: now only devices come in that she came in on before.
        for (var i = 0; i < 80; i++)
            await Enter("ada@example.org", "guess", new Caller($"7.7.7.{i}", "curl"));
        Assert.Equal(new Entry.Refused(Tries.TooMany), await Enter("ada@example.org", Password, new Caller("8.8.8.8", "curl")));
        Assert.IsType<Entry.Entered>(await Enter("ada@example.org", Password, Home, device));
        Assert.Equal(
            new Entry.Refused(Tries.TooMany),
            await Enter("ada@example.org", Password, new Caller("8.8.8.8", "curl"), device + "x")
        );
    }

    [Theory]
    // RFC 6238, Appendix B, the vectors with SHA-1; its codes have eight digits, of which these are the last six.
    [InlineData(59, "94287082")]
    [InlineData(1111111109, "07081804")]
    [InlineData(1111111111, "14050471")]
    [InlineData(1234567890, "89005924")]
    [InlineData(2000000000, "69279037")]
    [InlineData(20000000000, "65353130")]
    public void Codes_of_the_second_factor_are_those_of_the_published_vectors(long seconds, string published)
    {
        var secret = Base32Encoding.ToString("12345678901234567890"u8.ToArray());
        var now = DateTimeOffset.FromUnixTimeSeconds(seconds);
        Assert.Equal(seconds / 30, SecondFactor.StepOf(secret, published[2..], now));
        Assert.Equal(seconds / 30, SecondFactor.StepOf(secret, published[2..], now.AddSeconds(29)));
        Assert.Null(SecondFactor.StepOf(secret, published[2..], now.AddSeconds(61)));
        Assert.Null(SecondFactor.StepOf(secret, "", now));
    }

    [Fact]
    public async Task A_code_of_the_second_factor_lets_in_once_and_so_does_each_spare_code()
    {
        var ada = await Add("ada@example.org", Roles.Owner);
        var secret = SecondFactor.NewSecret();
        string Code(int steps) => new Totp(Base32Encoding.ToBytes(secret)).ComputeTotp(DateTime.UtcNow.AddSeconds(30 * steps));
        Task<Outcome<IReadOnlyList<string>>> TurnOn(string password, string code) =>
            db.Use<OwnAccount, Outcome<IReadOnlyList<string>>>(a => a.TurnOn(ada.Id, password, secret, code));
        // A code of the step before holds as long as its next one lasts: not begun in the last seconds of a step.
        var left = 30 - DateTimeOffset.UtcNow.ToUnixTimeSeconds() % 30;
        if (left < 10)
            await Task.Delay(TimeSpan.FromSeconds(left));
        Assert.Equal("current", (await TurnOn("not it at all", Code(0))).Faults[0].Where);
        Assert.Equal("code", (await TurnOn(Password, "000000x")).Faults[0].Where);
        var first = Code(-1);
        var spare = (await TurnOn(Password, first)).Result!;
        Assert.Equal(SecondFactor.SpareCodes, spare.Distinct().Count());
        var half = Assert.IsType<Entry.NeedsCode>(await Enter("ada@example.org", Password)).Half;
        Task<Entry> With(string code) => db.Use<Entrance, Entry>(e => e.EnterWithCode(half, code, Home, null));
        Assert.IsType<Entry.Refused>(await With(first));
        var now = Code(0);
        var pressed = await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => With(now)));
        Assert.Single(pressed.OfType<Entry.Entered>());
        await db.Use<UnicusContext, int>(c => c.Events.ExecuteDeleteAsync());
        Assert.IsType<Entry.Entered>(await With(spare[3].ToLowerInvariant().Replace("-", " ")));
        Assert.IsType<Entry.Refused>(await With(spare[3]));
        Assert.IsType<Entry.Refused>(await db.Use<Entrance, Entry>(e => e.EnterWithCode("half", spare[4], Home, null)));
        // A new password alone does not take the second factor away.
        var token = "";
        await db.Use<OwnAccount, int>(async a =>
        {
            await a.Recover("ada@example.org", Home, t => token = t);
            return 0;
        });
        await db.Use<OwnAccount, Outcome>(a => a.Reset(token, "another four words"));
        Assert.IsType<Entry.NeedsCode>(await Enter("ada@example.org", "another four words"));
    }

    [Fact]
    public async Task Who_has_an_account_is_told_what_changed_about_it()
    {
        var ada = await Add("told@example.org", Roles.Staff);
        var secret = SecondFactor.NewSecret();
        string Code() => new Totp(Base32Encoding.ToBytes(secret)).ComputeTotp();
        await db.Use<OwnAccount, Outcome>(a => a.ChangePassword(ada.Id, Password, "another four words", null));
        await db.Use<OwnAccount, Outcome<IReadOnlyList<string>>>(a => a.TurnOn(ada.Id, "another four words", secret, Code()));
        await db.Use<OwnAccount, Outcome>(a => a.TurnOff(ada.Id, "another four words"));
        var told = await db.Use<UnicusContext, List<string>>(c =>
            c.Outbox.Where(m => m.To == "told@example.org" && m.Subject.Contains("changed"))
                .OrderBy(m => m.Id)
                .Select(m => m.Body)
                .ToListAsync()
        );
        Assert.Equal(3, told.Count);
        Assert.StartsWith("Your password was changed.", told[0], StringComparison.Ordinal);
        Assert.StartsWith("Signing in asks for a code", told[1], StringComparison.Ordinal);
        Assert.StartsWith("Signing in no longer asks", told[2], StringComparison.Ordinal);
        Assert.DoesNotContain(told, t => t.Contains("http", StringComparison.Ordinal));
    }

    [Fact]
    public async Task Stays_end_with_a_new_password_another_role_or_removal()
    {
        var (ada, ben) = (await Add("ada@example.org", Roles.Owner), await Add("ben@example.org", Roles.Staff));
        Task<string> Stay(PersonRow p) =>
            db.Use<Sessions, string>(s => s.Begin(ChangePeople.Scheme, p.Id, Home, [1, 2, 3], DateTimeOffset.UtcNow.AddHours(1)));
        async Task<bool> Holds(string key) => await db.Use<Sessions, byte[]?>(s => s.Read(key)) is [1, 2, 3];
        var (here, there, bens) = (await Stay(ada), await Stay(ada), await Stay(ben));
        Assert.True(await Holds(here) && await Holds(there) && await Holds(bens) && !await Holds(here + "x"));
        Assert.DoesNotContain(await db.Use<Sessions, IReadOnlyList<Stay>>(s => s.Of(ChangePeople.Scheme, ada.Id)), s => s.Id == here);
        var changed = await db.Use<OwnAccount, Outcome>(a => a.ChangePassword(ada.Id, Password, "quite another one", Secrets.HashOf(here)));
        Assert.True(changed.Done);
        Assert.True(await Holds(here) && !await Holds(there) && await Holds(bens));
        await db.Use<ChangePeople, Outcome>(p => p.SetRole(ben.Id, Roles.Owner, Database.Tester));
        Assert.False(await Holds(bens));
        var again = await Stay(ben);
        Assert.True((await db.Use<ChangePeople, Outcome>(p => p.Remove(ben.Id, Database.Tester))).Done);
        Assert.False(await Holds(again));
        Assert.IsType<Entry.Refused>(await Enter("ben@example.org", Password));
        await db.Use<ChangePeople, Outcome>(p => p.BringBack(ben.Id, Database.Tester));
        Assert.IsType<Entry.Entered>(await Enter("ben@example.org", Password));
    }

    [Fact]
    public async Task Of_two_owners_who_remove_each_other_at_once_one_stays()
    {
        var (ada, ben) = (await Add("ada@example.org", Roles.Owner), await Add("ben@example.org", Roles.Owner));
        var outcomes = await Task.WhenAll(
            db.Use<ChangePeople, Outcome>(p => p.Remove(ada.Id, Database.Tester)),
            db.Use<ChangePeople, Outcome>(p => p.Remove(ben.Id, Database.Tester))
        );
        Assert.Single(outcomes, o => o.Done);
        var last = await db.Use<UnicusContext, string>(c => c.People.Where(p => p.RemovedAt == null).Select(p => p.Id).SingleAsync());
        Assert.False((await db.Use<ChangePeople, Outcome>(p => p.SetRole(last, Roles.Staff, Database.Tester))).Done);
    }

    [Fact]
    public async Task The_first_account_needs_the_code_and_only_one_gets_it()
    {
        FirstSettings Wanted(string code, string email) =>
            new(code, email, "Ada", Password, "Wood", "GBP", "Europe/London", true, "GB", "Britain", "20");
        Task<Outcome<Person>> Make(FirstSettings s) => db.Use<FirstAccount, Outcome<Person>>(f => f.Make(s, Home));
        var before = await db.Use<UnicusContext, ShopRow>(c => c.Shops.AsNoTracking().SingleAsync());
        await db.Use<UnicusContext, string?>(FirstAccount.NewCode);
        var code = (await db.Use<UnicusContext, string?>(FirstAccount.NewCode))!;
        Assert.Equal("code", (await Make(Wanted("AAAAA-BBBBB-CCCCC", "a@example.org"))).Faults[0].Where);
        var bad = await Make(Wanted(code, "a") with { Shop = "", Currency = "XXQ", TaxRate = "200" });
        Assert.Equal(["email", "shop", "currency", "taxRate"], bad.Faults.Select(f => f.Where));
        var made = await Task.WhenAll(
            Make(Wanted(code.ToLowerInvariant(), "a@example.org")),
            Make(Wanted(code, "b@example.org")),
            Make(Wanted(code, "c@example.org"))
        );
        Assert.Single(made, m => m.Done);
        var shop = await db.Use<UnicusContext, ShopSettings>(c => ShopSettings.Load(c));
        Assert.Equal(("Wood", "GBP", 20m), (shop.Name, shop.Currency.Code, shop.Terms.Destinations.Single().RateOf("standard").Value));
        Assert.Null(await db.Use<UnicusContext, string?>(FirstAccount.NewCode));
        await db.Use<UnicusContext, int>(c =>
            c.Shops.ExecuteUpdateAsync(u =>
                u.SetProperty(s => s.Name, before.Name)
                    .SetProperty(s => s.TimeZone, before.TimeZone)
                    .SetProperty(s => s.Terms, before.Terms)
            )
        );
    }

    [Fact]
    public async Task Keys_are_kept_as_hashes_and_withdrawn_at_once()
    {
        var made = await db.Use<ApiKeys, Outcome<string>>(k => k.Make("till", [ApiScopes.Orders, ApiScopes.Read], Database.Tester));
        var key = made.Result!;
        var row = (await db.Use<ApiKeys, IReadOnlyList<ApiKey>>(k => k.List())).Single(k => k.Name == "till");
        var stored = await db.Use<UnicusContext, ApiKeyRow>(c => c.ApiKeys.SingleAsync(k => k.Id == row.Id));
        Assert.DoesNotContain(key, string.Join(' ', stored.Name, stored.Hash, stored.Start), StringComparison.Ordinal);
        Assert.Equal<string>([ApiScopes.Read, ApiScopes.Orders], row.Scopes);
        Assert.False((await db.Use<ApiKeys, Outcome<string>>(k => k.Make("", ["all"], Database.Tester))).Done);
        Assert.True(await db.Use<ApiKeys, bool>(k => k.Withdraw(row.Id, Database.Tester)));
        Assert.False(await db.Use<ApiKeys, bool>(k => k.Withdraw(row.Id, Database.Tester)));
        var told = await db.Use<EventLog, IReadOnlyList<LoggedEvent>>(l => l.Page(EventKind.Keys, null, 10));
        Assert.Equal(["Withdrew the key till", "Made the key till: orders, read"], told.Select(e => e.Text).Take(2));
    }

    [Theory]
    [InlineData("short", false)]
    [InlineData("password1234", false)]
    [InlineData("aaaaaaaaaaaaaaaa", false)]
    [InlineData("123456789012", false)]
    [InlineData("adalovelace1", false)]
    [InlineData("horse battery ink", true)]
    [InlineData("839201748561", true)]
    public void Passwords_that_are_tried_first_are_refused(string password, bool isFine) =>
        Assert.Equal(isFine, Passwords.Problem(password, "ada@lovelace.example", "Ada Lovelace") is null);
}
