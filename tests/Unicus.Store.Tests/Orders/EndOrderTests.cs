using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

public class EndOrderTests(Database db) : IClassFixture<Database>
{
    private async Task<int> Order(string code, int quantity, int stock)
    {
        var json = $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "Plain {{code}}", "base": { "price": "10.00" },
              "variants": [ { "values": {}, "stock": {{stock}} } ] }
            """;
        await db.Put(json);
        await db.Use<PublishEdition, Outcome<int>>(p => p.Run(code, Database.Tester));
        return await Again(code, quantity);
    }

    private async Task<int> Again(string code, int quantity)
    {
        var basket = new BasketRequest([new LineRequest(code, null, [], quantity, null)], null);
        var buyer = new Buyer("Orla", $"{code}@example.org", "1 Skep Lane", "Paid (simulated)");
        return (await db.Use<PlaceOrder, Placed>(p => p.Run(basket, buyer, Actor.Shopper))).Order!.Number;
    }

    private Task<Outcome> Cancel(int number, string? why) => db.Use<EndOrder, Outcome>(e => e.Cancel(number, why, Database.Tester));

    private Task<Outcome> Dispatch(int number) => db.Use<EndOrder, Outcome>(e => e.Dispatch(number, Database.Tester));

    private Task<Outcome> Reinstate(int number) => db.Use<EndOrder, Outcome>(e => e.Reinstate(number, Database.Tester));

    private Task<List<string>> Told(string code) =>
        db.Use<UnicusContext, List<string>>(c =>
            c.Outbox.Where(m => m.To == code + "@example.org").OrderBy(m => m.Id).Select(m => m.Subject + "|" + m.Body).ToListAsync()
        );

    private async Task<StockLevel> Level(string code) => (await db.Load(code)).WholeStock;

    [Theory]
    [InlineData(null)]
    [InlineData("  \v ")]
    public async Task Cancelling_needs_a_reason(string? why)
    {
        var number = await Order($"REA{why?.Length ?? 0}", 1, 5);
        Assert.Equal("reason", Assert.Single((await Cancel(number, why)).Faults).Where);
        Assert.NotEmpty((await Cancel(number, new string('a', 301))).Faults);
    }

    [Fact]
    public async Task The_buyer_hears_of_each_step_and_of_the_refund()
    {
        var number = await Order("TEL1", 2, 5);
        Assert.True((await Cancel(number, "Out of season")).Done);
        Assert.True((await Reinstate(number)).Done);
        Assert.True((await Dispatch(number)).Done);
        var told = await Told("TEL1");
        Assert.Equal(4, told.Count);
        Assert.Contains("Out of season\n20.00 EUR refunded (simulated).", told[1], StringComparison.Ordinal);
        Assert.Contains("stands again", told[2], StringComparison.Ordinal);
        Assert.Contains("is on its way", told[3], StringComparison.Ordinal);
    }

    [Fact]
    public async Task Taking_the_cancelling_back_allocates_anew()
    {
        var number = await Order("BAC1", 3, 5);
        await Cancel(number, "Mistake");
        Assert.Equal(new StockLevel(5, 0, 0, 0), await Level("BAC1"));
        Assert.True((await Reinstate(number)).Done);
        Assert.Equal(new StockLevel(5, 3, 0, 0), await Level("BAC1"));
        var order = await db.OrderOf(number);
        Assert.Equal((OrderState.Placed, null, null), (order.State, order.CancelReason, order.EndedAt));
    }

    /// <summary>Of an order in which one part was cancelled by itself the rest can be cancelled, and that taken back.</summary>
    [Fact]
    public async Task The_rest_of_an_order_is_cancelled_and_taken_back()
    {
        await Order("RES1", 1, 5);
        await Order("RES2", 1, 5);
        var number = (await db.Order(("RES1", 3), ("RES2", 2))).Order!.Number;
        EndedPart[] first = [new EndedPart(0, "", null, 3)];
        Assert.True((await db.Use<EndOrder, Outcome>(e => e.CancelParts(number, first, "broken", Database.Tester))).Done);
        Assert.True((await Cancel(number, "Mistake")).Done);
        Assert.Equal((1, 1), ((await Level("RES1")).Allocated, (await Level("RES2")).Allocated));
        Assert.True((await Reinstate(number)).Done);
        Assert.Equal((1, 3), ((await Level("RES1")).Allocated, (await Level("RES2")).Allocated));
        Assert.Equal([0, 2], (await db.OrderOf(number)).Leaves.Select(l => l.Open));
    }

    /// <summary>What happened to an order is only ever added to, and who did it stands there.</summary>
    [Fact]
    public async Task The_course_of_an_order_is_kept()
    {
        var number = await Order("CRS1", 2, 5);
        await Cancel(number, "Mistake");
        await Reinstate(number);
        await Dispatch(number);
        var course = await db.Use<UnicusContext, List<OrderEventRow>>(c =>
            c.OrderEvents.Where(e => e.OrderNumber == number).OrderBy(e => e.Sequence).ToListAsync()
        );
        Assert.Equal(["placed", "dropped", "reinstated", "sent"], course.Select(e => e.Kind));
        Assert.Equal([Actor.Shopper.Name, "Tester", "Tester", "Tester"], course.Select(e => e.By));
        foreach (var sql in new[] { "update order_events set kind = 'sent'", "delete from order_events" })
            await Assert.ThrowsAsync<Npgsql.PostgresException>(() => db.Use<UnicusContext, int>(c => c.Database.ExecuteSqlRawAsync(sql)));
    }

    [Fact]
    public async Task It_is_refused_where_the_goods_were_sold_meanwhile()
    {
        var number = await Order("BAC2", 3, 5);
        await Cancel(number, "Mistake");
        var other = await Again("BAC2", 4);
        Assert.Contains("3 are needed, 1 are left", Assert.Single((await Reinstate(number)).Faults).What, StringComparison.Ordinal);
        await Dispatch(other);
        Assert.Contains("4 of BAC2 were shipped since", Assert.Single((await Reinstate(number)).Faults).What, StringComparison.Ordinal);
        Assert.Equal(new StockLevel(1, 0, 0, 0), await Level("BAC2"));
    }

    [Fact]
    public async Task Two_who_end_an_order_at_the_same_time_end_it_once()
    {
        var number = await Order("TWO1", 2, 5);
        var ended = await Task.WhenAll(Cancel(number, "One"), Dispatch(number), Cancel(number, "Two"), Dispatch(number));
        Assert.InRange(ended.Count(e => e.Done), 1, 2);
        var level = await Level("TWO1");
        Assert.True(level == new StockLevel(5, 0, 0, 0) || level == new StockLevel(3, 0, 0, 0), level.ToString());
        Assert.Equal(2, (await Told("TWO1")).Count);
    }
}
