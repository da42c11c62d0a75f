namespace Unicus.Core.Stock;

using Unicus.Core.Money;

/// <summary>What a movement does to the four states of stock; whole units, negative takes away.</summary>
public readonly record struct StockDelta(int OnHand = 0, int Allocated = 0, int OnHold = 0, int OnOrder = 0);

/// <summary>The stock of one SKU at one location: always the sum of its movements.</summary>
public readonly record struct StockLevel(int OnHand, int Allocated, int OnHold, int OnOrder)
{
    /// <summary>On hand − allocated − on hold; below 0 after sales beyond stock.</summary>
    public int Available => OnHand - Allocated - OnHold;

    /// <summary>The level after a change.</summary>
    public StockLevel After(StockDelta d) => new(OnHand + d.OnHand, Allocated + d.Allocated, OnHold + d.OnHold, OnOrder + d.OnOrder);

    /// <summary>Two levels together.</summary>
    public static StockLevel operator +(StockLevel a, StockLevel b) =>
        new(a.OnHand + b.OnHand, a.Allocated + b.Allocated, a.OnHold + b.OnHold, a.OnOrder + b.OnOrder);
}

/// <summary>The kinds of movement of the ledger.</summary>
public enum MovementKind
{
    /// <summary>Goods come in.</summary>
    Receipt,

    /// <summary>Allocated goods leave.</summary>
    Sale,

    /// <summary>Goods come back.</summary>
    Return,

    /// <summary>What was found is put in place of what was thought.</summary>
    Count,

    /// <summary>Goods move to another location.</summary>
    Transfer,

    /// <summary>Goods are kept from sale.</summary>
    Hold,

    /// <summary>Goods on hold are for sale again.</summary>
    Release,

    /// <summary>Goods are lost.</summary>
    WriteOff,

    /// <summary>Goods are set aside for an order.</summary>
    Allocation,

    /// <summary>Goods are no longer set aside.</summary>
    Deallocation,

    /// <summary>Parts are put together to a set that is kept as one.</summary>
    MakeUp,

    /// <summary>A set that was kept as one becomes its parts again.</summary>
    TakeApart,
}

/// <summary>What movements do and when they are refused.</summary>
public static class Movements
{
    /// <summary>So many units move at once at most.</summary>
    public const int MostUnits = 10_000_000;

    /// <summary>So many units one level holds of each state at most, so that no sum of levels overflows.</summary>
    public const int MostOfLevel = 100_000_000;

    /// <summary>The kinds that a person or an outside program may write.</summary>
    public static IReadOnlyList<(MovementKind Kind, string Name)> ByHand { get; } =
    [
        (MovementKind.Receipt, "receipt"),
        (MovementKind.Count, "count"),
        (MovementKind.Transfer, "transfer"),
        (MovementKind.Return, "return"),
        (MovementKind.WriteOff, "write-off"),
        (MovementKind.Hold, "hold"),
        (MovementKind.Release, "release"),
    ];

    /// <summary>The kinds that move a set and its parts together.</summary>
    public static IReadOnlyList<(MovementKind Kind, string Name)> OfSets { get; } =
    [(MovementKind.MakeUp, "make-up"), (MovementKind.TakeApart, "take-apart")];

    /// <summary>What a kind of movement is called in documents.</summary>
    public static string Name(MovementKind kind) =>
        kind switch
        {
            MovementKind.WriteOff => "write-off",
            MovementKind.MakeUp => "make-up",
            MovementKind.TakeApart => "take-apart",
            _ => kind.ToString().ToLowerInvariant(),
        };

    /// <summary>What a movement of <paramref name="quantity"/> units does to a level.</summary>
    /// <param name="kind">What kind of movement it is.</param>
    /// <param name="level">The level it meets; a count needs it.</param>
    /// <param name="quantity">0 or more for a count (the units found), 1 or more for the rest.</param>
    /// <returns>The change, or why the movement cannot be.</returns>
    /// <remarks>For a transfer this is the side that gives; where a set is made up or taken apart it is the set, its parts move the other
    /// way.</remarks>
    public static Read<StockDelta> Effect(MovementKind kind, int quantity, StockLevel level)
    {
        if (quantity > MostUnits)
            return Read<StockDelta>.No($"At most {MostUnits:N0} units move at once.");
        if (quantity < (kind == MovementKind.Count ? 0 : 1))
            return Read<StockDelta>.No(kind == MovementKind.Count ? "A count is not negative." : "At least 1 unit moves.");
        var delta = kind switch
        {
            MovementKind.Receipt or MovementKind.Return or MovementKind.MakeUp => new StockDelta(OnHand: quantity),
            MovementKind.Count => new StockDelta(OnHand: quantity - level.OnHand),
            MovementKind.WriteOff or MovementKind.Transfer or MovementKind.TakeApart => new StockDelta(OnHand: -quantity),
            MovementKind.Hold => new StockDelta(OnHold: quantity),
            MovementKind.Release => new StockDelta(OnHold: -quantity),
            MovementKind.Allocation => new StockDelta(Allocated: quantity),
            MovementKind.Deallocation => new StockDelta(Allocated: -quantity),
            MovementKind.Sale => new StockDelta(OnHand: -quantity, Allocated: -quantity),
            _ => throw new InvalidOperationException("A kind of movement without a rule."),
        };
        var after = level.After(delta);
        if (after.OnHand < 0)
            return Read<StockDelta>.No($"Only {level.OnHand:N0} on hand.");
        if (after.OnHold < 0)
            return Read<StockDelta>.No($"Only {level.OnHold:N0} on hold.");
        if (after.Allocated < 0)
            return Read<StockDelta>.No($"Only {level.Allocated:N0} allocated.");
        if (Math.Max(after.OnHand, Math.Max(after.Allocated, after.OnHold)) > MostOfLevel)
            return Read<StockDelta>.No($"A level holds at most {MostOfLevel:N0} units.");
        return Read<StockDelta>.Of(delta);
    }
}
