using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

/// <summary>One basket as it was shown becomes one order, at the price that was shown.</summary>
public class CheckOutTests(Database db) : IClassFixture<Database>
{
    private static readonly Buyer Orla = new("Orla", "orla@example.org", "1 Skep Lane", "Paid (simulated)");

    private async Task<Guid> Basket(string product, int quantity, string selling = "{}", int stock = 20)
    {
        var json = $$"""
            { "format": "unicus-product/1", "code": "{{product}}", "name": "Plain {{product}}", "base": { "price": "20.00" },
              "selling": {{selling}},
              "variants": [ { "values": {}, "stock": {{stock}} } ] }
            """;
        Assert.Empty((await db.Put(json)).Faults);
        Assert.True((await db.Use<PublishEdition, Outcome<int>>(p => p.Run(product, Database.Tester))).Done);
        ImmutableArray<LineRequest> lines = [new(product, null, [], quantity, null)];
        var row = new BasketRow
        {
            Id = Guid.NewGuid(),
            Version = 1,
            Lines = JsonSerializer.Serialize(lines),
            ChangedAt = DateTimeOffset.UtcNow,
        };
        await db.Use<UnicusContext, int>(async c =>
        {
            c.Baskets.Add(row);
            return await c.SaveChangesAsync();
        });
        return row.Id;
    }

    private Task<CheckedOut> Press(Guid basket, decimal total, int version = 1) =>
        db.Use<CheckOut, CheckedOut>(c => c.Run(basket, version, total, null, Orla));

    private Task<int> Orders(string product) => db.Use<UnicusContext, int>(c => c.OrderLines.CountAsync(l => l.ProductCode == product));

    [Fact]
    public async Task Eight_presses_at_the_same_time_make_one_order_and_all_lead_to_it()
    {
        var basket = await Basket("CO1", 2);
        var done = await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => Press(basket, 40)));
        Assert.Single(done.Select(d => d.Token).Distinct());
        Assert.NotNull(done[0].Token);
        Assert.Equal(1, await Orders("CO1"));
        Assert.Equal(2, (await db.Load("CO1")).WholeStock.Allocated);
    }

    [Fact]
    public async Task Another_price_than_was_shown_orders_nothing_and_brings_the_basket_as_it_stands()
    {
        var basket = await Basket("CO2", 1);
        await db.Use<ChangeField, Outcome>(c => c.Run("CO2", "price", "27.00", null, Database.Tester));
        await db.Use<PublishEdition, Outcome<int>>(p => p.Run("CO2", Database.Tester));
        var refused = await Press(basket, 20);
        Assert.Equal((null, 27m), (refused.Token, refused.Placed!.Repriced!.Total.Amount));
        Assert.Equal((0, 0), (await Orders("CO2"), (await db.Load("CO2")).WholeStock.Allocated));
        // The second press agrees.
        Assert.NotNull((await Press(basket, 27)).Token);
    }

    [Fact]
    public async Task A_shortage_is_told_before_another_price()
    {
        var basket = await Basket("CO3", 30);
        var refused = await Press(basket, 1);
        Assert.Equal("CO3", Assert.Single(refused.Placed!.Shortages).Sku);
        Assert.Null(refused.Placed.Repriced);
    }

    [Fact]
    public async Task A_basket_that_was_changed_since_is_shown_again()
    {
        var basket = await Basket("CO4", 1);
        Assert.True((await Press(basket, 20, version: 0)).BasketChanged);
        Assert.True((await Press(Guid.NewGuid(), 20)).BasketChanged);
        Assert.NotNull((await Press(basket, 20)).Token);
        // Emptied by the order, it is another basket for whoever presses with goods put in since.
        Assert.True((await Press(basket, 20, version: 2)).BasketChanged);
        Assert.Equal(1, await Orders("CO4"));
    }

    [Fact]
    public async Task What_is_beyond_stock_is_kept_with_the_order_and_told_to_the_buyer()
    {
        var basket = await Basket("CO5", 5, """{ "beyond": { "units": 9 } }""", stock: 3);
        await Press(basket, 100);
        var number = await db.Use<UnicusContext, int>(c =>
            c.Orders.Where(o => o.Lines.Any(l => l.ProductCode == "CO5")).Select(o => o.Number).SingleAsync()
        );
        var line = (await db.OrderOf(number)).Lines[0];
        Assert.Equal((2, "3 in stock, 2 follow when they come in."), (line.Leaves.Single().Beyond, line.BeyondWords));
        Assert.Equal(
            1,
            await db.Use<UnicusContext, int>(c => c.Outbox.CountAsync(m => m.Body.Contains("Plain CO5") && m.Body.Contains("2 follow")))
        );
    }

    [Fact]
    public async Task What_nobody_comes_back_for_is_taken_out_after_its_time()
    {
        var (kept, left) = (await Basket("CO6", 1), await Basket("CO7", 1));
        await db.Use<UnicusContext, int>(async c =>
        {
            var old = DateTimeOffset.UtcNow - TakeOutOld.BasketsKept - TimeSpan.FromHours(1);
            await c.Baskets.Where(b => b.Id == left).ExecuteUpdateAsync(u => u.SetProperty(b => b.ChangedAt, old));
            c.KeptReplies.Add(
                new KeptReply
                {
                    Key = "old",
                    BodyHash = "",
                    At = DateTimeOffset.UtcNow - TakeOutOld.RepliesKept * 2,
                }
            );
            c.KeptReplies.Add(
                new KeptReply
                {
                    Key = "new",
                    BodyHash = "",
                    At = DateTimeOffset.UtcNow,
                }
            );
            c.Outbox.Add(
                new OutboxMessage
                {
                    To = "a",
                    Subject = "old one",
                    Body = "",
                    At = DateTimeOffset.UtcNow - TakeOutOld.MessagesKept * 2,
                }
            );
            return await c.SaveChangesAsync();
        });
        Assert.Equal(3, await db.Use<TakeOutOld, int>(t => t.Run()));
        Assert.Equal(
            [kept],
            await db.Use<UnicusContext, List<Guid>>(c => c.Baskets.Where(b => b.Id == kept || b.Id == left).Select(b => b.Id).ToListAsync())
        );
        Assert.Equal(["new"], await db.Use<UnicusContext, List<string>>(c => c.KeptReplies.Select(r => r.Key).ToListAsync()));
    }

    [Fact]
    public async Task Goods_are_sold_from_so_many_up_and_so_many_in_one_order_and_what_is_said_after_stays_with_the_order()
    {
        await db.Put(
            """
            { "format": "unicus-product/1", "code": "LIM", "name": "Wax foil", "base": { "price": "2.00" },
              "priceRules": [ { "key": "many", "when": { "quantityAtLeast": 6 }, "effect": { "reduce": { "amount": "0.50" } } } ],
              "selling": { "minimumQuantity": 6, "maximumPerOrder": 10, "afterOrderNote": "Keep it cool." },
              "variants": [ { "values": {}, "sku": "LIM", "stock": 100 } ] }
            """
        );
        Assert.True((await db.Use<PublishEdition, Outcome<int>>(p => p.Run("LIM", Database.Tester))).Done);
        Task<Placed> Order(params int[] units) =>
            db.Use<PlaceOrder, Placed>(p =>
                p.Run(new BasketRequest([.. units.Select(u => new LineRequest(null, "LIM", [], u, null))], null), Orla, Actor.Shopper)
            );
        Assert.Equal(new Fault("#/lines/0/quantity", "Wax foil is sold from 6 up."), Assert.Single((await Order(5)).Faults));
        Assert.Equal(
            new Fault("#/lines/1/quantity", "At most 10 of Wax foil go into one order."),
            Assert.Single((await Order(6, 6)).Faults)
        );
        Assert.Equal(0, await Orders("LIM"));
        var placed = await Order(10);
        Assert.Equal((15.00m, "Keep it cool."), (placed.Order!.Total.Amount, Assert.Single(placed.Order.Notes)));
        var told = await db.Use<UnicusContext, string>(c => c.Outbox.OrderByDescending(m => m.Id).Select(m => m.Body).FirstAsync());
        Assert.EndsWith("Keep it cool.", told.TrimEnd(), StringComparison.Ordinal);
        // From price: what a unit costs in the fewest units that can be bought; none once there are fewer.
        Assert.Equal(1.50m, await From());
        await db.Use<MoveStock, Outcome>(m => m.Run(new MovementRequest("LIM", "write-off", 86, null, null, "damp"), Database.Tester));
        await db.Use<RangeFigures, bool>(async r =>
        {
            await r.Refresh([(await db.Load("LIM")).Row.Id]);
            return true;
        });
        Assert.Null(await From());

        Task<decimal?> From() =>
            db.Use<UnicusContext, decimal?>(c => c.RangeEntries.Where(e => e.Code == "LIM").Select(e => e.Figures.FromPrice).SingleAsync());
    }
}
