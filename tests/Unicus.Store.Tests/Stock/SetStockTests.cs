using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

/// <summary>Stock of sets: made up and taken apart, allocated by leaf, sold by many at once.</summary>
public class SetStockTests(Database db) : IClassFixture<Database>
{
    private Task Plain(string code, int stock) =>
        db.Publish(code, $$""" "base": { "price": "10.00", "cost": "4.00" }, "variants": [ { "values": {}, "stock": {{stock}} } ] """);

    private static string Slot(string code, int units = 1) =>
        $$"""
            { "key": "{{code.ToLowerInvariant()}}", "of": [ { "product": "{{code}}" } ],
              "quantity": { "min": {{units}}, "max": {{units}} } }
            """;

    private Task Set(string code, string stock, params string[] slots) =>
        db.Publish(code, $$""" "parts": { "stock": "{{stock}}", "slots": [ {{string.Join(",", slots)}} ] } """);

    /// <summary>26 of 20 are 520 leaves: neither is published, whichever comes last; nor is a part deleted that a set has.</summary>
    [Fact]
    public async Task A_set_of_too_many_leaves_is_not_published()
    {
        await Plain("POS", 0);
        string Slots(string code, int count) =>
            string.Join(",", Enumerable.Range(0, count).Select(i => $$"""{ "key": "s{{i}}", "of": [ { "product": "{{code}}" } ] }"""));
        string Document(string code, string of, int count) =>
            $$"""
                { "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}",
                  "parts": { "sold": "together", "price": { "rule": "sum" }, "slots": [ {{Slots(of, count)}} ] } }
                """;
        async Task<string?> Publish(string code, string of, int count)
        {
            Assert.Empty((await db.Put(Document(code, of, count))).Faults);
            var outcome = await db.Use<PublishEdition, Outcome<int>>(p => p.Run(code, Database.Tester));
            return outcome.Done ? null : outcome.Faults[0].What;
        }
        Assert.Null(await Publish("POS-IN", "POS", 20));
        Assert.Contains("520 leaves", await Publish("POS-OUT", "POS-IN", 26), StringComparison.Ordinal);
        Assert.Null(await Publish("POS-OUT", "POS-IN", 25));
        Assert.Contains("POS-OUT, on sale, would come apart into", await Publish("POS-IN", "POS", 21), StringComparison.Ordinal);
        var deleted = await db.Use<ChangeProduct, Outcome>(p => p.Delete("POS"));
        Assert.Equal("Set POS is a part of POS-IN, POS-OUT, on sale. Take it out there first.", Assert.Single(deleted.Faults).What);
    }

    /// <summary>A chosen number, and a usual one above the least, is what is taken, multiplied down through a set in a set.</summary>
    [Theory]
    [InlineData(null, 3)]
    [InlineData(5, 5)]
    [InlineData(1, 1)]
    public async Task The_number_that_was_chosen_is_what_is_taken(int? chosen, int perSet)
    {
        var code = $"CHO{perSet}";
        await Plain(code, 100);
        await Plain($"{code}-BOX", 100);
        var slot = $$"""
            { "key": "jars", "of": [ { "product": "{{code}}" } ], "quantity": { "min": 1, "max": 6, "default": 3 } }
            """;
        await Set($"{code}-CRATE", "parts", slot);
        await Set($"{code}-PALLET", "parts", Slot($"{code}-CRATE", 2), Slot($"{code}-BOX"));
        var jars = chosen is { } n ? $$""", "parts": { "jars": [ { "product": "{{code}}", "quantity": {{n}} } ] }""" : "";
        var crate = $"{code}-CRATE".ToLowerInvariant();
        var parts = JsonNode.Parse($$"""{ "{{crate}}": [ { "product": "{{code}}-CRATE", "quantity": 2{{jars}} } ] }""")!.AsObject();
        var placed = await db.Order(new LineRequest($"{code}-PALLET", null, [], 4, null) { Parts = parts });
        var leaves = placed.Order!.Lines.Single().Leaves.ToDictionary(l => l.Sku, l => l.Units);
        Assert.Equal((4 * 2 * perSet, 4), (leaves[code], leaves[$"{code}-BOX"]));
        Assert.Equal((4 * 2 * perSet, 4), ((await db.Level(code)).Allocated, (await db.Level($"{code}-BOX")).Allocated));
        await db.Use<EndOrder, Outcome>(e => e.Dispatch(placed.Order.Number, Database.Tester));
        Assert.Equal((100 - (4 * 2 * perSet), 96), ((await db.Level(code)).OnHand, (await db.Level($"{code}-BOX")).OnHand));
        await LedgerAddsUp();
    }

    private Task<Outcome> Move(string sku, string kind, int units) =>
        db.Use<MoveStock, Outcome>(m => m.Run(new MovementRequest(sku, kind, units, null, null, null), Database.Tester));

    /// <summary>Every level is the sum of its movements.</summary>
    private async Task LedgerAddsUp() =>
        Assert.Equal(
            0,
            await db.Use<UnicusContext, int>(c =>
                c.Levels.CountAsync(l =>
                    l.OnHand != c.Movements.Where(m => m.SkuId == l.SkuId && m.LocationId == l.LocationId).Sum(m => m.OnHand)
                    || l.Allocated != c.Movements.Where(m => m.SkuId == l.SkuId && m.LocationId == l.LocationId).Sum(m => m.Allocated)
                    || l.OnHand < 0
                )
            )
        );

    /// <summary>The law: make up, then take apart leaves every level as it was; what is missing is said, and nothing moves.</summary>
    [Fact]
    public async Task Sets_that_are_low_are_listed_with_what_is_missing_and_what_their_parts_allow()
    {
        await Plain("UPA", 10);
        await Plain("UPB", 7);
        foreach (var (code, level) in new[] { ("UPLOW", 4), ("UPMORE", 1), ("UPNONE", 0) })
            await db.Publish(
                code,
                $$"""
                "base": { "lowLevel": {{level}} }, "parts": { "stock": "own-then-parts", "slots": [ {{Slot("UPA", 2)}}, {{Slot("UPB")}} ] }
                """
            );
        await Move("UPLOW", "make-up", 2);
        await Move("UPMORE", "make-up", 2);
        var listed = await db.Use<SetsToMakeUp, IReadOnlyList<SetToMakeUp>>(s => s.List());
        Assert.Equal(
            [("UPLOW", 2, 4, 3, 1L), ("UPNONE", 0, 0, 1, 1L)],
            listed
                .Where(l => l.Set.Edition.Product.Code.Text is "UPLOW" or "UPMORE" or "UPNONE")
                .Select(l => (l.Set.Variant.Sku.Text, l.Available, l.Level, l.Missing, l.Makeable))
        );
    }

    [Fact]
    public async Task Making_up_and_taking_apart_leaves_every_level_as_it_was()
    {
        await Plain("MA", 10);
        await Plain("MB", 7);
        await Set("MROLL", "own-then-parts", Slot("MA", 2), Slot("MB"));
        Assert.Empty((await Move("MROLL", "make-up", 3)).Faults);
        Assert.Equal((3, 4, 4), ((await db.Level("MROLL")).OnHand, (await db.Level("MA")).OnHand, (await db.Level("MB")).OnHand));
        var refused = await Move("MROLL", "make-up", 3);
        Assert.Contains("6 of MA are needed at", refused.Faults[0].What, StringComparison.Ordinal);
        Assert.Equal(4, (await db.Level("MA")).OnHand);
        Assert.Contains("4 of MROLL are needed", (await Move("MROLL", "take-apart", 4)).Faults[0].What, StringComparison.Ordinal);
        Assert.Empty((await Move("MROLL", "take-apart", 3)).Faults);
        Assert.Equal((0, 10, 7), ((await db.Level("MROLL")).OnHand, (await db.Level("MA")).OnHand, (await db.Level("MB")).OnHand));
        Assert.Contains("not made up ahead", (await Move("MA", "make-up", 1)).Faults[0].What, StringComparison.Ordinal);
        await LedgerAddsUp();
    }

    /// <summary>Sets within sets that share parts, bought by sixteen at once: as many are sold as there are, and no level is ever
    /// below 0.</summary>
    [Fact]
    public async Task Sixteen_buyers_of_sets_that_share_parts_never_sell_one_too_many()
    {
        await Plain("SA", 12);
        await Plain("SB", 30);
        await Set("SINNER", "parts", Slot("SA"), Slot("SB"));
        await Set("SOUTER", "parts", Slot("SINNER"), Slot("SB", 2));
        await Set("SOTHER", "parts", Slot("SB", 2), Slot("SA"));
        var placed = await Task.WhenAll(Enumerable.Range(0, 16).Select(i => db.Order((i % 2 == 0 ? "SOUTER" : "SOTHER", 1))));
        var sold = placed.Count(p => p.Order is not null);
        // 12 of SA for one each; 30 of SB for three and two: eight of the dearer leave room for three others only.
        Assert.InRange(sold, 11, 12);
        Assert.All(placed.Where(p => p.Order is null), p => Assert.NotEmpty(p.Shortages));
        Assert.NotEmpty((await db.Order(("SOTHER", 1))).Shortages);
        Assert.Equal((12 - sold, true), ((await db.Level("SA")).Available, (await db.Level("SB")).Available >= 0));
        await LedgerAddsUp();
    }

    /// <summary>A part that becomes dearer makes the set dearer at once, in lists too; one that is off sale takes the set out.</summary>
    [Fact]
    public async Task A_set_follows_the_price_of_its_parts()
    {
        await Plain("FA", 5);
        await Set("FSET", "parts", Slot("FA", 3));
        Assert.Equal(30m, await From("FSET"));
        await db.Use<ChangeField, Outcome>(c => c.Run("FA", "price", "12.00", null, Database.Tester));
        await db.Use<PublishEdition, Outcome<int>>(p => p.Run("FA", Database.Tester));
        await db.Use<RangeFigures, int>(async i => await i.Work(100));
        Assert.Equal(36m, await From("FSET"));
        Assert.Equal(36m, (await db.Order(("FSET", 1))).Order!.Total.Amount);
        await db.Use<RangeFigures, int>(async i => await i.Work(100));
        Assert.Null(await From("FSET"));
    }

    /// <summary>A rule that is tried shows what it does to sets: to the set itself, and through a part where rules act inside.</summary>
    [Fact]
    public async Task A_trial_shows_what_becomes_of_sets()
    {
        await Plain("VA", 9);
        await db.Publish("VSET", $$""" "parts": { "slots": [ {{Slot("VA", 3)}} ] } """);
        await db.Publish(
            "VOPEN",
            $$""" "parts": { "price": { "rule": "sum", "rulesReachParts": true }, "slots": [ {{Slot("VA", 2)}} ] } """
        );
        async Task<string> Try(string code)
        {
            var json = $$"""
                { "key": "v", "name": "V", "scope": { "products": ["{{code}}"] }, "effect": { "reduce": { "percent": "20" } } }
                """;
            var rule = new PriceRuleReader(Currency.Euro).Rule(new Node(System.Text.Json.JsonDocument.Parse(json).RootElement, "#", []))!;
            var tried = await db.Use<RuleTrial, TrialFound>(t => t.Run(rule));
            return string.Join(
                ", ",
                tried.Prices.OrderBy(p => p.Goods.Variant.Sku.Text).Select(p => $"{p.Goods.Variant.Sku} {p.Now} {p.Then}")
            );
        }
        Assert.Equal("VSET 3000 2400", await Try("VSET"));
        Assert.Equal("VA 1000 800, VOPEN 2000 1600", await Try("VA"));
    }

    /// <summary>A part that was in a set made up ahead was not taken, so nothing is said of its level; the set's own level is.</summary>
    [Fact]
    public async Task A_low_level_is_told_of_what_was_taken()
    {
        await db.Publish("LA", """ "base": { "price": "10.00", "lowLevel": 9 }, "variants": [ { "values": {}, "stock": 10 } ] """);
        await db.Publish(
            "LSET",
            $$"""
            "base": { "lowLevel": 0 }, "parts": { "stock": "own-then-parts", "slots": [ {{Slot("LA", 2)}} ] },
            "variants": [ { "values": {}, "stock": 1 } ]
            """
        );
        Assert.NotNull((await db.Order(("LSET", 1))).Order);
        Assert.Equal(["Low: LSET, 0 available"], await Lows());
        Assert.NotNull((await db.Order(("LSET", 1))).Order);
        Assert.Equal(["Low: LA, 8 available", "Low: LSET, 0 available"], await Lows());
    }

    /// <summary>A set that comes with an answer is taken, sent and cancelled by its parts; a loop through an answer is refused.</summary>
    [Fact]
    public async Task A_set_behind_an_answer_comes_apart()
    {
        await Plain("BA", 9);
        await Plain("BB", 9);
        await Set("BKIT", "own-then-parts", Slot("BA", 2), Slot("BB"));
        static string With(string sku) =>
            $$"""
                "base": { "price": "30.00", "cost": "10.00" }, "variants": [ { "values": {}, "stock": 9 } ],
                "options": [ { "key": "with", "label": "With", "role": "extra", "ask": "one", "values": [
                  { "key": "kit", "label": "Kit", "part": { "sku": "{{sku}}", "quantity": 1 } } ] } ]
                """;
        await db.Publish("BHIVE", With("BKIT"));
        Assert.Empty((await Move("BKIT", "make-up", 1)).Faults);
        var placed = await db.Order(new LineRequest("BHIVE", null, new() { ["with"] = "kit" }, 3, null));
        var line = Assert.Single(placed.Order!.Lines);
        Assert.Equal(180m, line.Total.Amount);
        Assert.Equal(
            // The kit that was made up has a row of its own, since it goes as one.
            [("", "BHIVE", 3, 90m), ("with", "BKIT", 1, 0m), ("with/ba", "BA", 6, 60m), ("with/bb", "BB", 3, 30m)],
            line.Leaves.OrderBy(l => l.Path.Text).Select(l => (l.Path.Text, l.Sku, l.Units, l.Allocated.Amount))
        );
        async Task<(int, int, int, int)> Taken() =>
            (
                (await db.Level("BHIVE")).Allocated,
                (await db.Level("BKIT")).Allocated,
                (await db.Level("BA")).Allocated,
                (await db.Level("BB")).Allocated
            );
        Assert.Equal((3, 1, 4, 2), await Taken());
        var number = placed.Order.Number;
        Task<Outcome> Send(string path, string sku) =>
            db.Use<EndOrder, Outcome>(e => e.DispatchParts(number, [new(0, path, sku, 1)], Database.Tester));
        Assert.Empty((await Send("", "BHIVE")).Faults);
        Assert.Equal((2, 1, 4, 2), await Taken());
        Assert.Equal("Set BKIT was made up ahead, so it goes as one.", (await Send("with/ba", "BA")).Faults[0].What);
        Assert.Empty((await Send("with", "BKIT")).Faults);
        Assert.Equal((2, 0, 0, 0), await Taken());
        Assert.Empty((await db.Use<EndOrder, Outcome>(e => e.Cancel(number, "no", Database.Tester))).Faults);
        Assert.Equal((0, 0, 0, 0), await Taken());
        Assert.Equal((8, 0, 3, 6), await OnHand());
        await LedgerAddsUp();
        var more = await db.Order(new LineRequest("BHIVE", null, new() { ["with"] = "kit" }, 8, null));
        Assert.Equal([("BA", 16L), ("BB", 8L)], more.Shortages.Select(s => (s.Sku, s.Wanted)));

        // The kit is to hold what it comes with.
        var (result, faults) = await db.Put(
            $$"""
            { "format": "unicus-product/1", "code": "BKIT", "name": "Kit", "parts": { "slots": [ {{Slot("BA")}}, {{Slot("BHIVE")}} ] } }
            """,
            retire: true
        );
        Assert.Equal(PutResult.Faulty, result);
        Assert.Equal("BKIT would contain itself: BKIT in BHIVE in BKIT.", faults[0].What);
        (result, faults) = await db.Put(
            $$"""{ "format": "unicus-product/1", "code": "BBOX", "name": "Box", "parts": { "slots": [ {{Slot("BHIVE")}} ] } }"""
        );
        Assert.Equal(PutResult.Created, result);
        (result, faults) = await db.Put($$"""{ "format": "unicus-product/1", "code": "BHIVE", "name": "Hive", {{With("BBOX")}} }""");
        Assert.Equal(PutResult.Faulty, result);
        Assert.Equal("#/options/0/values/0/part", faults[0].Where);

        async Task<(int, int, int, int)> OnHand() =>
            (
                (await db.Level("BHIVE")).OnHand,
                (await db.Level("BKIT")).OnHand,
                (await db.Level("BA")).OnHand,
                (await db.Level("BB")).OnHand
            );
    }

    private Task<List<string>> Lows() =>
        db.Use<UnicusContext, List<string>>(c =>
            c.Outbox.Where(m => m.Subject.StartsWith("Low: L")).Select(m => m.Subject).OrderBy(s => s).ToListAsync()
        );

    private async Task<decimal?> From(string code) =>
        await db.Use<UnicusContext, decimal?>(c =>
            c.RangeEntries.Where(e => e.Code == code).Select(e => e.Figures.FromPrice).SingleAsync()
        );
}
