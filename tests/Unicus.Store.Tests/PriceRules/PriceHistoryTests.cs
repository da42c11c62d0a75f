using System.Globalization;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

public class PriceHistoryTests(Database db) : IClassFixture<Database>
{
    private static readonly Actor Tester = Database.Tester;

    private async Task Publish(string code, string price, int daysAgo)
    {
        var json = $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}", "base": { "price": "{{price}}", "cost": "4.00" } }
            """;
        Assert.Empty((await db.Put(json)).Faults);
        Assert.True((await db.Use<PublishEdition, Outcome<int>>(p => p.Run(code, Tester))).Done);
        await db.Use<UnicusContext, int>(c =>
            c.Database.ExecuteSqlAsync(
                $"""
                update editions e set published_at = now() - make_interval(days => {daysAgo}) from products p
                where p.id = e.product_id and p.code = {code} and e.number = p.edition
                """
            )
        );
    }

    /// <summary>Keeps a state of the rule as of some days ago.</summary>
    private async Task Put(string key, string rule, int daysAgo)
    {
        using var document = JsonDocument.Parse(rule);
        var faults = new List<Fault>();
        var read = new PriceRuleReader(Currency.Euro).Rule(new Node(document.RootElement, "#", faults));
        Assert.Empty(faults);
        Assert.Empty((await db.Use<ChangePriceRules, Outcome<StoredRule>>(r => r.Put(read!, Tester))).Faults);
        await db.Use<UnicusContext, int>(c =>
            c.Database.ExecuteSqlAsync(
                $"""
                update price_history set at = now() - make_interval(days => {daysAgo})
                where key = {key} and id = (select max(id) from price_history where key = {key})
                """
            )
        );
    }

    private Task<string?> Was(string code) =>
        db.Use<Catalogue, string?>(async catalogue =>
            await db.Use<UnicusContext, string?>(async context =>
            {
                var terms = await catalogue.Terms.PublicTerms(context, DateTimeOffset.UtcNow);
                var edition = (await catalogue.Editions.Latest(context, code))!;
                var history = new PriceHistory(catalogue);
                return (await history.Prior(context, edition, edition.Matrix.Variants[0], terms))?.ToString();
            })
        );

    private static string Rule(string key, string code, int percent, string dates) =>
        $$"""
            { "key": "{{key}}", "scope": { "products": ["{{code}}"] }, "effect": { "reduce": { "percent": "{{percent}}" } },
              "when": { {{dates}} } }
            """;

    private static string Day(int days) => DateTimeOffset.UtcNow.AddDays(days).ToString("yyyy-MM-dd'T'HH:mm:ss'Z'");

    [Fact]
    public async Task A_running_reduction_has_the_lowest_price_of_the_thirty_days_before_whatever_made_it()
    {
        await Publish("WAS", "50.00", 90);
        await Publish("WAS", "48.00", 20);
        await Put("was", Rule("was", "WAS", 10, $"\"from\": \"{Day(-5)}\", \"until\": \"{Day(5)}\""), 80);
        Assert.Equal("48.00", await Was("WAS"));
        // Made deeper two days ago: it keeps the price before its first step.
        await Put("was", Rule("was", "WAS", 20, $"\"from\": \"{Day(-5)}\", \"until\": \"{Day(5)}\""), 2);
        Assert.Equal("48.00", await Was("WAS"));
        Assert.True(await db.Use<ChangePriceRules, bool>(r => r.Archive("was", true)));
        Assert.Null(await Was("WAS"));
    }

    [Fact]
    public async Task An_earlier_reduction_within_the_thirty_days_counts()
    {
        await Publish("TWICE", "50.00", 90);
        await Put("first", Rule("first", "TWICE", 20, $"\"from\": \"{Day(-30)}\", \"until\": \"{Day(-20)}\""), 80);
        await Put("second", Rule("second", "TWICE", 10, $"\"from\": \"{Day(-5)}\""), 80);
        Assert.Equal("40.00", await Was("TWICE"));
        Assert.True(await db.Use<ChangePriceRules, bool>(r => r.Delete("second")));
        Assert.True(await db.Use<ChangePriceRules, bool>(r => r.Delete("first")));
    }

    [Fact]
    public async Task Goods_that_were_never_sold_without_the_reduction_have_no_was_price()
    {
        await Publish("FRESH", "50.00", 3);
        await Put("fresh", Rule("fresh", "FRESH", 10, ""), 80);
        Assert.Null(await Was("FRESH"));
    }

    [Fact]
    public async Task Prices_are_read_back_and_that_can_be_taken_back()
    {
        string Variant(string size, string timber, string price) =>
            $$"""{ "values": { "size": "{{size}}", "timber": "{{timber}}" }, "price": "{{price}}" }""";
        string Option(string key, params string[] values) =>
            $$"""
                { "key": "{{key}}", "label": "{{key}}", "role": "variant",
                  "values": [ {{string.Join(", ", values.Select(v => $$"""{ "key": "{{v}}", "label": "{{v}}" }"""))}} ] }
                """;
        string[] sizes = ["s", "m", "l", "xl"];
        var variants = sizes.SelectMany(
            (s, i) => new[] { Variant(s, "pine", $"{20 + 5 * i}.00"), Variant(s, "cedar", $"{26 + 5 * i}.00") }
        );
        var json = $$"""
            { "format": "unicus-product/1", "code": "BACK", "name": "Back", "options": [ {{Option("size", sizes)}},
              {{Option("timber", "pine", "cedar")}} ], "variants": [ {{string.Join(", ", variants).Replace("31.00", "33.50")}} ] }
            """;
        Assert.Empty((await db.Put(json)).Faults);
        var seen = (await db.Use<ReadPricesBack, ReadBack?>(r => r.Preview("BACK")))!;
        Assert.Equal((8, 1, 4), (seen.OwnBefore, seen.Exceptions.Count, seen.Structure.Surcharges.Count));
        var version = await db.Use<UnicusContext, int>(c => c.Products.Where(p => p.Code == "BACK").Select(p => p.Version).SingleAsync());
        Assert.False((await db.Use<ReadPricesBack, Outcome>(r => r.Run("BACK", version - 1, Tester))).Done);
        Assert.True((await db.Use<ReadPricesBack, Outcome>(r => r.Run("BACK", version, Tester))).Done);
        async Task<List<decimal?>> Own() =>
            await db.Use<UnicusContext, List<decimal?>>(c =>
                (
                    from v in c.Variants
                    join p in c.Products on v.ProductId equals p.Id
                    where p.Code == "BACK"
                    orderby v.Id
                    select v.Price
                ).ToListAsync()
            );
        var copy = await db.Use<UnicusContext, WorkingCopy?>(c => WorkingCopy.Load(c, "BACK"));
        Assert.Equal([33.50m], (await Own()).OfType<decimal>());
        Assert.Equal([20m, 26m, 25m, 33.50m, 30m, 36m, 35m, 41m], copy!.Matrix.Variants.Select(v => v.Price.Figure!.Value.Amount));
        Assert.True((await db.Use<UndoChange, Outcome<string>>(u => u.Run("BACK"))).Done);
        Assert.Equal(8, (await Own()).OfType<decimal>().Count());
    }

    [Fact]
    public async Task The_lowest_margin_is_shown_with_its_basket_and_rules_that_do_nothing_are_found()
    {
        await Publish("LOW", "10.00", 1);
        await Put("half", """{ "key": "half", "scope": { "products": ["LOW"] }, "effect": { "reduce": { "percent": "50" } } }""", 1);
        await Put("less", """{ "key": "less", "scope": { "products": ["LOW"] }, "effect": { "reduce": { "percent": "5" } } }""", 1);
        await Put("none", """{ "key": "none", "scope": { "products": ["GONE"] }, "effect": { "reduce": { "percent": "5" } } }""", 1);
        var proven = await db.Use<ProveMargins, ProvenMargin?>(async proofs =>
            await db.Use<Catalogue, ProvenMargin?>(async catalogue =>
                await db.Use<UnicusContext, ProvenMargin?>(async c =>
                    await proofs.Of(
                        (await catalogue.Editions.Latest(c, "LOW"))!,
                        await catalogue.Terms.PublicTerms(c, DateTimeOffset.UtcNow)
                    )
                )
            )
        );
        // 5.00 for what costs 4.00, in a shop that reckons no tax and has no floor.
        Assert.Equal((20m, true, "one of LOW"), (proven!.Lowest!.Margin, proven.IsExact, proven.Lowest.InWords([])));
        var found = await db.Use<RuleFindings, IReadOnlyList<PriceRuleCheck>>(f => f.Look());
        Assert.Contains(found, f => f.Rule == "less" && f.Text.StartsWith("It never wins"));
        Assert.Contains(found, f => f.Rule == "none" && f.Text.StartsWith("It hits nothing"));
        Assert.DoesNotContain(found, f => f.Rule == "half");
        foreach (var key in new[] { "half", "less", "none" })
            await db.Use<ChangePriceRules, bool>(r => r.Delete(key));
    }

    [Fact]
    public async Task Customers_keep_accounts_whose_sessions_end_with_a_new_password()
    {
        var home = new Caller("10.0.0.1", "Firefox on Linux");
        Task<Outcome<Customer>> SignIn(string email, string password) =>
            db.Use<CustomerAccounts, Outcome<Customer>>(a => a.SignIn(email, password, home, null));
        var token = "";
        Task<Outcome> SignUp(string email, string name) =>
            db.Use<CustomerAccounts, Outcome>(a => a.SignUp(email, name, t => $"/to/{token = t}"));
        Task<Outcome<Customer>> Reset(string token, string password) =>
            db.Use<CustomerAccounts, Outcome<Customer>>(a => a.Reset(token, password));
        Assert.True((await SignUp("Orla@example.org", "Somebody else")).Done);
        Assert.False((await SignIn("orla@example.org", "")).Done);
        Assert.True((await SignUp("orla@example.org", "Orla")).Done);
        var made = await Reset(token, "three plain words");
        Assert.Equal("Orla", made.Result?.Name);
        // Nobody hears from the page that there is an account; its owner does, by a message.
        Assert.Equal((await SignUp("fresh@example.org", "O")).Faults, (await SignUp("orla@EXAMPLE.org ", "O")).Faults);
        var told = await db.Use<UnicusContext, string>(c => c.Outbox.OrderByDescending(m => m.Id).Select(m => m.Body).FirstAsync());
        Assert.Contains("There is one already", told, StringComparison.Ordinal);
        Assert.Equal((await SignIn("no@example.org", "x")).Faults, (await SignIn("orla@example.org", "three plain word")).Faults);
        Assert.True((await SignIn("ORLA@example.org", "three plain words")).Done);
        var id = made.Result!.Id.ToString(CultureInfo.InvariantCulture);
        token = "";
        var stay = await db.Use<Sessions, string>(s => s.Begin(CustomerAccounts.Scheme, id, home, [1], DateTimeOffset.UtcNow.AddDays(1)));
        async Task Recover(string email) =>
            await db.Use<CustomerAccounts, bool>(async a =>
            {
                await a.Recover(email, t => token = t);
                return true;
            });
        await Recover("nobody@example.org");
        Assert.Equal("", token);
        // One message a minute, however often it is asked for, and the link of the first stays good.
        await Recover("orla@example.org");
        Assert.Equal("", token);
        await db.Use<UnicusContext, int>(c =>
            c.Database.ExecuteSqlAsync($"update customers set recovery_until = recovery_until - interval '2 minutes'")
        );
        await Recover("orla@example.org");
        Assert.False((await Reset(token[1..] + "-", "another three words")).Done);
        Assert.NotNull(await db.Use<Sessions, byte[]?>(s => s.Read(stay)));
        Assert.True((await Reset(token, "another three words")).Done);
        Assert.False((await Reset(token, "a third time now")).Done);
        Assert.Null(await db.Use<Sessions, byte[]?>(s => s.Read(stay)));
        Assert.True((await SignIn("orla@example.org", "another three words")).Done);
    }
}
