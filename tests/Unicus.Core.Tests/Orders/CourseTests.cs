using System.Collections.Immutable;
using CsCheck;

namespace Unicus.CoreTests;

/// <summary>What events make of orders.</summary>
public class CourseTests
{
    private static readonly DateTimeOffset Day = new(2027, 3, 1, 9, 0, 0, TimeSpan.Zero);

    /// <summary>Law: whatever happens to an order, in whatever order, units and money add up, its movements are the difference of the
    /// levels, its events make it again, and nothing given back exceeds what was paid.</summary>
    [Fact]
    public void Whatever_course_an_order_takes_it_adds_up() => Gen.Int.Sample(seed => Check(new Random(seed)), iter: 4_000);

    private static void Check(Random random)
    {
        var orders = new RandomOrders(random);
        var bought = orders.Order();
        var (order, events, back) = (bought, new List<OrderEvent>(), Money.Zero(Currency.Euro));
        // Of what a set made up ahead holds less may be taken.
        OrderEvent first = new OrderPlaced(Day, "Tester", orders.Allocations(bought, l => random.Next(0, l.Units + 1)));
        for (var next = first; events.Count < 30; next = orders.Next(order))
        {
            if (next is null)
            {
                if (random.Next(8) == 0)
                    break;
                continue;
            }
            var (before, aside) = (orders.Levels.Values.ToList(), SetAside(order));
            var applied = order.Apply(next);
            var isMoved = Move(orders.Levels, applied.Movements);
            events.Add(next);
            (order, back) = (applied.Order, back + applied.Back);

            Assert.All(order.Leaves, l => Assert.Equal(l.Units, l.Open + l.Sent + l.Dropped));
            Assert.All(order.Leaves, l => Assert.True(l is { Open: >= 0, Sent: >= 0, DroppedAlone: >= 0 } && l.SetAside <= l.Open));
            Assert.True(isMoved);
            Assert.Equal(SetAside(order) - aside, orders.Levels.Values.Sum(l => l.Allocated) - before.Sum(l => l.Allocated));
            Assert.Equal(back, MoneyBack.Of(order));
            Assert.InRange(back.Amount, 0, order.Total.Amount);
            Assert.Equal(order.Total, back + MoneyBack.Standing(order).Total);
            Assert.Equal(order.State == OrderState.Placed, order.EndedAt is null);
            Assert.Equal(order.State != OrderState.Placed, order.Leaves.All(l => l.Open == 0));
        }
        Same(order, bought.After(events));
        if (order.State == OrderState.Cancelled)
            Assert.Equal(order.Total, back);
        if (order.State != OrderState.Placed)
            Assert.Equal(0, SetAside(order));
    }

    private static int SetAside(Order order) => order.Leaves.Sum(l => l.SetAside);

    /// <summary>Moves the levels; whether none of it was refused. What was sold beyond stock is received first.</summary>
    private static bool Move(Dictionary<(int, int), StockLevel> levels, IEnumerable<OrderMovement> movements)
    {
        foreach (var (sku, location, kind, units) in movements)
        {
            var level = levels[(sku, location)];
            if (kind == MovementKind.Sale && level.OnHand < units)
                level = level.After(new StockDelta(OnHand: units - level.OnHand));
            var effect = Movements.Effect(kind, units, level);
            if (!effect.Ok)
                return false;
            levels[(sku, location)] = level.After(effect.Value);
        }
        return true;
    }

    private static void Same(Order one, Order other)
    {
        Assert.Equal((one.State, one.EndedAt, one.CancelReason), (other.State, other.EndedAt, other.CancelReason));
        Assert.Equal(one.Leaves.Select(Course), other.Leaves.Select(Course));
        static string Course(OrderLeaf l) =>
            $"{l.Place} {l.Sent} {l.Dropped} {l.DroppedWithOrder} {l.Released} {l.Beyond} {string.Join(',', l.At)}";
    }

    /// <summary>trading.md, section 8: 100.00 for three units goes back as 33.33, 33.34 and 33.33, whichever goes first.</summary>
    [Fact]
    public void A_hundred_for_three_goes_back_to_the_cent()
    {
        var order = Placed(3, Sample.Eur(100));
        var given = new List<string>();
        for (var i = 0; i < 3; i++)
        {
            var applied = order.Apply(Drop(order, 1));
            (order, _) = (applied.Order, 0);
            given.Add(applied.Back.ToString());
        }
        Assert.Equal(["33.33", "33.34", "33.33"], given);
        Assert.Equal(OrderState.Cancelled, order.State);
    }

    /// <summary>Sent units leave from where they lie, the first place first, and stay sent when the rest is dropped.</summary>
    [Fact]
    public void Units_leave_the_first_place_first()
    {
        var order = Placed(5, Sample.Eur(50), new UnitsAt(7, 2), new UnitsAt(3, 3));
        var sent = order.Apply(new UnitsSent(Day, "Tester", [new LeafUnits(new LeafPlace(0, 0), 3)]));
        Assert.Equal(
            new[] { new OrderMovement(4, 7, MovementKind.Sale, 2), new OrderMovement(4, 3, MovementKind.Sale, 1) },
            sent.Movements
        );
        var dropped = sent.Order.Apply(Drop(sent.Order, 2));
        Assert.Equal(new OrderMovement(4, 3, MovementKind.Deallocation, 2), Assert.Single(dropped.Movements));
        Assert.Equal((OrderState.Dispatched, Sample.Eur(20)), (dropped.Order.State, dropped.Back));
        Assert.Throws<InvalidOperationException>(() => dropped.Order.Apply(Drop(order, 1)));
    }

    /// <summary>Cancelling an order of which a leaf was dropped by itself gives all the rest back, and taking it back asks for no more
    /// than was set aside.</summary>
    [Fact]
    public void What_was_dropped_by_itself_stays_dropped()
    {
        var order = Placed(5, Sample.Eur(50), new UnitsAt(7, 5));
        order = order.Apply(Drop(order, 2)).Order;
        var cancelled = order.Apply(new UnitsDropped(Day, "Tester", PartsToEnd.All(order), "no", true));
        Assert.Equal((Sample.Eur(30), 3), (cancelled.Back, cancelled.Order.Lines[0].Leaves[0].Released));
        var again = cancelled.Order.Apply(
            new OrderReinstated(Day, "Tester", [new LeafAllocation(new LeafPlace(0, 0), new AllocatedUnits([new UnitsAt(7, 3)], 0))])
        );
        Assert.Equal((Sample.Eur(-30), 3, 2), (again.Back, again.Order.Lines[0].Leaves[0].Open, again.Order.Lines[0].Leaves[0].Dropped));
        Assert.Null(again.Order.CancelReason);
    }

    /// <summary>Customs read of each leaf that is sent the units, the weight and the value without what was dropped.</summary>
    [Fact]
    public void Customs_ask_for_what_was_not_dropped()
    {
        var order = Placed(4, Sample.Eur(40));
        var dropped = order.Apply(Drop(order, 1)).Order;
        var row = Assert.Single(CustomsSheet.Of(dropped));
        Assert.Equal((3, 750L, Sample.Eur(30)), (row.Units, row.Grams, row.Value));
        Assert.True(row.IsIncomplete);
        Assert.Empty(CustomsSheet.Of(order.Apply(Drop(order, 4)).Order));
    }

    private static UnitsDropped Drop(Order order, int units) =>
        new(Day, "Tester", PartsToEnd.Find(order, [new EndedPart(0, "", null, units)]).Value, "no", WithOrder: false);

    private static Order Placed(int units, Money paid, params UnitsAt[] at)
    {
        var drawn = new RandomOrders(new Random(1)).Order();
        var leaf = drawn.Lines[0].Leaves[0] with
        {
            Path = LeafPath.Own,
            SkuId = 4,
            Units = units,
            Allocated = paid,
            Tax = Sample.Eur(0),
            WeightGrams = 250,
            CustomsCode = "4421",
        };
        var line = drawn.Lines[0] with { Total = paid, Reduction = Sample.Eur(0), Leaves = [leaf] };
        var order = drawn with { Lines = [line], Delivery = Sample.Eur(0), Tax = Sample.Eur(0), Total = paid };
        var allocated = new LeafAllocation(leaf.Place, new AllocatedUnits([.. at], 0));
        return order.Apply(new OrderPlaced(Day, "Tester", [allocated])).Order;
    }
}
