namespace Unicus.Core.Orders;

using System.Collections.Immutable;

/// <summary>Something that happened to an order. An order is what its events make of what was bought.</summary>
/// <param name="At">When.</param>
/// <param name="By">Who did it, as the ledger names them.</param>
public abstract record OrderEvent(DateTimeOffset At, string By);

/// <summary>It was placed: stock was set aside for its leaves.</summary>
/// <param name="At">When it happened.</param>
/// <param name="By">Who did it.</param>
/// <param name="Allocations">Of the leaves whose stock is counted.</param>
public sealed record OrderPlaced(DateTimeOffset At, string By, ImmutableArray<LeafAllocation> Allocations) : OrderEvent(At, By);

/// <summary>Units left the house.</summary>
/// <param name="At">When it happened.</param>
/// <param name="By">Who did it.</param>
/// <param name="Units">Of leaves, each 1 or more; none where an order has no leaves.</param>
public sealed record UnitsSent(DateTimeOffset At, string By, ImmutableArray<LeafUnits> Units) : OrderEvent(At, By);

/// <summary>Units were cancelled before they were sent.</summary>
/// <param name="At">When it happened.</param>
/// <param name="By">Who did it.</param>
/// <param name="Units">Of leaves, each 1 or more.</param>
/// <param name="Reason">Why; the buyer was told.</param>
/// <param name="WithOrder">Whether the order as a whole was cancelled, which can be taken back; else these units by themselves.</param>
public sealed record UnitsDropped(DateTimeOffset At, string By, ImmutableArray<LeafUnits> Units, string Reason, bool WithOrder)
    : OrderEvent(At, By);

/// <summary>The cancelling of the order was taken back: what was dropped with it is open again, and stock is set aside anew.</summary>
/// <param name="At">When it happened.</param>
/// <param name="By">Who did it.</param>
/// <param name="Allocations">Of the leaves whose stock is counted.</param>
public sealed record OrderReinstated(DateTimeOffset At, string By, ImmutableArray<LeafAllocation> Allocations) : OrderEvent(At, By);

/// <summary>Which leaf of an order.</summary>
/// <param name="Line">The place of its line, from 0.</param>
/// <param name="Leaf">Its place in the line, from 0.</param>
public readonly record struct LeafPlace(int Line, int Leaf);

/// <summary>So many units of a leaf.</summary>
/// <param name="Of">What it is of.</param>
/// <param name="Units">1 or more.</param>
public readonly record struct LeafUnits(LeafPlace Of, int Units);

/// <summary>What was set aside for a leaf.</summary>
public sealed record LeafAllocation(LeafPlace Of, AllocatedUnits Taken);

/// <summary>Units at a location.</summary>
/// <param name="Location">Its number.</param>
/// <param name="Units">0 or more.</param>
public readonly record struct UnitsAt(int Location, int Units);

/// <summary>What was set aside of one SKU.</summary>
/// <param name="At">Where, in the order in which it is drawn from; none for goods that are not counted.</param>
/// <param name="Beyond">Units of it that were not in stock; they stand at the first location.</param>
public sealed record AllocatedUnits(ImmutableArray<UnitsAt> At, int Beyond)
{
    /// <summary>Of goods that are not counted.</summary>
    public static AllocatedUnits None { get; } = new([], 0);

    /// <summary>Both together.</summary>
    public AllocatedUnits And(AllocatedUnits other) =>
        new([.. At.Concat(other.At).GroupBy(a => a.Location).Select(g => new UnitsAt(g.Key, g.Sum(a => a.Units)))], Beyond + other.Beyond);
}
