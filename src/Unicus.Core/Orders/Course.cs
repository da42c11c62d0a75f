namespace Unicus.Core.Orders;

using System.Collections.Immutable;
using Unicus.Core.Stock;

/// <summary>What an event of an order moves in stock.</summary>
/// <param name="Sku">The number of the stock.</param>
/// <param name="Location">Where.</param>
/// <param name="Kind">What kind of movement it is.</param>
/// <param name="Units">1 or more.</param>
public readonly record struct OrderMovement(int Sku, int Location, MovementKind Kind, int Units);

/// <summary>What events make of orders: the one place that says so.</summary>
// Together with Order and MoneyBack: an order is what events are applied to and what comes out, with the money that it gives back.
internal static class Course
{
    /// <inheritdoc cref="Order.Apply"/>
    public static Applied Apply(Order order, OrderEvent happened)
    {
        var change = happened switch
        {
            OrderPlaced placed => SetAside(order, placed.Allocations),
            UnitsSent sent => End(order, sent.Units, MovementKind.Sale, Send, sent),
            UnitsDropped dropped => End(order, dropped.Units, MovementKind.Deallocation, dropped.WithOrder ? DropWithOrder : Drop, dropped),
            OrderReinstated again => SetAside(Reopen(order), again.Allocations),
            _ => throw new InvalidOperationException("A kind of event without a course."),
        };
        return new Applied(change.Order, change.Movements, MoneyBack.Of(change.Order) - MoneyBack.Of(order));
    }

    /// <summary>An order, and what became of stock on the way to it.</summary>
    private readonly record struct Change(Order Order, ImmutableArray<OrderMovement> Movements);

    private static Change SetAside(Order order, ImmutableArray<LeafAllocation> allocations)
    {
        Need(order, OrderState.Placed);
        var taken = allocations.ToDictionary(a => a.Of, a => a.Taken);
        var now = Each(order, l => taken.TryGetValue(l.Place, out var t) ? l with { At = t.At, Beyond = t.Beyond } : l);
        var movements =
            from a in allocations
            from at in a.Taken.At
            select new OrderMovement(order[a.Of].SkuId, at.Location, MovementKind.Allocation, at.Units);
        return new Change(now, [.. movements]);
    }

    /// <summary>Ends units of leaves: those set aside leave where they lie, the first location first.</summary>
    private static Change End(
        Order order,
        ImmutableArray<LeafUnits> units,
        MovementKind kind,
        Func<OrderLeaf, int, OrderLeaf> end,
        OrderEvent happened
    )
    {
        Need(order, OrderState.Placed);
        var (ended, movements) = (new Dictionary<LeafPlace, OrderLeaf>(), ImmutableArray.CreateBuilder<OrderMovement>());
        foreach (var (place, some) in units)
        {
            var leaf = ended.GetValueOrDefault(place) ?? order[place];
            if (some < 1 || some > leaf.Open)
                throw new InvalidOperationException($"Of {leaf.Open} open units of {leaf.Sku} {some} cannot end.");
            var (left, at) = (Math.Min(some, leaf.SetAside), leaf.At.ToBuilder());
            for (var i = 0; i < at.Count && left > 0; i++)
                if (Math.Min(left, at[i].Units) is > 0 and var take)
                {
                    movements.Add(new OrderMovement(leaf.SkuId, at[i].Location, kind, take));
                    (at[i], left) = (at[i] with { Units = at[i].Units - take }, left - take);
                }
            ended[place] = end(leaf, some) with { At = at.ToImmutable() };
        }
        return new Change(Closed(Each(order, l => ended.GetValueOrDefault(l.Place) ?? l), happened), movements.ToImmutable());
    }

    private static OrderLeaf Send(OrderLeaf leaf, int units) => leaf with { Sent = leaf.Sent + units };

    private static OrderLeaf Drop(OrderLeaf leaf, int units) => leaf with { Dropped = leaf.Dropped + units };

    private static OrderLeaf DropWithOrder(OrderLeaf leaf, int units) =>
        leaf with
        {
            Dropped = leaf.Dropped + units,
            DroppedWithOrder = leaf.DroppedWithOrder + units,
            Released = leaf.SetAside,
        };

    /// <summary>With the state that it has once nothing is open any more; as it is while something is.</summary>
    private static Order Closed(Order order, OrderEvent happened)
    {
        if (order.Leaves.Any(l => l.Open > 0))
            return order;
        return happened is UnitsDropped dropped && order.Leaves.All(l => l.Sent == 0)
            ? order with
            {
                State = OrderState.Cancelled,
                EndedAt = dropped.At,
                CancelReason = dropped.Reason,
            }
            : order with
            {
                State = OrderState.Dispatched,
                EndedAt = happened.At,
            };
    }

    private static Order Reopen(Order order)
    {
        Need(order, OrderState.Cancelled);
        if (!order.CanBeReinstated)
            throw new InvalidOperationException($"Each part of order {order.Number} was cancelled by itself.");
        var open = Each(order, l => l with { Dropped = l.DroppedAlone, DroppedWithOrder = 0, Released = 0 });
        return open with { State = OrderState.Placed, EndedAt = null, CancelReason = null };
    }

    private static Order Each(Order order, Func<OrderLeaf, OrderLeaf> change) =>
        order with
        {
            Lines = [.. order.Lines.Select(line => line with { Leaves = [.. line.Leaves.Select(change)] })],
        };

    private static void Need(Order order, OrderState needed)
    {
        if (order.State != needed)
            throw new InvalidOperationException($"Order {order.Number} is {order.State}; that comes only while it is {needed}.");
    }
}
