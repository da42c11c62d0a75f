namespace Unicus.Core.Orders;

using Unicus.Core.Assembling;
using Unicus.Core.Money;
using Unicus.Core.Parts;
using Unicus.Core.Range;
using Unicus.Core.Variants;

/// <summary>Units of one SKU that were taken at a place of a line.</summary>
/// <param name="Path">Where it lies in the set.</param>
/// <param name="Goods">What it is.</param>
/// <param name="Units">How many.</param>
/// <param name="Taken">Where they lie.</param>
internal sealed record TakenUnits(LeafPath Path, VariantOnSale Goods, long Units, AllocatedUnits Taken);

/// <summary>Takes what one line needs from locked stock: what was made up ahead first, at every level, and the rest comes
/// apart.</summary>
/// <param name="stock">What there is.</param>
/// <param name="skus">The numbers of SKUs.</param>
internal sealed class LineTaking(LockedStock stock, IReadOnlyDictionary<Sku, int> skus)
{
    private readonly Dictionary<(LeafPath Path, Sku Sku), TakenUnits> _taken = [];
    private readonly HashSet<(LeafPath, Sku)> _told = [];

    /// <summary>Takes units.</summary>
    /// <returns>Why a level cannot give it; null where it does. Then nothing is to be kept.</returns>
    public string? Take(IEnumerable<LeafNeed> needs, long units)
    {
        foreach (var need in needs)
            if (Take(need, units * need.PerUnit) is { } problem)
                return problem;
        return null;
    }

    /// <summary>What was taken at a place of the line; null for nothing.</summary>
    public AllocatedUnits? Of(LeafPath path, VariantOnSale goods)
    {
        var key = (path, goods.Variant.Sku);
        _told.Add(key);
        return _taken.TryGetValue(key, out var taken) ? taken.Taken : null;
    }

    /// <summary>What was taken and not asked about: what was made up ahead.</summary>
    public IEnumerable<TakenUnits> Rest => _taken.Where(t => !_told.Contains(t.Key)).Select(t => t.Value);

    private string? Take(LeafNeed need, long units)
    {
        var sku = need.Goods.Variant.Sku;
        var isCounted = need.Goods.Variant.Selling.Counted != false;
        var own = need.ComesApart && isCounted ? Math.Min(units, Math.Max(0, stock.LevelOf(skus[sku]).Available)) : units;
        if (own > 0)
        {
            var taken = isCounted ? stock.Take(skus[sku], (int)own) : Read<AllocatedUnits>.Of(AllocatedUnits.None);
            if (!taken.Ok)
                return $"{sku}: {taken.Problem}";
            var key = (need.Path, sku);
            _taken[key] = _taken.TryGetValue(key, out var before)
                ? before with
                {
                    Units = before.Units + own,
                    Taken = before.Taken.And(taken.Value!),
                }
                : new TakenUnits(need.Path, need.Goods, own, taken.Value!);
        }
        return units > own ? Take(need.Apart, units - own) : null;
    }
}
