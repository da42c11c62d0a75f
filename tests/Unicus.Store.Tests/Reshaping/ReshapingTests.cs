using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Store.Tests;

public class ReshapingTests(Database db) : IClassFixture<Database>
{
    private Task<(PutResult, IReadOnlyList<Fault>)> Feeder(string code, string name, string price, string cost, int stock) =>
        db.Put(
            $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "{{name}}", "description": "<p>About {{code}}.</p>",
              "categories": ["Feeding"], "specifications": [ { "label": "Code", "value": "{{code}}" } ],
              "base": { "price": "{{price}}", "cost": "{{cost}}", "weightGrams": 300 }, "variants": [ { "values": {}, "sku": "{{code}}",
                "stock": {{stock}} } ] }
            """
        );

    private async Task LedgerAddsUp() =>
        Assert.Equal(
            0,
            await db.Use<UnicusContext, int>(c =>
                c.Levels.CountAsync(l =>
                    l.OnHand != c.Movements.Where(m => m.SkuId == l.SkuId && m.LocationId == l.LocationId).Sum(m => m.OnHand)
                )
            )
        );

    [Fact]
    public async Task Three_feeders_become_one_product_and_can_be_split_again()
    {
        await Feeder("FA1", "Feeder A, 1 litre", "9.00", "4.00", 5);
        await Feeder("FA2", "Feeder A, 2 litres", "12.00", "5.50", 0);
        await Feeder("FA4", "Feeder A, 4 litres", "18.00", "8.00", 11);
        foreach (var code in new[] { "FA1", "FA4" })
            Assert.True((await db.Use<PublishEdition, Outcome<int>>(p => p.Run(code, Database.Tester))).Done);
        var order = await db.Use<PlaceOrder, bool>(async p =>
            (
                await p.Run(
                    new BasketRequest([new LineRequest(null, "FA4", [], 2, null)], null),
                    new Buyer("Orla", "o@example.org", "1 Lane", "paid"),
                    Actor.Shopper
                )
            ).Order
                is not null
        );
        Assert.True(order);
        var request = new TogetherRequest(["FA1", "FA2", "FA4"], "Feeder A", "Capacity", ["1 litre", "2 litres", "4 litres"]);
        var preview = await db.Use<BringTogether, Outcome<TogetherPreview>>(b => b.Preview(request));
        Assert.Equal(
            ["FA1 9.00 4.00 5", "FA2 12.00 5.50 0", "FA4 18.00 8.00 11"],
            preview.Result!.Rows.Select(r => $"{r.Sku} {r.Price} {r.Cost} {r.OnHand}")
        );

        Assert.True((await db.Use<BringTogether, Outcome>(b => b.Run(request, Database.Tester))).Done);
        var copy = await db.Load("FA1");
        Assert.Equal(("Feeder A", 3, 16), (copy.Product.Name, copy.Matrix.OfferedCount, copy.WholeStock.OnHand));
        Assert.Equal(
            ["FA1 9.00 4.00", "FA2 12.00 5.50", "FA4 18.00 8.00"],
            copy.Matrix.Variants.Select(v => $"{v.Sku} {v.Price.Figure} {v.Cost.Figure}")
        );
        Assert.Null(copy.Matrix.Variants[0].Variant.Own.Price);
        Assert.Null(await db.Use<UnicusContext, ProductRow?>(c => c.Products.FirstOrDefaultAsync(p => p.Code == "FA4")));
        Assert.Equal(
            copy.Row.Id,
            await db.Use<UnicusContext, int>(c => c.OrderLines.Where(l => l.Sku == "FA4").Select(l => l.ProductId).SingleAsync())
        );
        Assert.Equal(
            "capacity=4-litres",
            await db.Use<UnicusContext, string>(c =>
                c.AddressAliases.Where(a => a.Address == "feeder-a-4-litres").Select(a => a.Values).SingleAsync()
            )
        );
        Assert.Equal(2, copy.Row.Edition);
        await LedgerAddsUp();

        Assert.Equal("Feeder A, 4 litres", SplitOff.Suggest(copy, Combination.Parse("capacity=4-litres")));
        var split = await db.Use<SplitOff, Outcome<string>>(s =>
            s.Run("FA1", Combination.Parse("capacity=4-litres"), "Feeder A, 4 litres", Database.Tester)
        );
        Assert.Equal("FA4", split.Result);
        var four = await db.Load("FA4");
        Assert.Equal(
            ("<p>About FA4.</p>", "FA4", 11, "18.00", "8.00"),
            (
                four.Product.Description,
                four.Matrix.Variants[0].Sku.Text,
                four.WholeStock.OnHand,
                four.Matrix.Variants[0].Price.Figure?.ToString(),
                four.Matrix.Variants[0].Cost.Figure?.ToString()
            )
        );
        Assert.Equal("FA4", Assert.Single(four.Product.Specifications).Value);
        Assert.Equal(["FA1", "FA2"], (await db.Load("FA1")).Matrix.Variants.Select(v => v.Sku.Text));
        Assert.Equal(
            four.Row.Id,
            await db.Use<UnicusContext, int>(c => c.OrderLines.Where(l => l.Sku == "FA4").Select(l => l.ProductId).SingleAsync())
        );
        Assert.False(await db.Use<UnicusContext, bool>(c => c.AddressAliases.AnyAsync(a => a.Address == "feeder-a-4-litres")));
        await LedgerAddsUp();
    }

    /// <summary>Feeders, a set, a group and rules that name them.</summary>
    private async Task GoodsThatNameOthers()
    {
        foreach (var (code, price) in new[] { ("NA1", "9.00"), ("NA2", "12.00"), ("NA4", "18.00"), ("NX", "5.00") })
        {
            await Feeder(code, $"Feeder {code}", price, "4.00", 20);
            Assert.True((await db.Use<PublishEdition, Outcome<int>>(p => p.Run(code, Database.Tester))).Done);
        }
        await db.Publish(
            "NSET",
            """
            "companions": ["NA4"],
            "rules": [ { "key": "apart", "when": { "option": "any", "is": ["na2"] }, "then": { "forbid": { "more": ["na1"] } } } ],
            "parts": { "slots": [
              { "key": "one", "of": [ { "product": "NA4" } ] },
              { "key": "any", "of": [ { "product": "NA1" }, { "product": "NA2" }, { "product": "NX" } ] },
              { "key": "more", "of": [ { "product": "NA1" } ], "optional": true } ] }
            """
        );
        await db.Publish("NGROUP", """ "parts": { "sold": "separately", "slots": [ { "key": "p", "of": [ { "product": "NA2" } ] } ] } """);
        foreach (var (key, products) in new[] { ("four", "NA4"), ("all", "NA1 NA2 NA4"), ("mixed", "NA4 NX") })
        {
            var json = $$"""
                { "key": "{{key}}", "name": "R", "scope": { "products": [ "{{products.Replace(" ", "\",\"")}}" ] }, "state": "draft",
                  "effect": { "reduce": { "percent": "10" } } }
                """;
            var rule = new PriceRuleReader(Currency.Euro).Rule(new Node(System.Text.Json.JsonDocument.Parse(json).RootElement, "#", []))!;
            Assert.Empty((await db.Use<ChangePriceRules, Outcome<StoredRule>>(c => c.Put(rule, Database.Tester))).Faults);
        }
    }

    /// <summary>A set, a price rule and a suggestion that name goods by their code follow them, and the set is sold at the same price
    /// before, between and after.</summary>
    [Fact]
    public async Task What_named_a_product_follows_it_into_another_and_out_again()
    {
        await GoodsThatNameOthers();
        Task<Placed> Buy(string picked) => db.Order(new LineRequest("NSET", null, new() { ["any"] = picked }, 1, null));
        Assert.Equal(30m, (await Buy("na2")).Order!.Total.Amount);
        await db.Use<UnicusContext, int>(c =>
        {
            c.Baskets.Add(new BasketRow { Lines = JsonSerializer.Serialize(Basket("NA1", "NA4")) });
            return c.SaveChangesAsync();
        });

        var request = new TogetherRequest(["NA1", "NA2", "NA4"], "Feeder N", "Capacity", ["1 litre", "2 litres", "4 litres"]);
        Assert.Empty((await db.Use<BringTogether, Outcome>(b => b.Run(request, Database.Tester))).Faults);
        var set = await db.Load("NSET");
        Assert.Equal(["NA1"], set.Product.Companions.Select(c => c.Text));
        Assert.Equal("NA4", ((PartEntry.OfSku)Assert.Single(set.Product.Parts!.Slots[0].Of)).Code);
        Assert.Equal(set.Row.Version, set.Row.PublishedVersion);
        Assert.Equal((30m, 27m), ((await Buy("na2")).Order!.Total.Amount, (await Buy("na1")).Order!.Total.Amount));
        Assert.Equal(
            [("all", "NA1", ""), ("four", "", "NA4"), ("mixed", "", "NA4 NX")],
            await db.Use<UnicusContext, List<(string, string, string)>>(async c =>
                [
                    .. (await c.PriceRules.Where(r => r.Name == "R").OrderBy(r => r.Key).ToListAsync())
                        .Select(r => (r.Key, PriceBooks.Read(r.Document, Currency.Euro).Scope))
                        .Select(r => (r.Key, string.Join(' ', r.Scope.Products), string.Join(' ', r.Scope.Skus))),
                ]
            )
        );
        // A basket still says it as it was picked.
        var kept = new LineRequest("NSET", null, new() { ["any"] = "na2" }, 1, null)
        {
            Parts = (System.Text.Json.Nodes.JsonObject)
                System.Text.Json.Nodes.JsonNode.Parse("{ \"one\": [ { \"product\": \"NA4\" } ], \"any\": [ { \"product\": \"NA2\" } ] }")!,
        };
        Assert.Equal(30m, (await db.Order(kept)).Order!.Total.Amount);
        var home = (await db.Load("NA1")).Row.Id;
        var parts = await db.Use<UnicusContext, List<int[]>>(c =>
            c.RangeEntries.Where(e => e.Code == "NSET" || e.Code == "NGROUP").Select(e => e.PartProducts).ToListAsync()
        );
        Assert.All(parts, p => Assert.Contains(home, p));

        Assert.Equal("NA1 {\"gift\":true,\"capacity\":\"1-litre\"}, NA1 {\"gift\":true,\"capacity\":\"4-litres\"}", await InBasket());

        // A part that is picked by product, and split off again.
        await db.Publish("NOPEN", """ "parts": { "slots": [ { "key": "any", "of": [ { "product": "NA1" } ] } ] } """);
        var split = await db.Use<SplitOff, Outcome<string>>(s =>
            s.Run("NA1", Combination.Parse("capacity=4-litres"), "Feeder NA4", Database.Tester)
        );
        Assert.Equal("NA4", split.Result);
        Assert.Equal((30m, 27m), ((await Buy("na2")).Order!.Total.Amount, (await Buy("na1")).Order!.Total.Amount));
        Assert.Equal(["na1", "na4"], (await db.Load("NOPEN")).Product.SlotsInRange[0].Candidates.Select(c => c.Key.Text));
        var four = await db.Order(new LineRequest("NOPEN", null, new() { ["any"] = "na4" }, 1, null));
        Assert.Equal(18m, four.Order!.Total.Amount);
        Assert.Equal("NA1 {\"gift\":true,\"capacity\":\"1-litre\"}, NA4 {\"gift\":true}", await InBasket());
        await LedgerAddsUp();

        static IEnumerable<LineRequest> Basket(params string[] products) =>
            products.Select(p => new LineRequest(p, null, new() { ["gift"] = true }, 1, p));

        Task<string> InBasket() =>
            db.Use<UnicusContext, string>(async c =>
                string.Join(
                    ", ",
                    JsonSerializer
                        .Deserialize<List<LineRequest>>((await c.Baskets.SingleAsync()).Lines)!
                        .Select(l => $"{l.Product} {l.Answers.ToJsonString()}")
                )
            );
    }

    [Fact]
    public async Task Products_with_the_same_options_come_together_and_what_nobody_made_is_not_made()
    {
        await db.Put(
            Database.Hive(
                "TG1",
                """, "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "price": "120.00", "stock": 3 } ]"""
            )
        );
        await db.Put(
            Database.Hive(
                "TG2",
                """
                , "notMade": [ { "depth": "shallow", "timber": "pine" } ], "variants": [ { "values": { "depth": "deep", "timber": "pine" },
                  "gtin": "6291041500213", "stock": 4 } ]
                """
            )
        );
        var request = new TogetherRequest(["TG1", "TG2"], "Hive", "Model", ["Garden", "Meadow"]);
        Assert.True((await db.Use<BringTogether, Outcome>(b => b.Run(request, Database.Tester))).Done);
        var copy = await db.Load("TG1");
        Assert.Equal((7, 1, 7), (copy.Matrix.OfferedCount, copy.Matrix.NotMadeCount, copy.WholeStock.OnHand));
        Assert.Equal("6291041500213", copy.Matrix.Find(Sku.Of("TG2-D-PI"))!.Variant.Gtin!.Value.Text);
        Assert.Equal("120.00", copy.Matrix.Find(Sku.Of("TG1-D-CE"))!.Price.Figure?.ToString());
    }

    [Fact]
    public async Task What_does_not_fit_together_is_told_and_nothing_is_changed()
    {
        await db.Put(Database.Hive("TN1"));
        await Feeder("TN2", "Odd one", "1.00", "0.50", 1);
        var faults = (
            await db.Use<BringTogether, Outcome>(b =>
                b.Run(new TogetherRequest(["TN1", "TN2"], "Both", "Kind", ["One", "Two"]), Database.Tester)
            )
        ).Faults;
        Assert.Contains("Odd one has no options, Hive TN1 Depth, Timber", Assert.Single(faults).What, StringComparison.Ordinal);
        faults = (await db.Use<BringTogether, Outcome>(b => b.Run(new TogetherRequest(["TN1"], "", "", ["x"]), Database.Tester))).Faults;
        Assert.Equal(["codes", "option", "name"], faults.Select(f => f.Where));
        Assert.Single(
            (
                await db.Use<BringTogether, Outcome>(b =>
                    b.Run(new TogetherRequest(["TN1", "TN2"], "Both", "Kind", ["Same", "same"]), Database.Tester)
                )
            ).Faults
        );
        Assert.NotNull(await db.Load("TN2"));
    }

    [Fact]
    public async Task A_copy_has_everything_but_stock_and_GTINs()
    {
        await db.Put(
            Database.Hive(
                "CP1",
                """
                , "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "price": "120.00", "gtin": "4006381333931",
                  "stock": 3 } ]
                """
            )
        );
        var made = await db.Use<CopyProduct, Outcome<string>>(c => c.Run("CP1", "Meadow hive", "meadow", Database.Tester));
        var copy = await db.Load(made.Result!);
        Assert.Equal(
            ("Meadow hive", "meadow", 0, 4),
            (copy.Product.Name, copy.Row.Address, copy.WholeStock.OnHand, copy.Matrix.OfferedCount)
        );
        var deep = copy.Matrix.Find("depth=deep,timber=cedar")!;
        Assert.Equal(("120.00", null, $"{made.Result}-D-CE"), (deep.Price.Figure?.ToString(), deep.Variant.Gtin?.Text, deep.Sku.Text));
        Assert.Contains(
            "already used",
            (await db.Use<CopyProduct, Outcome<string>>(c => c.Run("CP1", "Another", "meadow", Database.Tester))).Faults[0].What,
            StringComparison.Ordinal
        );
    }
}
