using System.Collections.Immutable;

namespace Unicus.Core;

/// <summary>How many can be sold of something, read from the leaves that one unit takes.</summary>
/// <param name="levels">The stock of a SKU over all locations; that of one without any is the default.</param>
/// <param name="today">The shop's day, to leave out a day of return that has passed.</param>
public sealed class LeafStock(Func<Sku, StockLevel> levels, DateOnly today)
{
    /// <summary>The shop's day.</summary>
    public DateOnly Today => today;

    /// <summary>How many units of one variant can be sold by itself.</summary>
    public Availability Of(MatrixVariant variant) => Availability.Of(variant.Selling, levels(variant.Sku), today);

    /// <summary>The fewest that any of the SKUs allows; a SKU that stands in several leaves counts once with its units added.</summary>
    /// <param name="needs">The goods themselves first.</param>
    public Availability Of(IReadOnlyList<LeafNeed> needs)
    {
        var all = needs.GroupBy(n => n.Goods.Variant.Sku).Select(Sets).ToList();
        var least = all.Where(a => a.Units is not null).MinBy(a => a.Units) ?? all[0];
        return least with { InStock = all.Min(a => a.InStock) };
    }

    /// <summary>Whether a unit of a variant can be sold together with some parts.</summary>
    public bool Sells(VariantOnSale goods, IReadOnlyList<ValuePart> parts, PublishedRange range)
    {
        if (parts.Count == 0)
            return Of(goods.Variant).CanSell(1);
        var needs = new List<LeafNeed> { new(LeafPath.Own, goods, 1, "") };
        foreach (var part in parts)
            if (range.Part(part.Sku) is { } found)
                needs.Add(new LeafNeed(new LeafPath(part.Sku), found, part.Quantity, part.Sku));
            else
                return false;
        return Of(needs).CanSell(1);
    }

    private Availability Sets(IGrouping<Sku, LeafNeed> sameSku)
    {
        var (first, units) = (sameSku.First(), sameSku.Sum(n => n.PerUnit));
        var own = Of(first.Goods.Variant);
        var sets = own.Units / units;
        var words =
            first.Path.IsOwn ? own.Words
            : sets is null ? ""
            : sets == 0 ? $"{first.Goods.Figures.Name}: none left"
            : $"{sets:N0} left with {first.Goods.Figures.Name}";
        return new Availability(sets, words, own.InStock / units);
    }
}

/// <summary>A SKU that runs short.</summary>
/// <param name="Sku">Its code.</param>
/// <param name="Wanted">Units that all lines together want.</param>
/// <param name="Available">Units that can be sold.</param>
public sealed record Shortage(string Sku, long Wanted, long Available);

/// <summary>What lines want of each SKU, against what there is.</summary>
public static class Shortages
{
    /// <summary>Every SKU of which more is wanted than can be sold, or than can ever move at once.</summary>
    /// <param name="leaves">Of all lines.</param>
    /// <param name="stock">What can be sold of each variant by itself.</param>
    public static IReadOnlyList<Shortage> Of(IEnumerable<Leaf> leaves, Func<VariantOnSale, Availability> stock)
    {
        var shortages = new List<Shortage>();
        foreach (var same in leaves.GroupBy(l => l.Goods.Variant.Sku))
        {
            var wanted = same.Sum(l => l.Units);
            long units = Math.Min(stock(same.First().Goods).Units ?? Movements.MostUnits, Movements.MostUnits);
            if (wanted > units)
                shortages.Add(new Shortage(same.Key.Text, wanted, units));
        }
        return shortages;
    }
}
