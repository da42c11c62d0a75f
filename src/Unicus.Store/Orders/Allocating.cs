
namespace Unicus.Store;

/// <summary>What was allocated of one SKU for one leaf of a line.</summary>
/// <param name="Locations">Where, in the order in which they are drawn from.</param>
/// <param name="Units">How many at each of them.</param>
/// <param name="Beyond">Units that were not in stock.</param>
internal sealed record AllocatedUnits(int[] Locations, int[] Units, int Beyond)
{
    /// <summary>Of goods that are not counted.</summary>
    public static AllocatedUnits None { get; } = new([], [], 0);
}

/// <summary>Allocates locked levels to one order.</summary>
/// <param name="levels">By SKU and location, as <see cref="StockLedger.Lock"/> gives them.</param>
/// <param name="locations">In the order in which they are drawn from.</param>
internal sealed class Allocating(
    StockLedger ledger,
    Dictionary<(int Sku, int Location), LevelRow> levels,
    IReadOnlyList<int> locations,
    Actor by,
    DateTimeOffset at
)
{
    /// <summary>The level of a SKU over all locations; nothing where it is not counted.</summary>
    public StockLevel LevelOf(int sku) =>
        locations.Where(l => levels.ContainsKey((sku, l))).Aggregate(default(StockLevel), (sum, l) => sum + levels[(sku, l)].Level);

    /// <summary>Takes units from the first location that has some of them available, then the next; what is sold beyond stock stands at
    /// the first.</summary>
    /// <param name="order">Its number; null for one that gets its number as it is written.</param>
    /// <returns>What was taken, or why the ledger refuses it: then nothing is to be committed.</returns>
    public Read<AllocatedUnits> Take(int sku, int units, int? order = null)
    {
        var shares = new Dictionary<int, int>();
        var left = units;
        foreach (var location in locations)
        {
            var take = Math.Min(left, Math.Max(0, levels[(sku, location)].Level.Available));
            if (take > 0)
                shares[location] = take;
            left -= take;
        }
        if (left > 0)
            shares[locations[0]] = shares.GetValueOrDefault(locations[0]) + left;
        int[] drawn = [.. locations.Where(shares.ContainsKey)];
        foreach (var location in drawn)
        {
            var written = ledger.Write(levels[(sku, location)], MovementKind.Allocation, shares[location], by, at, null, order);
            if (!written.Ok)
                return Read<AllocatedUnits>.No(written.Problem!);
        }
        return Read<AllocatedUnits>.Of(new AllocatedUnits(drawn, [.. drawn.Select(l => shares[l])], left));
    }
}
