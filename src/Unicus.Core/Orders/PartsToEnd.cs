namespace Unicus.Core.Orders;

using System.Collections.Immutable;
using Unicus.Core.Money;

/// <summary>Units of a leaf of an order that are to be sent or cancelled before the rest, as they are asked for.</summary>
/// <param name="Line">The place of the line in the order, from 0.</param>
/// <param name="Slot">The leaf's path; empty for the goods themselves.</param>
/// <param name="Sku">To tell leaves of one slot apart; null where there is one.</param>
/// <param name="Units">1 or more.</param>
public sealed record EndedPart(int Line, string Slot, string? Sku, int Units)
{
    /// <summary>The units that were still to be sent when this was asked for; null where nobody looked.</summary>
    public int? Seen { get; init; }
}

/// <summary>Which units of an order are sent or cancelled by one press.</summary>
/// <remarks>A set that was made up ahead is ended as one: what is in it goes with it.</remarks>
public static class PartsToEnd
{
    /// <summary>Everything that is still to be sent.</summary>
    public static ImmutableArray<LeafUnits> All(Order order) =>
        [.. order.Leaves.Where(l => l.Open > 0).Select(l => new LeafUnits(l.Place, l.Open))];

    /// <summary>The leaves that are sent or cancelled by themselves; of a set that was made up ahead only the set.</summary>
    public static IEnumerable<OrderLeaf> Alone(Order order) =>
        from line in order.Lines
        from leaf in line.Leaves
        where leaf.Open > 0 && line.GoesWith(leaf)[0].Place == leaf.Place
        select leaf;

    /// <summary>Finds the units.</summary>
    /// <param name="order">The order.</param>
    /// <param name="parts">None means everything that is left.</param>
    /// <returns>Each leaf once, or what stands in the way.</returns>
    public static Read<ImmutableArray<LeafUnits>> Find(Order order, IReadOnlyList<EndedPart> parts)
    {
        if (parts.Count == 0)
            return Some([.. All(order)]);
        var found = new Dictionary<LeafPlace, int>();
        foreach (var part in parts)
            if (Add(order, part, found) is { } problem)
                return Read<ImmutableArray<LeafUnits>>.No(problem);
        return Some([.. found.Select(f => new LeafUnits(f.Key, f.Value))]);
    }

    private static Read<ImmutableArray<LeafUnits>> Some(ImmutableArray<LeafUnits> units) =>
        units.IsEmpty ? Read<ImmutableArray<LeafUnits>>.No("Nothing is left of it.") : Read<ImmutableArray<LeafUnits>>.Of(units);

    private static string? Add(Order order, EndedPart part, Dictionary<LeafPlace, int> found)
    {
        if (part.Line < 0 || part.Line >= order.Lines.Length)
            return $"The order has no line {part.Line}.";
        var line = order.Lines[part.Line];
        if (line.Leaves.Where(l => l.Path.Text == part.Slot && (part.Sku is null || l.Sku == part.Sku)).ToList() is not [var leaf])
            return $"Line {part.Line} has not one part “{part.Slot}” {part.Sku}.";
        if (part.Seen is { } seen && seen != leaf.Open)
            return $"Of {leaf.Sku} some was sent or cancelled meanwhile: {leaf.Open:N0} are still to be sent. Look again.";
        if (line.GoesWith(leaf) is [{ MadeUp: true } made, ..] all)
        {
            if (part.Units != leaf.Open)
                return $"{made.Name} was made up ahead, so it goes as one.";
            foreach (var inside in all.Where(l => l.Open > 0))
                found[inside.Place] = inside.Open;
            return null;
        }
        var asked = found.GetValueOrDefault(leaf.Place) + part.Units;
        if (part.Units < 1 || asked > leaf.Open)
            return $"{part.Units:N0} of {leaf.Sku} were asked for, {leaf.Open:N0} are still to be sent.";
        found[leaf.Place] = asked;
        return null;
    }
}
