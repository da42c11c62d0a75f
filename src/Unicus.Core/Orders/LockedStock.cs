namespace Unicus.Core.Orders;

using Unicus.Core.Money;
using Unicus.Core.Stock;

/// <summary>Levels that nobody else changes meanwhile, from which units are set aside: which places give.</summary>
/// <param name="levels">By SKU and location; what is not counted is missing.</param>
/// <param name="locations">In the order in which they are drawn from.</param>
public sealed class LockedStock(IEnumerable<KeyValuePair<(int Sku, int Location), StockLevel>> levels, IReadOnlyList<int> locations)
{
    private readonly Dictionary<(int Sku, int Location), StockLevel> _levels = new(levels);

    /// <summary>The level of a SKU over all locations as it is by now; nothing where it is not counted.</summary>
    public StockLevel LevelOf(int sku) => locations.Aggregate(default(StockLevel), (sum, l) => sum + _levels.GetValueOrDefault((sku, l)));

    /// <summary>Takes units from the first location that has some of them available, then the next; what is sold beyond stock stands at
    /// the first.</summary>
    /// <returns>What was taken, or why a level cannot take it: then nothing is to be kept.</returns>
    public Read<AllocatedUnits> Take(int sku, int units)
    {
        var (shares, left) = (new Dictionary<int, int>(), units);
        foreach (var location in locations)
        {
            var take = Math.Min(left, Math.Max(0, _levels[(sku, location)].Available));
            if (take > 0)
                shares[location] = take;
            left -= take;
        }
        if (left > 0)
            shares[locations[0]] = shares.GetValueOrDefault(locations[0]) + left;
        List<UnitsAt> drawn = [.. locations.Where(shares.ContainsKey).Select(l => new UnitsAt(l, shares[l]))];
        foreach (var (location, some) in drawn)
        {
            var level = _levels[(sku, location)];
            var effect = Movements.Effect(MovementKind.Allocation, some, level);
            if (!effect.Ok)
                return Read<AllocatedUnits>.No(effect.Problem!);
            _levels[(sku, location)] = level.After(effect.Value);
        }
        return Read<AllocatedUnits>.Of(new AllocatedUnits([.. drawn], left));
    }
}
