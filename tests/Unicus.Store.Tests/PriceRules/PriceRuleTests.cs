using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

public class PriceRuleTests(Database db) : PriceRuleShop(db)
{
    [Fact]
    public async Task A_rule_acts_within_its_dates_to_the_second_on_the_night_when_clocks_change_too()
    {
        await Publish("CLK", "10.00", 5);
        // Dublin leaves summer time on 31 October 2027, 02:00: the local end of the day is 00:00 UTC from then on.
        await Put(
            """
            { "key": "clk", "scope": { "products": ["CLK"] }, "effect": { "reduce": { "percent": "10" } },
              "when": { "from": "2027-10-30T23:00:00Z", "until": "2027-11-01T00:00:00Z", "weekdays": ["sun"] } }
            """
        );
        async Task<string> At(string at) => (await Priced(Basket("CLK", 1) with { At = DateTimeOffset.Parse(at) })).Subtotal.ToString();
        Assert.Equal("10.00", await At("2027-10-30T22:59:59.999Z"));
        Assert.Equal("9.00", await At("2027-10-30T23:00:00Z"));
        Assert.Equal("9.00", await At("2027-10-31T23:59:59.999Z"));
        Assert.Equal("10.00", await At("2027-11-01T00:00:00Z"));
    }

    [Fact]
    public async Task Switching_on_and_off_is_seen_at_once_in_baskets_and_lists()
    {
        await Publish("ONOFF", "10.00", 5);
        async Task<decimal?> Listed()
        {
            await Db.Use<RangeFigures, int>(i => i.Work(1000));
            return await Db.Use<UnicusContext, decimal?>(c =>
                c.RangeEntries.Where(e => e.Code == "ONOFF").Select(e => e.Figures.FromPrice).SingleAsync()
            );
        }
        const string rule = """{ "key": "onoff", "scope": { "products": ["ONOFF"] }, "effect": { "setUnit": "7.00" } }""";
        await Put(rule);
        Assert.Equal(("7.00", 7m), ((await Priced(Basket("ONOFF", 1))).Subtotal.ToString(), await Listed()));
        await Put(rule.Replace("\"effect\"", "\"state\": \"draft\", \"effect\""));
        Assert.Equal(("10.00", 10m), ((await Priced(Basket("ONOFF", 1))).Subtotal.ToString(), await Listed()));
        Assert.True(await Db.Use<ChangePriceRules, bool>(r => r.Delete("onoff")));
    }

    [Fact]
    public async Task A_list_shows_what_a_rule_and_the_floor_make_of_prices_while_somebody_else_writes_them_down()
    {
        await Publish("WAITS", "10.00", 5);
        await Db.Use<RangeFigures, int>(i => i.Work(1000));
        var ruled = """{ "key": "waits", "scope": { "products": ["WAITS"] }, "effect": { "setUnit": "7.00" } }""";
        async Task<string> Shown()
        {
            var list = await Db.Use<RangeLists, ListPage>(l => l.Read(new ListQuery("waits", null, [], false, ListOrder.Price, 1)));
            var figures = Assert.Single(list.Items).Price;
            return $"{figures.From} {figures.Badge}".Trim();
        }
        await Db.Use<UnicusContext, bool>(async holder =>
        {
            await using var transaction = await holder.Database.BeginTransactionAsync();
            await holder.Database.ExecuteSqlAsync($"select 1 from range_figures for update");
            await Put(ruled);
            Assert.Equal("7.00 waits", await Shown().WaitAsync(TimeSpan.FromSeconds(5)));
            return true;
        });
        await Db.Use<RangeFigures, int>(i => i.Work(1000));
        Assert.Equal("7.00 waits", await Shown());
        Assert.True(await Db.Use<ChangePriceRules, bool>(r => r.Delete("waits")));
        Assert.Equal("10.00", await Shown());

        // Cost 4.00: with a floor of 50 % a rule leaves 8.00.
        await Put(ruled);
        Assert.Equal("7.00 waits", await Shown());
        await Floor(new Percentage(50));
        Assert.Equal("8.00 waits", await Shown());
        await Floor(null);
        Assert.Equal("7.00 waits", await Shown());
        // What a page worked out is not shown of an edition that came after it.
        await Publish("WAITS", "5.00", 5);
        Assert.Equal("5.00", await Shown());
        Assert.True(await Db.Use<ChangePriceRules, bool>(r => r.Delete("waits")));

        async Task Floor(Percentage? margin) =>
            Assert.True(
                (
                    await Db.Use<ChangeSettings, Outcome>(async c =>
                    {
                        var now = WantedSettings.Of(await Db.Use<UnicusContext, ShopSettings>(x => ShopSettings.Load(x)));
                        return await c.Run(now with { Terms = now.Terms with { Floor = margin } }, Tester);
                    })
                ).Done
            );
    }

    /// <summary>A draft is nobody's matter; a rule is that of what it reaches, before a change or after it.</summary>
    [Fact]
    public async Task A_rule_marks_as_due_what_it_reaches()
    {
        await Db.Use<CategoryTree, Outcome>(t => t.Create("Due", null));
        var due = await Db.Use<UnicusContext, int>(c => c.Categories.Where(x => x.Name == "Due").Select(x => x.Id).SingleAsync());
        await Db.Use<CategoryTree, Outcome>(t => t.Create("Due soon", due));
        foreach (var code in new[] { "DUE0", "DUE1", "DUE2", "ELSE" })
            await Publish(code, "9.00", 5);
        await Db.Publish("DUE3", """ "base": { "price": "9.00" }, "categories": ["Due soon"] """);
        async Task<string> Due(string? rule, string more = "")
        {
            while (await Db.Use<RangeFigures, int>(i => i.Work(1000)) > 0) { }
            if (rule is not null)
                await Put($$"""{ "key": "due", "scope": {{rule}}, "effect": { "setUnit": "0.50" }{{more}} }""");
            else
                await Db.Use<ChangePriceRules, bool>(r => r.Delete("due"));
            return await Db.Use<UnicusContext, string>(async c =>
            {
                var due = await c
                    .RangeDue.Join(c.RangeEntries, d => d.ProductId, e => e.ProductId, (_, e) => e.Code)
                    .Distinct()
                    .ToListAsync();
                var ours = due.Where(d => d.StartsWith("DUE", StringComparison.Ordinal)).Order().ToList();
                return string.Join(' ', ours) + (due.Count > ours.Count ? " and others" : "");
            });
        }
        Assert.Equal("", await Due("""{ "products": ["DUE0"] }""", """, "state": "draft" """));
        Assert.Equal("DUE0", await Due("""{ "products": ["DUE0"] }"""));
        Assert.Equal("DUE0 DUE1", await Due("""{ "skus": ["DUE1"] }"""));
        Assert.Equal("DUE1 DUE3", await Due("""{ "categories": ["due"] }"""));
        Assert.Equal("DUE3", await Due("""{ "categories": ["due"] }""", """, "state": "draft" """));
        Assert.Equal("", await Due("""{ "products": ["DUE2"] }""", """, "state": "draft" """));
        Assert.Equal("DUE0 DUE1 DUE2 DUE3 and others", await Due("{}"));
        Assert.Equal("DUE0 DUE1 DUE2 DUE3 and others", await Due(null));
    }

    /// <summary>Two that work at the same time take turns where sets have parts in common, and end with what one alone ends
    /// with.</summary>
    [Fact]
    public async Task Many_keepers_at_once_end_with_the_figures_of_one()
    {
        for (var i = 0; i < 6; i++)
            await Publish($"KEEP{i}", $"{i + 1}.00", 5);
        for (var i = 0; i < 3; i++)
        {
            var slots = string.Join(
                ",",
                Enumerable.Range(i, 4).Select(k => $$"""{ "key": "s{{k}}", "of": [ { "product": "KEEP{{k}}" } ] }""")
            );
            var set =
                $$"""{ "format": "unicus-product/1", "code": "KEPT{{i}}", "name": "Kept {{i}}", "parts": { "slots": [ {{slots}} ] } }""";
            Assert.Equal(PutResult.Created, (await Db.Put(set)).Result);
            Assert.True((await Db.Use<PublishEdition, Outcome<int>>(p => p.Run($"KEPT{i}", Database.Tester))).Done);
        }
        await Put("""{ "key": "keep", "scope": { "products": ["KEEP0", "KEEP3"] }, "effect": { "setUnit": "0.50" } }""");
        for (var round = 0; round < 8; round++)
        {
            await Db.Use<UnicusContext, int>(c =>
                c.Database.ExecuteSqlAsync(
                    $"insert into range_due (product_id) select product_id from range_entries where code like 'KEEP%'"
                )
            );
            await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => Db.Use<RangeFigures, int>(i => i.Work(2))));
        }
        await Db.Use<RangeFigures, int>(i => i.Work(1000));
        var shown = await Db.Use<UnicusContext, List<string>>(c =>
            c.RangeEntries.Where(e => e.Code.StartsWith("KE"))
                .OrderBy(e => e.Code)
                .Select(e => $"{e.Code} {e.Figures.FromPrice}")
                .ToListAsync()
        );
        Assert.Equal(
            [
                "KEEP0 0.50",
                "KEEP1 2.00",
                "KEEP2 3.00",
                "KEEP3 0.50",
                "KEEP4 5.00",
                "KEEP5 6.00",
                "KEPT0 10.00",
                "KEPT1 14.00",
                "KEPT2 18.00",
            ],
            shown
        );
        Assert.True(await Db.Use<ChangePriceRules, bool>(r => r.Delete("keep")));
    }

    [Fact]
    public async Task Members_of_a_group_pay_their_price_and_a_trial_shows_it_before()
    {
        await Publish("CLUB", "20.00", 50);
        Assert.True((await Db.Use<ChangePriceRules, Outcome>(r => r.PutGroup(Key.Of("club"), "Club", "Honey"))).Done);
        Assert.False((await Db.Use<ChangePriceRules, Outcome>(r => r.PutGroup(Key.Of("other"), "Other", "honey"))).Done);
        var rule = new PriceRule(Key.Of("club"), "Club price", new PriceEffect.Reduce(25, null))
        {
            Scope = new PriceScope { Products = ["CLUB"] },
            When = new PriceWhen { CustomerGroups = [Key.Of("club")] },
        };
        var tried = await Db.Use<RuleTrial, TrialFound>(t => t.Run(rule));
        var price = Assert.Single(tried.Prices);
        Assert.Equal((2_000L, 1_500L), (price.Now, price.Then));
        Assert.Equal("20.00", (await Priced(Basket("CLUB", 1) with { CustomerGroup = "HONEY" })).Subtotal.ToString());
        Assert.True((await Db.Use<ChangePriceRules, Outcome<StoredRule>>(r => r.Put(rule, Tester))).Done);
        Assert.Equal("15.00", (await Priced(Basket("CLUB", 1) with { CustomerGroup = "HONEY" })).Subtotal.ToString());
        Assert.Equal("20.00", (await Priced(Basket("CLUB", 1))).Subtotal.ToString());
    }

    [Fact]
    public async Task A_trial_lists_goods_that_a_changed_rule_no_longer_reaches_and_those_that_it_no_longer_moves()
    {
        foreach (var code in new[] { "TRY-A", "TRY-B" })
            await Publish(code, "20.00", 50);
        var both = new PriceScope { Skus = ["TRY-A", "TRY-B"] };
        var rule = new PriceRule(Key.Of("tried"), "Tried", new PriceEffect.Reduce(25, null)) { Scope = both };
        Assert.True((await Db.Use<ChangePriceRules, Outcome<StoredRule>>(r => r.Put(rule, Tester))).Done);
        async Task<List<(string, int, long, long)>> Try(PriceRule then)
        {
            var tried = await Db.Use<RuleTrial, TrialFound>(t => t.Run(then));
            return [.. tried.Prices.Select(p => (p.Goods.Variant.Sku.Text, p.Quantity, p.Now, p.Then)).Order()];
        }
        var one = rule with { Scope = new PriceScope { Products = ["TRY-A"] } };
        Assert.Equal([("TRY-B", 1, 1_500, 2_000)], await Try(one));
        var nine = rule with
        {
            Scope = new PriceScope { Products = ["TRY-A"] },
            When = new PriceWhen { QuantityAtLeast = 9 },
        };
        Assert.Equal([("TRY-A", 1, 1_500, 2_000), ("TRY-B", 1, 1_500, 2_000), ("TRY-B", 9, 13_500, 18_000)], await Try(nine));
        var june = rule with { When = new PriceWhen { Coupon = "JUNE" } };
        Assert.Equal([("TRY-A", 1, 1_500, 2_000), ("TRY-B", 1, 1_500, 2_000)], await Try(june));
        Assert.True(await Db.Use<ChangePriceRules, bool>(r => r.Delete("tried")));
    }

    [Fact]
    public async Task A_trial_shows_goods_at_the_least_that_is_sold_and_names_the_tax_of_its_margins()
    {
        await Db.Put(
            """
            { "format": "unicus-product/1", "code": "TRY-C", "name": "By six", "base": { "price": "2.00", "cost": "1.00" },
              "selling": { "minimumQuantity": 6 }, "variants": [ { "values": {}, "stock": 60 } ] }
            """
        );
        Assert.True((await Db.Use<PublishEdition, Outcome<int>>(p => p.Run("TRY-C", Tester))).Done);
        var rule = new PriceRule(Key.Of("six"), "Six", new PriceEffect.Reduce(25, null))
        {
            Scope = new PriceScope { Products = ["TRY-C"] },
        };
        var tried = await Db.Use<RuleTrial, TrialFound>(t => t.Run(rule));
        var price = Assert.Single(tried.Prices);
        Assert.Equal((6, 1_200L, 900L), (price.Quantity, price.Now, price.Then));
        Assert.Contains("tax", Trial.TaxInWords(tried.Then.Trade), StringComparison.Ordinal);
        // 1.50 against a cost of 1.00, net of what the words name: a shop without rates names none.
        Assert.Equal(100m / 3, price.MarginThen!.Value, 2);
    }

    [Fact]
    public async Task A_rule_over_a_category_follows_its_new_name()
    {
        var created = await Db.Use<CategoryTree, Outcome>(t => t.Create("Bells", null));
        Assert.True(created.Done);
        var json = """
            { "format": "unicus-product/1", "code": "BELL", "name": "Bell", "categories": ["Bells"], "base": { "price": "10.00" },
              "selling": { "counted": false } }
            """;
        Assert.Empty((await Db.Put(json)).Faults);
        Assert.True((await Db.Use<PublishEdition, Outcome<int>>(p => p.Run("BELL", Tester))).Done);
        await Put("""{ "key": "bells", "scope": { "categories": ["Bells"] }, "effect": { "reduce": { "percent": "50" } } }""");
        Assert.Equal("5.00", (await Priced(Basket("BELL", 1))).Subtotal.ToString());
        var id = await Db.Use<UnicusContext, int>(c => c.Categories.Where(x => x.Name == "Bells").Select(x => x.Id).SingleAsync());
        Assert.True(
            (
                await Db.Use<CategoryTree, Outcome>(t => t.Change(id, "Gongs", null, null, [], [], (_, _) => Task.FromResult(Outcome.Ok)))
            ).Done
        );
        var scope = await Db.Use<UnicusContext, string>(c =>
            c.PriceRules.Where(r => r.Key == "bells").Select(r => r.Document).SingleAsync()
        );
        Assert.Contains("Gongs", scope, StringComparison.Ordinal);
        Assert.True(await Db.Use<ChangePriceRules, bool>(r => r.Delete("bells")));
    }

    /// <summary>The edition on sale has the former SKU until the next one is published: both are reached, and nothing else.</summary>
    [Fact]
    public async Task Rules_by_sku_follow_a_rewritten_sku_before_and_after_it_is_published()
    {
        const string json = """
            { "format": "unicus-product/1", "code": "RESKU", "name": "Resku", "base": { "price": "10.00" }, "selling": { "counted": false },
              "variants": [ { "values": {}, "sku": "RESKU-A" } ],
              "priceRules": [ { "key": "own", "scope": { "skus": ["RESKU-A"] }, "effect": { "reduce": { "amount": "1.00" } },
                "combine": "adds" } ] }
            """;
        Assert.Empty((await Db.Put(json)).Faults);
        Assert.True((await Db.Use<PublishEdition, Outcome<int>>(p => p.Run("RESKU", Tester))).Done);
        await Put("""{ "key": "resku", "effect": { "setBySku": { "RESKU-A": "7.00" } } }""");
        Assert.Equal("6.00", (await Priced(Basket("RESKU", 1))).Subtotal.ToString());
        Assert.True((await Db.Use<MatrixCells, Outcome>(c => c.Write("RESKU", [new("", "sku", "RESKU-B", "RESKU-A")], Tester))).Done);
        Assert.Equal("6.00", (await Priced(Basket("RESKU", 1))).Subtotal.ToString());
        var own = await Db.Use<UnicusContext, WorkingCopy?>(c => WorkingCopy.Load(c, "RESKU"));
        Assert.Equal("RESKU-B", Assert.Single(own!.Product.PriceRules[0].Scope.Skus));
        Assert.True((await Db.Use<PublishEdition, Outcome<int>>(p => p.Run("RESKU", Tester))).Done);
        Assert.Equal("6.00", (await Priced(Basket("RESKU", 1))).Subtotal.ToString());
        Assert.True(await Db.Use<ChangePriceRules, bool>(r => r.Delete("resku")));
    }

    [Fact]
    public async Task Of_two_who_change_a_rule_at_once_the_second_hears_of_the_first()
    {
        var rule = new PriceRule(Key.Of("pair"), "Pair", new PriceEffect.Reduce(5, null)) { State = RuleState.Draft };
        Task<Outcome<StoredRule>> Put(int version) => Db.Use<ChangePriceRules, Outcome<StoredRule>>(r => r.Put(rule, Tester, version));
        Assert.Equal(1, (await Put(0)).Result!.Version);
        Assert.Equal([ChangePriceRules.WasChanged], (await Put(0)).Faults);
        var both = await Task.WhenAll(Put(1), Put(1));
        Assert.Single(both, o => o.Done);
        Assert.Equal([ChangePriceRules.WasChanged], both.Single(o => !o.Done).Faults);
    }

    [Fact]
    public async Task Of_two_who_add_codes_at_once_none_are_lost()
    {
        var added = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(i => Db.Use<Coupons, Outcome<CouponList>>(c => c.Put(Key.Of("adding"), [$"X-{i}", "SAME"], besides: true)))
        );
        Assert.All(added, a => Assert.True(a.Done));
        Assert.Equal(9, (await Db.Use<Coupons, CouponList>(c => c.Look(Key.Of("adding")))).Codes);
        var many = Enumerable.Range(0, Coupons.MostCodes).Select(i => $"M-{i}").ToList();
        Assert.False((await Db.Use<Coupons, Outcome<CouponList>>(c => c.Put(Key.Of("adding"), many, besides: true))).Done);
        Assert.Equal(Coupons.MostCodes, (await Db.Use<Coupons, Outcome<CouponList>>(c => c.Put(Key.Of("adding"), many))).Result!.Codes);
    }

    [Fact]
    public async Task The_floor_of_a_product_is_typed_and_refused()
    {
        await Publish("FLOOR", "10.00", 5);
        Task<Outcome> Type(string text) => Db.Use<ChangeField, Outcome>(f => f.Run("FLOOR", "floor", text, null, Tester));
        Assert.True((await Type("25")).Done);
        Assert.Equal(25m, (await Db.Load("FLOOR")).Product.Floor!.Value.Value);
        Assert.False((await Type("100")).Done);
        Assert.True((await Type("")).Done);
        Assert.Null((await Db.Load("FLOOR")).Product.Floor);
    }
}
