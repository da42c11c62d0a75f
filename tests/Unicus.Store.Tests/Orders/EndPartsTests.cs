using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

/// <summary>Parts of an order that are sent or cancelled before the rest.</summary>
public class EndPartsTests(Database db) : IClassFixture<Database>
{
    private Task Publish(string code, string more) => db.Publish(code, more, $"Goods {code}");

    private Task Plain(string code, string price, int stock) =>
        Publish(code, $$""" "base": { "price": "{{price}}" }, "variants": [ { "values": {}, "stock": {{stock}} } ] """);

    private async Task<Order> Order(params (string Code, int Units)[] lines) => (await db.Order(lines)).Order!;

    private Task<Outcome> Send(int number, params EndedPart[] parts) =>
        db.Use<EndOrder, Outcome>(e => e.DispatchParts(number, parts, Database.Tester));

    private Task<Outcome> Cancel(int number, params EndedPart[] parts) =>
        db.Use<EndOrder, Outcome>(e => e.CancelParts(number, parts, "broken", Database.Tester));

    private Task<Order> Read(int number) => db.OrderOf(number);

    private async Task<(int OnHand, int Allocated)> Level(string sku) =>
        await db.Level(sku) is var level ? (level.OnHand, level.Allocated) : default;

    /// <summary>A kit of three for 10.00 in all, a part after the other: what is refunded adds up to what was allocated, to the
    /// cent.</summary>
    [Fact]
    public async Task What_is_cancelled_part_by_part_is_refunded_to_the_cent()
    {
        await Plain("PA", "3.00", 30);
        await Plain("PB", "4.00", 30);
        await Publish(
            "PKIT",
            """
            "parts": { "price": { "rule": "fixed", "amount": "10.00" }, "slots": [
              { "key": "a", "of": [ { "product": "PA" } ], "quantity": { "min": 3, "max": 3 } },
              { "key": "b", "of": [ { "product": "PB" } ] } ] }
            """
        );
        var order = await Order(("PKIT", 1), ("PB", 2));
        Assert.Empty((await Send(order.Number, new EndedPart(1, "", null, 1))).Faults);
        Assert.Equal((29, 2), await Level("PB"));
        for (var i = 0; i < 3; i++)
            Assert.Empty((await Cancel(order.Number, new EndedPart(0, "a", "PA", 1))).Faults);
        var leaf = (await Read(order.Number)).Lines.SelectMany(l => l.Leaves).Single(l => l.Path.Text == "a");
        Assert.Equal((3, leaf.Allocated), (leaf.Dropped, MoneyBack.Goods(leaf)));
        Assert.Equal((30, 0), await Level("PA"));
        var over = await Cancel(order.Number, new EndedPart(0, "a", "PA", 1));
        Assert.Contains("0 are still to be sent", over.Faults[0].What, StringComparison.Ordinal);
        Assert.Contains(
            "has not one part",
            (await Send(order.Number, new EndedPart(0, "c", null, 1))).Faults[0].What,
            StringComparison.Ordinal
        );

        // The rest by one press; what was sent makes it a dispatched order.
        Assert.Empty((await db.Use<EndOrder, Outcome>(e => e.Cancel(order.Number, "gone", Database.Tester))).Faults);
        var ended = await Read(order.Number);
        Assert.Equal(OrderState.Dispatched, ended.State);
        Assert.Equal(14m, MoneyBack.Of(ended).Amount);
        var (stands, rest) = (MoneyBack.Standing(ended), ended.Total - MoneyBack.Of(ended));
        Assert.Equal((rest, rest), (stands.Total, stands.Subtotal));
        Assert.Equal((29, 0), await Level("PB"));
        var told = await db.Use<UnicusContext, List<string>>(c =>
            c.Outbox.Where(m => m.Subject.Contains($"{order.Number}: a part")).OrderBy(m => m.Id).Select(m => m.Body).ToListAsync()
        );
        Assert.Equal(5, told.Count);
        Assert.Contains("1 × Goods PB", told[0], StringComparison.Ordinal);
        Assert.Contains("broken\n\n1 × Goods PA", told[1], StringComparison.Ordinal);
    }

    /// <summary>All of it cancelled part by part is a cancelled order; what was paid for delivery goes back too.</summary>
    [Fact]
    public async Task The_last_part_cancelled_cancels_the_order()
    {
        await Plain("CA", "5.00", 4);
        var order = await Order(("CA", 3));
        Assert.Empty((await Cancel(order.Number, new EndedPart(0, "", null, 1))).Faults);
        Assert.Equal(5m, MoneyBack.Of(await Read(order.Number)).Amount);
        Assert.Empty((await Cancel(order.Number, new EndedPart(0, "", null, 2))).Faults);
        var ended = await Read(order.Number);
        Assert.Equal((OrderState.Cancelled, "broken", ended.Total), (ended.State, ended.CancelReason, MoneyBack.Of(ended)));
        Assert.Equal((4, 0), await Level("CA"));
        var again = await db.Use<EndOrder, Outcome>(e => e.Reinstate(order.Number, Database.Tester));
        Assert.Contains("cancelled by itself", again.Faults[0].What, StringComparison.Ordinal);
    }

    /// <summary>Eight presses at once end no unit twice.</summary>
    [Fact]
    public async Task Presses_at_the_same_time_send_no_unit_twice()
    {
        await Plain("RA", "5.00", 9);
        var order = await Order(("RA", 5));
        var outcomes = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(i =>
                    i % 2 == 0 ? Send(order.Number, new EndedPart(0, "", null, 1)) : Cancel(order.Number, new EndedPart(0, "", null, 1))
                )
        );
        Assert.Equal(5, outcomes.Count(o => o.Done));
        var leaf = (await Read(order.Number)).Lines[0].Leaves[0];
        Assert.Equal(5, leaf.Sent + leaf.Dropped);
        Assert.Equal((9 - leaf.Sent, 0), await Level("RA"));
        Assert.Equal(5m * leaf.Dropped, MoneyBack.Goods(leaf).Amount);
    }

    /// <summary>Two who looked at the same order send its units once; the second is told to look again.</summary>
    [Fact]
    public async Task Who_looked_before_another_sent_sends_nothing()
    {
        await Plain("WA", "5.00", 9);
        var order = await Order(("WA", 5));
        var part = new EndedPart(0, "", null, 2) { Seen = 5 };
        var both = await Task.WhenAll(Send(order.Number, part), Send(order.Number, part));
        Assert.Contains("Look again", Assert.Single(both, o => !o.Done).Faults[0].What, StringComparison.Ordinal);
        Assert.Equal((7, 3), await Level("WA"));
    }

    /// <summary>Sending a part and cancelling the order at once never refunds what was sent.</summary>
    [Fact]
    public async Task Cancelling_while_a_part_is_sent_refunds_only_the_rest()
    {
        await Plain("XA", "5.00", 90);
        for (var i = 0; i < 8; i++)
        {
            var order = await Order(("XA", 2));
            await Task.WhenAll(
                Send(order.Number, new EndedPart(0, "", null, 1)),
                db.Use<EndOrder, Outcome>(e => e.Cancel(order.Number, "no", Database.Tester))
            );
            var ended = await Read(order.Number);
            var sent = ended.Lines[0].Leaves[0].Sent;
            var back = MoneyBack.Of(ended).Amount;
            Assert.True(back + 5m * sent <= ended.Total.Amount, $"{ended.State}: {sent} sent, {back} refunded");
        }
    }

    /// <summary>A set that was made up ahead goes as one, with what is in it.</summary>
    [Fact]
    public async Task A_set_made_up_ahead_goes_as_one()
    {
        await Plain("MUA", "5.00", 9);
        await Publish(
            "MUSET",
            """
            "parts": { "stock": "own-then-parts", "slots": [ { "key": "a", "of": [ { "product": "MUA" } ] } ] },
            "variants": [ { "values": {}, "stock": 1 } ]
            """
        );
        var order = await Order(("MUSET", 2));
        var one = await Send(order.Number, new EndedPart(0, "a", "MUA", 1));
        Assert.Contains("goes as one", one.Faults[0].What, StringComparison.Ordinal);
        Assert.Empty((await Send(order.Number, new EndedPart(0, "", "MUSET", 1))).Faults);
        Assert.Equal(OrderState.Dispatched, (await Read(order.Number)).State);
        Assert.Equal(((0, 0), (8, 0)), (await Level("MUSET"), await Level("MUA")));
    }

    /// <summary>What is bought together in three orders is proposed to either; a cancelled order does not count.</summary>
    [Fact]
    public async Task What_is_bought_together_is_proposed()
    {
        await Plain("TA", "5.00", 90);
        await Plain("TB", "5.00", 90);
        await Plain("TC", "5.00", 90);
        for (var i = 0; i < 3; i++)
            await Order(("TA", 1), ("TB", 1));
        for (var i = 0; i < 9; i++)
            await Order(("TC", 1));
        var id = await db.Use<UnicusContext, int>(c => c.Products.Where(p => p.Code == "TA").Select(p => p.Id).SingleAsync());
        await db.Use<FindTogether, int>(f => f.Run());
        var proposed = await db.Use<Suggestions, IReadOnlyList<Proposed>>(s => s.ProposedFor(id, []));
        Assert.Equal(("TB", 3), (proposed[0].Code, proposed[0].Orders));
        Assert.True(proposed[0].Lift > 1);
        Assert.Empty(await db.Use<Suggestions, IReadOnlyList<Proposed>>(s => s.ProposedFor(id, [ProductCode.Of("TB")])));
        var last = await db.Use<UnicusContext, int>(c =>
            c.Orders.Where(o => o.Lines.Any(l => l.ProductCode == "TA")).MaxAsync(o => o.Number)
        );
        Assert.Empty((await db.Use<EndOrder, Outcome>(e => e.Cancel(last, "no", Database.Tester))).Faults);
        await db.Use<FindTogether, int>(f => f.Run());
        Assert.Empty(await db.Use<Suggestions, IReadOnlyList<Proposed>>(s => s.ProposedFor(id, [])));
    }

    /// <summary>A code may be suggested before there is such a product; a copy that gets it does not suggest itself.</summary>
    [Fact]
    public async Task A_copy_does_not_suggest_itself()
    {
        await Publish("SELF", """ "base": { "price": "5.00" }, "companions": ["1E15", "TC"], "stepUps": ["1E15"] """);
        var copied = await db.Use<CopyProduct, Outcome<string>>(c => c.Run("SELF", "1e15", null, Database.Tester));
        Assert.Equal("1E15", copied.Result);
        var copy = (await db.Use<UnicusContext, WorkingCopy>(async c => (await WorkingCopy.Load(c, "1E15"))!)).Product;
        Assert.Equal(["TC"], copy.Companions.Select(c => c.Text));
        Assert.Empty(copy.StepUps);
    }

    /// <summary>What is off the shelf is found by its exact name only; what has had its last day is in no list.</summary>
    [Fact]
    public async Task Off_the_shelf_is_found_by_its_exact_name()
    {
        await Publish("HID", """ "base": { "price": "5.00" }, "shelf": { "listed": false, "searchable": true } """);
        await Publish("OVER", """ "base": { "price": "5.00" }, "shelf": { "listed": true, "searchable": true, "until": "2020-01-01" } """);
        async Task<int> Found(string words) =>
            (await db.Use<RangeLists, ListPage>(l => l.Read(new ListQuery(words, null, [], false, ListOrder.Name, 1)))).Items.Count(i =>
                i.Code is "HID" or "OVER"
            );
        foreach (var (words, times) in new[] { ("Goods HID", 1), ("goods hid ", 1), ("HID goods", 0), ("goods", 0), ("Goods OVER", 0) })
            Assert.True(await Found(words) == times, words);
    }
}
