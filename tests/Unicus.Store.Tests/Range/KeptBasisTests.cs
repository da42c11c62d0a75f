using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

/// <summary>Figures of lists that start from what was kept, against those worked out from documents and stock.</summary>
public sealed class KeptBasisTests(Database db) : IClassFixture<Database>
{
    private const int Products = 6;

    private static readonly string[] Scopes =
    [
        "{}",
        """{ "products": ["KB1", "KB4"] }""",
        """{ "categories": ["KB outdoors"] }""",
        """{ "categories": ["KB goods"] }""",
        """{ "tags": ["winter"] }""",
        """{ "skus": ["KB2-S", "KB3-M"] }""",
        """{ "where": { "option": "size", "is": ["m"] } }""",
        """{ "where": { "option": "colour", "is": ["red"] } }""",
        """{ "categories": ["kb Outdoors"], "skus": ["KB2-S", "KB3-M", "KB5-S"], "tags": ["summer"] }""",
        """{ "products": ["KB2", "KB3"], "categories": ["KB outdoors"] }""",
    ];

    private static readonly string[] Effects =
    [
        """{ "reduce": { "percent": "12.5" } }""",
        """{ "reduce": { "amount": "3.00" } }""",
        """{ "setUnit": "6.00" }""",
        """{ "setBySku": { "KB0-S": "2.00", "KB5-M": "1.00" } }""",
        """{ "bands": { "mode": "all-units", "rows": [ { "from": 5, "percent": "10" } ] } }""",
    ];

    private static readonly string[] Times =
    [
        "{}",
        """{ "from": "2020-01-01T00:00:00Z", "until": "2190-01-01T00:00:00Z" }""",
        """{ "from": "2180-01-01T00:00:00Z" }""",
        """{ "weekdays": ["mon", "tue", "wed", "thu", "fri", "sat", "sun"] }""",
        """{ "quantityAtLeast": 3 }""",
    ];

    /// <summary>Law: whatever happens, what is worked out from what was kept is what documents and stock say.</summary>
    [Fact]
    public async Task What_was_kept_says_what_documents_and_stock_say()
    {
        var random = new Random(20270302);
        Assert.True((await db.Use<CategoryTree, Outcome>(t => t.Create("KB outdoors", null))).Done);
        for (var i = 0; i < Products; i++)
            await Publish(i, random);
        foreach (var (code, sold) in new[] { ("KBSET", "together"), ("KBPAGE", "separately") })
            await db.Publish(
                code,
                $$"""
                "parts": { "sold": "{{sold}}", "rulesReachParts": true, "slots": [
                  { "key": "a", "of": [ { "product": "KB0" } ] }, { "key": "b", "of": [ { "product": "KB3" } ] } ] }
                """
            );
        for (var step = 0; step < 60; step++)
        {
            await Happens(random);
            var quick = await Figures();
            await db.Use<UnicusContext, int>(c => c.Database.ExecuteSqlAsync($"select all_are_due()"));
            Assert.Equal(await Figures(), quick);
        }
    }

    /// <summary>A group costs what its cheapest piece does, whatever happens to stock, orders and rules.</summary>
    [Fact]
    public async Task A_group_keeps_its_price_in_lists()
    {
        await db.Publish("KBPIECE", """ "base": { "price": "4.00" }, "variants": [ { "values": {}, "stock": 9 } ] """);
        await db.Publish(
            "KBGROUP",
            """ "parts": { "sold": "separately", "slots": [ { "key": "a", "label": "A", "of": [ { "product": "KBPIECE" } ] } ] } """
        );
        async Task<decimal?> From()
        {
            await db.Use<RangeFigures, int>(i => i.Work(1000));
            return await db.Use<UnicusContext, decimal?>(c =>
                c.RangeEntries.Where(e => e.Code == "KBGROUP").Select(e => e.Figures.FromPrice).SingleAsync()
            );
        }
        Assert.Equal(4m, await From());
        Assert.NotNull((await db.Order(("KBPIECE", 1))).Order);
        Assert.Equal(4m, await From());
        await db.PutRule("""{ "key": "kbgroup", "effect": { "reduce": { "amount": "1.00" } }, "scope": { "products": ["KBPIECE"] } }""");
        Assert.Equal(3m, await From());
        Assert.True(await db.Use<ChangePriceRules, bool>(r => r.Delete("kbgroup")));
        Assert.Equal(4m, await From());
        var page = await db.Use<OfficeLists, RangePage>(l => l.Range(new RangeQuery("KBGROUP", "", "", "groups", "", 1)));
        var row = Assert.Single(page.Rows);
        Assert.Equal((1, true, 4m), (row.SlotCount, row.IsGroup, page.OnSale[row.Id].From!.Value.Amount));
    }

    /// <summary>Where only rules of prices change, nothing is looked at but what was kept; where stock moves, it is kept anew.</summary>
    [Fact]
    public async Task Rules_alone_look_at_nothing_else()
    {
        await db.Publish("KEPTONLY", """ "base": { "price": "10.00" }, "variants": [ { "values": {}, "stock": 2 } ] """);
        async Task<decimal?> From()
        {
            await db.Use<RangeFigures, int>(i => i.Work(1000));
            return await db.Use<UnicusContext, decimal?>(c =>
                c.RangeEntries.Where(e => e.Code == "KEPTONLY").Select(e => e.Figures.FromPrice).SingleAsync()
            );
        }
        Assert.Equal(10m, await From());
        await db.Use<UnicusContext, int>(c =>
            c.Database.ExecuteSqlAsync($"update range_bases set content = replace(content, '1000', '800') where content like '%KEPTONLY%'")
        );
        await Rule("kept-only", """ "scope": { "products": ["KEPTONLY"] }, "effect": { "reduce": { "percent": "50" } } """);
        Assert.Equal(4m, await From());
        await Count("KEPTONLY", 3);
        Assert.Equal(5m, await From());
        Assert.True(await db.Use<ChangePriceRules, bool>(r => r.Delete("kept-only")));
        Assert.Equal(10m, await From());
        await Count("KEPTONLY", 0);
        Assert.Null(await From());
    }

    /// <summary>The keeper, who looks at a product while another edition of it is published, does not write what the one before
    /// was.</summary>
    [Fact]
    public async Task What_is_published_while_the_keeper_works_stays()
    {
        static string Shelf(bool alone) =>
            $$"""
            "base": { "price": "4.00" }, "shelf": { "alone": {{(alone ? "true" : "false")}} },
            "variants": [ { "values": {}, "stock": 9 } ]
            """;
        await db.Publish("KEEPER", Shelf(alone: true));
        for (var round = 0; round < 20; round++)
        {
            var alone = round % 2 == 1;
            var isOver = false;
            var keeper = Task.Run(async () =>
            {
                while (!isOver)
                {
                    await db.Use<UnicusContext, int>(c => c.Database.ExecuteSqlAsync($"select all_are_due(true)"));
                    await db.Use<RangeFigures, int>(f => f.Work(1000));
                }
            });
            await db.Publish("KEEPER", Shelf(alone));
            isOver = true;
            await keeper;
            Assert.Equal(
                alone,
                await db.Use<UnicusContext, bool>(c =>
                    c.RangeEntries.Where(e => e.Code == "KEEPER").Select(e => e.Searchable).SingleAsync()
                )
            );
        }
    }

    private async Task Happens(Random random)
    {
        var product = random.Next(Products);
        switch (random.Next(9))
        {
            case 0:
                await Publish(product, random);
                break;
            case 1:
                await Count($"KB{product}-{(random.Next(2) == 0 ? "S" : "M")}", random.Next(3));
                break;
            case 2:
                await Floor(random.Next(2) == 0 ? new Percentage(random.Next(10, 60)) : null);
                break;
            case 3:
                await MoveCategory(random.Next(2) == 0);
                break;
            case 4:
                await db.Use<ChangePriceRules, bool>(r => r.Delete($"kb{random.Next(3)}"));
                break;
            case 5:
                await db.Use<ChangePriceRules, bool>(r => r.Archive($"kb{random.Next(3)}", random.Next(2) == 0));
                break;
            default:
                var (scope, effect, when) = (Any(Scopes), Any(Effects), Any(Times));
                var state = random.Next(3) == 0 ? "draft" : "on";
                await Rule($"kb{random.Next(3)}", $""" "scope": {scope}, "effect": {effect}, "when": {when}, "state": "{state}" """);
                break;
        }

        string Any(string[] of) => of[random.Next(of.Length)];
    }

    private Task Publish(int number, Random random)
    {
        var extras = random.Next(3) switch
        {
            0 => "",
            1 => """
                , { "key": "oil", "label": "Oil", "role": "extra", "ask": "one", "required": true, "values": [
                  { "key": "thin", "label": "Thin", "surcharge": { "percent": "5" } },
                  { "key": "thick", "label": "Thick", "surcharge": { "amount": "2.00" } } ] }
                """,
            _ => """, { "key": "mark", "label": "Mark", "role": "extra", "ask": "yes-no", "surcharge": { "amount": "1.00" } }""",
        };
        var stock = random.Next(3);
        return db.Publish(
            $"KB{number}",
            $$"""
            "base": { "price": "{{5 + random.Next(20)}}.00", "cost": "4.00" }, "categories": ["KB {{(
                number % 2 == 0 ? "goods" : "outdoors"
            )}}"],
            "tags": ["{{(number % 3 == 0 ? "Winter" : "summer")}}"],
            "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [
              { "key": "s", "label": "S", "sku": "S" },
              { "key": "m", "label": "M", "sku": "M", "surcharge": { "amount": "1.50" } } ] } {{extras}} ],
            "variants": [ { "values": { "size": "s" }, "stock": {{stock}} }, { "values": { "size": "m" }, "stock": 1 } ]
            """
        );
    }

    private Task Rule(string key, string more) => db.PutRule($$"""{ "key": "{{key}}", {{more}} }""");

    private async Task Count(string sku, int units)
    {
        var counted = new MovementRequest(sku, "count", units, null, null, null);
        Assert.True((await db.Use<MoveStock, Outcome>(m => m.Run(counted, Database.Tester))).Done);
    }

    private async Task Floor(Percentage? margin)
    {
        var now = WantedSettings.Of(await db.Use<UnicusContext, ShopSettings>(x => ShopSettings.Load(x)));
        var wanted = now with { Terms = now.Terms with { Floor = margin } };
        Assert.True((await db.Use<ChangeSettings, Outcome>(c => c.Run(wanted, Database.Tester))).Done);
    }

    /// <summary>The one category lies in the other, or beside it.</summary>
    private async Task MoveCategory(bool within)
    {
        var ids = await db.Use<UnicusContext, Dictionary<string, int>>(c =>
            c.Categories.Where(x => x.Name.StartsWith("KB")).ToDictionaryAsync(x => x.Name, x => x.Id)
        );
        var above = within ? ids["KB goods"] : (int?)null;
        var moved = await db.Use<CategoryTree, Outcome>(t =>
            t.Change(ids["KB outdoors"], "KB outdoors", above, null, [], [], (_, _) => Task.FromResult(Outcome.Ok))
        );
        Assert.True(moved.Done);
    }

    /// <summary>What lists show once nothing is due.</summary>
    private async Task<List<string>> Figures()
    {
        while (await db.Use<RangeFigures, int>(i => i.Work(1000)) > 0) { }
        return await db.Use<UnicusContext, List<string>>(c =>
            c.RangeEntries.Where(e => e.Code.StartsWith("KB"))
                .OrderBy(e => e.Code)
                .Select(e =>
                    $"{e.Code} {e.Figures.FromPrice} {e.Figures.Varies} {e.Figures.Once} {e.Figures.Badge} {e.Figures.NoneWords} "
                    + $"{e.Figures.ChangesAt} {e.Listed} {e.Searchable}"
                )
                .ToListAsync()
        );
    }
}
