namespace Unicus.Core.Assembling;

using Unicus.Core.Range;
using Unicus.Core.Variants;

/// <summary>What lines take from stock: a SKU that stands in several places counts once with its units added; what is made up ahead is
/// taken first, at every level, and the rest comes apart.</summary>
/// <param name="capacity">Units of a variant that can be sold, 0 or more; null: without limit.</param>
public sealed class SetDemand(Func<VariantOnSale, long?> capacity)
{
    private readonly Dictionary<Sku, long?> _left = [];
    private readonly Dictionary<Sku, TakenUnits> _taken = [];

    /// <summary>What was taken, in the order in which it was first asked for.</summary>
    public IEnumerable<TakenUnits> Taken => _taken.Values;

    /// <summary>Takes units of everything that a line needs.</summary>
    /// <param name="needs">What one unit takes.</param>
    /// <param name="units">Of the line.</param>
    public void Take(IEnumerable<LeafNeed> needs, long units)
    {
        foreach (var need in needs)
            Take(need, units * need.PerUnit);
    }

    /// <summary>Every SKU of which more was taken than there is, in the order in which it was asked for.</summary>
    public IEnumerable<TakenUnits> Short => _taken.Values.Where(t => t.Units > (capacity(t.Goods) ?? long.MaxValue));

    /// <summary>How many sets can be taken; null where nothing limits.</summary>
    /// <param name="needs">Of one set.</param>
    /// <param name="capacity">How many of some goods there are; null: without end.</param>
    public static long? Most(IReadOnlyList<LeafNeed> needs, Func<VariantOnSale, long?> capacity)
    {
        if (!needs.Any(n => n.ComesApart))
            return Together(needs).Min(t => capacity(t.Goods) / t.Units);
        bool Fits(long sets)
        {
            var demand = new SetDemand(capacity);
            demand.Take(needs, sets);
            return !demand.Short.Any();
        }
        long fits = 0;
        var more = 1L;
        while (more <= MostSets && Fits(more))
            (fits, more) = (more, more * 2);
        if (more > MostSets)
            return null;
        while (more - fits > 1)
            if ((fits + more) / 2 is var middle && Fits(middle))
                fits = middle;
            else
                more = middle;
        return fits;
    }

    /// <summary>The SKUs that would run short if one set more were asked for.</summary>
    /// <param name="needs">What one unit takes.</param>
    /// <param name="most">As <see cref="Most"/> gives it.</param>
    /// <param name="capacity">How many of some goods there are; null: without end.</param>
    public static IReadOnlyList<TakenUnits> RunsOut(IReadOnlyList<LeafNeed> needs, long most, Func<VariantOnSale, long?> capacity)
    {
        var demand = new SetDemand(capacity);
        demand.Take(needs, most + 1);
        return [.. demand.Short];
    }

    /// <summary>What one set takes of each SKU where nothing in it comes apart, in the order of the needs.</summary>
    public static IReadOnlyList<TakenUnits> Together(IReadOnlyList<LeafNeed> needs)
    {
        var (places, taken) = (new Dictionary<Sku, int>(needs.Count), new List<TakenUnits>(needs.Count));
        foreach (var need in needs)
        {
            if (places.TryAdd(need.Goods.Variant.Sku, taken.Count))
                taken.Add(new TakenUnits(need.Goods, need.PerUnit));
            else
            {
                var place = places[need.Goods.Variant.Sku];
                taken[place] = taken[place] with { Units = taken[place].Units + need.PerUnit };
            }
        }
        return taken;
    }

    /// <summary>Beyond so many sets nothing is said to limit.</summary>
    private const long MostSets = 1L << 40;

    private void Take(LeafNeed need, long units)
    {
        if (units == 0)
            return;
        var sku = need.Goods.Variant.Sku;
        if (!_left.TryGetValue(sku, out var left))
            _left[sku] = left = capacity(need.Goods);
        var own = need.ComesApart ? Math.Min(units, Math.Max(0, left ?? units)) : units;
        if (own > 0)
        {
            _left[sku] = left - own;
            _taken[sku] = _taken.TryGetValue(sku, out var before)
                ? before with
                {
                    Units = before.Units + own,
                }
                : new TakenUnits(need.Goods, own);
        }
        Take(need.Apart, units - own);
    }
}

/// <summary>Units taken of a variant.</summary>
public sealed record TakenUnits(VariantOnSale Goods, long Units);
