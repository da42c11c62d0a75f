
namespace Unicus.Store;

/// <summary>Units of a leaf of an order that are sent or cancelled before the rest.</summary>
/// <param name="Line">The place of the line in the order, from 0.</param>
/// <param name="Slot">The leaf's path; empty for the goods themselves.</param>
/// <param name="Sku">To tell leaves of one slot apart; null where there is one.</param>
/// <param name="Units">1 or more.</param>
public sealed record EndedPart(int Line, string Slot, string? Sku, int Units)
{
    /// <summary>The units that were still to be sent when this was asked for; null where nobody looked.</summary>
    public int? Seen { get; init; }
}

/// <summary>Ends parts of a locked order within the caller's transaction.</summary>
/// <remarks>A set that was made up ahead is ended as one: what is in it goes with it.</remarks>
internal sealed class EndingParts(OrderRow order, StockLedger ledger, Actor by, DateTimeOffset at)
{
    private readonly List<(OrderLeafRow Leaf, int Units)> _ended = [];

    /// <summary>What was ended.</summary>
    public IReadOnlyList<(OrderLeafRow Leaf, int Units)> Ended => _ended;

    /// <summary>Whether anything of the order was sent, by now.</summary>
    public bool WasSent => order.Lines.SelectMany(l => l.Leaves).Any(l => l.Sent > 0);

    /// <summary>Whether nothing is left after these parts.</summary>
    public bool EndsAll => order.Lines.SelectMany(l => l.Leaves).All(l => l.Left == _ended.Where(e => e.Leaf == l).Sum(e => e.Units));

    /// <summary>Writes the movements and notes what was ended.</summary>
    /// <returns>What stands in the way; null for nothing.</returns>
    public async Task<string?> Run(MovementKind kind, IReadOnlyList<int> locations)
    {
        var levels = await ledger.Lock(_ended.Where(e => e.Leaf.Locations.Length > 0).Select(e => e.Leaf.SkuId).Distinct(), locations);
        foreach (var (leaf, units) in _ended)
        {
            if (leaf.Locations.Length > 0 && Move(leaf, units, kind, levels) is { } refused)
                return refused;
            if (kind == MovementKind.Sale)
                leaf.Sent += units;
            else
                Drop(leaf, units);
        }
        return null;
    }

    /// <summary>Finds the leaves.</summary>
    /// <returns>What stands in the way; null for nothing.</returns>
    public string? Find(IReadOnlyList<EndedPart> parts)
    {
        if (parts.Count == 0)
            _ended.AddRange(order.Lines.SelectMany(l => l.Leaves).Where(l => l.Left > 0).Select(l => (l, l.Left)));
        foreach (var part in parts)
        {
            if (order.Lines.FirstOrDefault(l => l.Position == part.Line) is not { } line)
                return $"The order has no line {part.Line}.";
            if (line.Leaves.Where(l => l.Path == part.Slot && (part.Sku is null || l.Sku == part.Sku)).ToList() is not [var leaf])
                return $"Line {part.Line} has not one part “{part.Slot}” {part.Sku}.";
            if (part.Seen is { } seen && seen != leaf.Left)
                return $"Of {leaf.Sku} some was sent or cancelled meanwhile: {leaf.Left:N0} are still to be sent. Look again.";
            if (line.GoesWith(leaf) is [{ MadeUp: true } made, ..] all)
            {
                if (part.Units != leaf.Left)
                    return $"{made.Name} was made up ahead, so it goes as one.";
                _ended.AddRange(all.Where(l => l.Left > 0 && _ended.TrueForAll(e => e.Leaf != l)).Select(l => (l, l.Left)));
                continue;
            }
            var asked = _ended.Where(e => e.Leaf == leaf).Sum(e => e.Units) + part.Units;
            if (part.Units < 1 || asked > leaf.Left)
                return $"{part.Units:N0} of {leaf.Sku} were asked for, {leaf.Left:N0} are still to be sent.";
            _ended.Add((leaf, part.Units));
        }
        return _ended.Count == 0 ? "Nothing is left of it." : null;
    }

    private string? Move(OrderLeafRow leaf, int units, MovementKind kind, Dictionary<(int, int), LevelRow> levels)
    {
        var (left, unitsAt) = (Math.Min(units, leaf.Allotted), (int[])leaf.UnitsAt.Clone());
        for (var i = 0; i < unitsAt.Length && left > 0; i++)
        {
            var take = Math.Min(left, unitsAt[i]);
            if (take == 0)
                continue;
            var written = ledger.Write(levels[(leaf.SkuId, leaf.Locations[i])], kind, take, by, at, null, order.Number);
            if (!written.Ok)
                return $"{leaf.Sku} cannot leave: {written.Problem} Receive the goods first.";
            (unitsAt[i], left) = (unitsAt[i] - take, left - take);
        }
        leaf.UnitsAt = unitsAt;
        return null;
    }

    /// <summary>Refunds what was allocated to the units, with the tax that was added to it; to the last cent once all are
    /// cancelled.</summary>
    private void Drop(OrderLeafRow leaf, int units)
    {
        leaf.Dropped += units;
        leaf.Refunded = leaf.GivenBack(leaf.Allocated, order) + (order.TaxIncluded ? 0 : leaf.GivenBack(leaf.Tax, order));
    }
}
