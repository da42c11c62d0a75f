namespace Unicus.Core.Assembling;

using System.Collections.Immutable;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Range;
using Unicus.Core.Stock;
using Unicus.Core.Variants;

/// <summary>How many can be sold of something that takes several leaves, asked of the stock.</summary>
public static class LeafAvailability
{
    /// <summary>The fewest that any of the SKUs allows; a SKU that stands in several leaves counts once with its units added.</summary>
    /// <param name="stock">What there is.</param>
    /// <param name="needs">The goods themselves first.</param>
    public static Availability Of(this StockOutlook stock, IReadOnlyList<LeafNeed> needs)
    {
        if (needs.Count == 0)
            return new Availability(null, "", null);
        if (!needs[0].Path.IsOwn || needs.Any(n => n.ComesApart))
            return OfSet(stock, needs);
        var all = needs.GroupBy(n => n.Goods.Variant.Sku).Select(same => Sets(stock, same)).ToList();
        var least = all.Where(a => a.Units is not null).MinBy(a => a.Units) ?? all[0];
        return least with { InStock = all.Min(a => a.InStock) };
    }

    /// <summary>How many sets their parts allow, and what runs out first.</summary>
    private static Availability OfSet(StockOutlook stock, IReadOnlyList<LeafNeed> needs) =>
        needs.Any(n => n.ComesApart) ? OfMadeUp(stock, needs) : OfParts(stock, SetDemand.Together(needs));

    /// <summary>Of sets in which nothing is made up ahead, each SKU is asked for once.</summary>
    private static Availability OfParts(StockOutlook stock, IReadOnlyList<TakenUnits> taken)
    {
        var there = new SellableUnits[taken.Count];
        var (most, inStock) = ((long?)null, (long?)null);
        for (var i = 0; i < there.Length; i++)
        {
            there[i] = stock.Sellable(taken[i].Goods.Variant);
            if (there[i].Units / taken[i].Units is { } sets && !(sets >= most))
                most = sets;
            if (there[i].InStock / taken[i].Units is { } stocked && !(stocked >= inStock))
                inStock = stocked;
        }
        return Said(most, inStock, limit => taken.Where((t, i) => t.Units > there[i].Units / (limit + 1)));
    }

    private static Availability OfMadeUp(StockOutlook stock, IReadOnlyList<LeafNeed> needs)
    {
        var most = SetDemand.Most(needs, stock.CapacityOf);
        var inStock = SetDemand.Most(needs, goods => stock.Sellable(goods.Variant).InStock);
        var said = Said(most, inStock, limit => SetDemand.RunsOut(needs, limit, stock.CapacityOf));
        // Of goods that only bring a set with an answer nothing more is said where they run out themselves.
        var own = needs[0] is { Path.IsOwn: true, ComesApart: false } ? needs[0].Goods : null;
        if (own is null || !(said.Units > 0) || stock.Sellable(own.Variant).Units != said.Units)
            return said;
        var words = stock.Of(own.Variant).Words;
        return said with { Words = words, MerchantWords = words };
    }

    /// <param name="most">The most units that may be said; null: all.</param>
    /// <param name="inStock">Units that are there; null: not counted.</param>
    /// <param name="runsOut">The SKUs that run short beyond so many sets.</param>
    private static Availability Said(long? most, long? inStock, Func<long, IEnumerable<TakenUnits>> runsOut)
    {
        int? stocked = inStock is { } some ? (int)Math.Min(some, int.MaxValue) : null;
        if (most is not { } sets)
            return new Availability(null, stocked == 0 ? Availability.BeyondStock : "", stocked);
        var limit = (int)Math.Min(sets, int.MaxValue);
        var first = runsOut(limit).Select(t => t.Goods.Figures.Name).ToList();
        var words = limit == 0 ? "None left" : $"{limit:N0} left";
        var named = string.Join(", ", first);
        return new Availability(limit, words, Math.Min(stocked ?? limit, limit))
        {
            MerchantWords = limit == 0 ? $"{words}: {named}" : $"{words}; {named} {(first.Count == 1 ? "runs" : "run")} out first",
        };
    }

    /// <summary>Units of goods that can be sold, 0 or more; null: without limit.</summary>
    public static long? CapacityOf(this StockOutlook stock, VariantOnSale goods) => stock.CapacityOf(goods.Variant);

    /// <summary>Whether the fewest units that a variant is sold in can be, together with some parts.</summary>
    public static bool Sells(this StockOutlook stock, VariantOnSale goods, IReadOnlyList<ValuePart> parts, PublishedRange range)
    {
        if (parts.Count == 0)
            return stock.Sells(goods.Variant);
        var needs = new List<LeafNeed> { new(LeafPath.Own, goods, 1, "") };
        foreach (var part in parts)
            if (NeedsOf(part, range) is { } some)
                needs.AddRange(some);
            else
                return false;
        return stock.Of(needs).CanSell(goods.Variant.Selling.Least);
    }

    /// <summary>Whether what comes with a value is there.</summary>
    public static bool Has(this StockOutlook stock, ValuePart part, PublishedRange range) =>
        NeedsOf(part, range) is { } needs && stock.Of([.. needs]).CanSell(1);

    /// <summary>What is taken for a part that comes with a value; null where it cannot be had.</summary>
    private static IEnumerable<LeafNeed>? NeedsOf(ValuePart part, PublishedRange range)
    {
        if (range.Part(part.Sku) is not { } found)
            return null;
        if (!found.Edition.Product.IsSet)
            return [new LeafNeed(new LeafPath(part.Sku), found, part.Quantity, part.Sku)];
        return range.Brought(found).Value?.Needs.Select(n => n.Under(part.Sku, part.Quantity, part.Sku));
    }

    private static Availability Sets(StockOutlook stock, IGrouping<Sku, LeafNeed> sameSku)
    {
        var (first, units) = (sameSku.First(), sameSku.Sum(n => n.PerUnit));
        var own = stock.Of(first.Goods.Variant);
        var sets = own.Units / units;
        var words =
            first.Path.IsOwn ? own.Words
            : sets is null ? ""
            : sets == 0 ? $"{first.Goods.Figures.Name}: none left"
            : $"{sets:N0} left with {first.Goods.Figures.Name}";
        return new Availability(sets, words, own.InStock / units);
    }
}
