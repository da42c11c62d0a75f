using System.Collections.Immutable;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Store.Tests;

public class OrderTests(Database db) : IClassFixture<Database>
{
    private static readonly Buyer Nobody = new("Orla", "orla@example.org", "1 Skep Lane", null);

    private static BasketRequest Basket(string product, int quantity, params string[] answers) =>
        new(
            [
                new LineRequest(
                    product,
                    null,
                    new JsonObject(answers.Select(a => a.Split('=')).Select(a => KeyValuePair.Create(a[0], (JsonNode?)a[1]))),
                    quantity,
                    null
                ),
            ],
            null
        );

    private Task<Placed> Place(BasketRequest request) => db.Use<PlaceOrder, Placed>(p => p.Run(request, Nobody, Actor.Shopper));

    private async Task<StockLevel> Level(string code, string sku) => (await db.Load(code)).Stock.GetValueOrDefault(Sku.Of(sku));

    private async Task Publish(string json)
    {
        Assert.Empty((await db.Put(json)).Faults);
        var code = System.Text.Json.JsonDocument.Parse(json).RootElement.GetProperty("code").GetString()!;
        Assert.True((await db.Use<PublishEdition, Outcome<int>>(p => p.Run(code, Database.Tester))).Done);
    }

    private static string Plain(string code, int stock, string selling = "{}") =>
        $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "Plain {{code}}", "base": { "price": "10.00", "cost": "4.00",
              "lowLevel": 3 }, "selling": {{selling}}, "variants": [ { "values": {}, "stock": {{stock}} } ] }
            """;

    [Fact]
    public async Task An_order_allocates_dispatch_sells_and_the_ledger_shows_all_three()
    {
        await Publish(Plain("SEL1", 10));
        var order = (await Place(Basket("SEL1", 4))).Order!;
        Assert.Equal(new StockLevel(10, 4, 0, 0), await Level("SEL1", "SEL1"));
        Assert.True((await db.Use<EndOrder, Outcome>(e => e.Dispatch(order.Number, Database.Tester))).Done);
        Assert.Equal(new StockLevel(6, 0, 0, 0), await Level("SEL1", "SEL1"));
        var kinds = await db.Use<UnicusContext, List<MovementKind>>(c =>
            c.Movements.Where(m => c.Skus.Any(s => s.Id == m.SkuId && s.Code == "SEL1"))
                .OrderBy(m => m.Id)
                .Select(m => m.Kind)
                .ToListAsync()
        );
        Assert.Equal([MovementKind.Receipt, MovementKind.Allocation, MovementKind.Sale], kinds);
        Assert.False((await db.Use<EndOrder, Outcome>(e => e.Cancel(order.Number, "Changed their mind", Database.Tester))).Done);
    }

    [Fact]
    public async Task A_call_with_a_key_is_one_order_however_often_it_is_sent_and_a_refused_one_keeps_nothing()
    {
        await Publish(Plain("SAVE1", 3));
        Task<Placed> Call(int units, string key, string body) =>
            db.Use<PlaceOrder, Placed>(p => p.Run(Basket("SAVE1", units), Nobody, Actor.Shopper, call: new CallKey(key, body)));
        Assert.NotEmpty((await Call(4, "a", "four")).Shortages);
        Assert.Equal(new StockLevel(3, 0, 0, 0), await Level("SAVE1", "SAVE1"));
        // The key that was refused is free; of two calls at once one makes the order, the other is told of it.
        var both = await Task.WhenAll(Call(2, "a", "two"), Call(2, "a", "two"));
        var order = Assert.Single(both, p => p.Order is not null).Order!;
        var reply = OrderDocument.Write(order).ToJsonString();
        Assert.Equal(reply, Assert.Single(both, p => p.Order is null).Earlier!.Made);
        Assert.Equal(reply, (await Call(2, "a", "two")).Earlier!.Made);
        Assert.True((await Call(1, "a", "one")).Earlier!.WasOther);
        Assert.Equal(new StockLevel(3, 2, 0, 0), await Level("SAVE1", "SAVE1"));
    }

    [Fact]
    public async Task An_order_is_replied_as_its_basket_was()
    {
        await Publish(Plain("SAME1", 3));
        var shop = await db.Use<UnicusContext, ShopSettings>(c => ShopSettings.Load(c));
        var basket = await db.Use<BasketPricing, Outcome<PricedBasket>>(p => p.Run(Basket("SAME1", 2), shop));
        var placed = (await Place(Basket("SAME1", 2))).Order!;
        var written = OrderDocument.Write(await db.OrderOf(placed.Number));
        Assert.Equal(placed.Number, written["number"]!.GetValue<int>());
        written.Remove("number");
        Assert.Equal(written["total"]!.GetValue<string>(), written["standing"]!["total"]!.GetValue<string>());
        written.Remove("standing");
        Assert.Equal(BasketDocument.Write(basket.Result!).ToJsonString(), written.ToJsonString());
    }

    [Fact]
    public async Task Cancelling_releases()
    {
        await Publish(Plain("CAN1", 10));
        var order = (await Place(Basket("CAN1", 4))).Order!;
        await db.Use<EndOrder, Outcome>(e => e.Cancel(order.Number, "Changed their mind", Database.Tester));
        Assert.Equal(new StockLevel(10, 0, 0, 0), await Level("CAN1", "CAN1"));
    }

    [Fact]
    public async Task A_shortage_names_the_SKU_and_allocates_nothing_of_the_whole_basket()
    {
        await Publish(Plain("SHO1", 10));
        await Publish(Plain("SHO2", 1));
        var both = new BasketRequest([Basket("SHO1", 2).Lines[0], Basket("SHO2", 3).Lines[0]], null);
        var placed = await Place(both);
        Assert.Equal(new Shortage("SHO2", 3, 1), Assert.Single(placed.Shortages));
        Assert.Equal(0, (await Level("SHO1", "SHO1")).Allocated);
    }

    [Fact]
    public async Task Lines_of_the_same_SKU_are_counted_together()
    {
        await Publish(Plain("SAM1", 3));
        var placed = await Place(new BasketRequest([Basket("SAM1", 2).Lines[0], Basket("SAM1", 2).Lines[0]], null));
        Assert.Equal(new Shortage("SAM1", 4, 3), Assert.Single(placed.Shortages));
    }

    [Fact]
    public async Task What_is_sold_beyond_stock_leaves_available_below_zero_and_cannot_leave_before_it_came()
    {
        await Publish(Plain("BEY1", 1, """{ "beyond": { "units": 3 } }"""));
        Assert.NotEmpty((await Place(Basket("BEY1", 5))).Shortages);
        var order = (await Place(Basket("BEY1", 4))).Order!;
        Assert.Equal(-3, (await Level("BEY1", "BEY1")).Available);
        Assert.Contains(
            "Only 1 on hand",
            Assert.Single((await db.Use<EndOrder, Outcome>(e => e.Dispatch(order.Number, Database.Tester))).Faults).What
        );
    }

    [Fact]
    public async Task What_is_not_counted_is_always_to_be_had_and_what_is_off_for_now_never()
    {
        await Publish(Plain("UNC1", 0, """{ "counted": false }"""));
        Assert.NotNull((await Place(Basket("UNC1", 1000))).Order);
        await Publish(Plain("OFF1", 50, """{ "offForNow": { "back": null } }"""));
        Assert.Equal(0, Assert.Single((await Place(Basket("OFF1", 1))).Shortages).Available);
    }

    [Fact]
    public async Task An_order_keeps_what_was_bought_whatever_is_edited_later()
    {
        await Publish(Database.Hive("KEP1", """, "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "stock": 5 } ]"""));
        var number = (await Place(Basket("KEP1", 1, "depth=deep", "timber=cedar"))).Order!.Number;
        await db.Use<ChangeField, Outcome>(c => c.Run("KEP1", "name", "Another name", null, Database.Tester));
        await db.Use<MatrixCells, Outcome>(c =>
            c.Write("KEP1", [new("depth=deep,timber=cedar", "sku", "NEW-SKU", "KEP1-D-CE")], Database.Tester)
        );
        var line = await db.Use<UnicusContext, OrderLineRow>(c => c.OrderLines.SingleAsync(l => l.OrderNumber == number));
        Assert.Equal(
            ("Hive KEP1, deep, cedar", "KEP1-D-CE", 40m, "KEP1", 1),
            (line.Title, line.Sku, line.Cost, line.Through, line.Edition)
        );
        // The edition still names the former SKU; it is found and its stock with it.
        Assert.NotNull((await Place(Basket("KEP1", 1, "depth=deep", "timber=cedar"))).Order);
        Assert.Equal(2, (await Level("KEP1", "NEW-SKU")).Allocated);
    }

    [Fact]
    public async Task Open_questions_are_named_and_impossible_answers_refused()
    {
        await Publish(Database.Hive("OPN1", """, "notMade": [ { "depth": "deep", "timber": "pine" } ]"""));
        Assert.Contains("Still open: timber", Assert.Single((await Place(Basket("OPN1", 1, "depth=shallow"))).Faults).What);
        Assert.Contains("cannot stand together", Assert.Single((await Place(Basket("OPN1", 1, "depth=deep", "timber=pine"))).Faults).What);
        // With pine not made in deep, cedar is the only one left: it answers itself, and is merely out of stock.
        Assert.Equal("OPN1-D-CE", Assert.Single((await Place(Basket("OPN1", 1, "depth=deep"))).Shortages).Sku);
    }

    [Fact]
    public async Task A_low_level_raises_one_message_not_one_per_sale()
    {
        await Publish(Plain("LOW1", 6));
        for (var i = 0; i < 5; i++)
            await Place(Basket("LOW1", 1));
        Assert.Equal(1, await db.Use<UnicusContext, int>(c => c.Outbox.CountAsync(m => m.Subject.StartsWith("Low: LOW1"))));
    }

    [Fact]
    public async Task Stock_is_taken_from_the_first_location_and_then_the_next()
    {
        await Publish(Plain("LOC1", 2));
        await db.Use<ChangeSettings, Outcome>(async c =>
            await c.Run(
                WantedSettings.Of(await db.Use<UnicusContext, ShopSettings>(x => ShopSettings.Load(x))) with
                {
                    NewLocations = ["Loft"],
                },
                Database.Tester
            )
        );
        await db.Use<MoveStock, Outcome>(m => m.Run(new MovementRequest("LOC1", "receipt", 5, "loft", null, null), Database.Tester));
        var order = (await Place(Basket("LOC1", 4))).Order!;
        Assert.True((await db.Use<EndOrder, Outcome>(e => e.Dispatch(order.Number, Database.Tester))).Done);
        var levels = await db.Use<UnicusContext, List<int>>(c =>
            c.Levels.Where(l => c.Skus.Any(s => s.Id == l.SkuId && s.Code == "LOC1"))
                .OrderBy(l => l.LocationId)
                .Select(l => l.OnHand)
                .ToListAsync()
        );
        Assert.Equal([0, 3], levels);
    }

    /// <summary>Two shoppers can never buy the same last unit.</summary>
    [Fact]
    public async Task Thirty_parallel_orders_for_ten_units_sell_exactly_ten()
    {
        await Publish(Plain("PAR1", 10));
        var placed = await Task.WhenAll(Enumerable.Range(0, 30).Select(_ => Place(Basket("PAR1", 1))));
        Assert.Equal(10, placed.Count(p => p.Order is not null));
        Assert.Equal(20, placed.Count(p => p.Shortages.Count == 1));
        Assert.Equal(new StockLevel(10, 10, 0, 0), await Level("PAR1", "PAR1"));
    }

    [Theory]
    [InlineData("write-off", 99, "#/quantity")]
    [InlineData("burn", 1, "#/kind")]
    [InlineData("transfer", 1, "#/to")]
    public async Task Movements_that_cannot_be_are_refused_with_their_place(string kind, int quantity, string where)
    {
        await db.Put(Plain("MOV1", 5));
        var outcome = await db.Use<MoveStock, Outcome>(m =>
            m.Run(new MovementRequest("MOV1", kind, quantity, null, null, null), Database.Tester)
        );
        Assert.Equal(where, Assert.Single(outcome.Faults).Where);
    }
}
