namespace Unicus.Core.Assembling;

using System.Collections.Immutable;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Range;
using Unicus.Core.Stock;
using Unicus.Core.Variants;

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
        if (needs.Count == 0)
            return new Availability(null, "", null);
        if (!needs[0].Path.IsOwn || needs.Any(n => n.ComesApart))
            return OfSet(needs);
        var all = needs.GroupBy(n => n.Goods.Variant.Sku).Select(Sets).ToList();
        var least = all.Where(a => a.Units is not null).MinBy(a => a.Units) ?? all[0];
        return least with { InStock = all.Min(a => a.InStock) };
    }

    /// <summary>Units of a variant that can be sold; null: without limit.</summary>
    public long? CapacityOf(VariantOnSale goods) => UnitsOf(goods.Variant).Units;

    private SellableUnits UnitsOf(MatrixVariant variant) => SellableUnits.Of(variant.Selling, levels(variant.Sku), today);

    /// <summary>How many sets their parts allow, and what runs out first.</summary>
    private Availability OfSet(IReadOnlyList<LeafNeed> needs) =>
        needs.Any(n => n.ComesApart) ? OfMadeUp(needs) : OfParts(SetDemand.Together(needs));

    /// <summary>Of sets in which nothing is made up ahead, each SKU is asked for once.</summary>
    private Availability OfParts(IReadOnlyList<TakenUnits> taken)
    {
        var there = new SellableUnits[taken.Count];
        var (most, inStock) = ((long?)null, (long?)null);
        for (var i = 0; i < there.Length; i++)
        {
            there[i] = UnitsOf(taken[i].Goods.Variant);
            if (there[i].Units / taken[i].Units is { } sets && !(sets >= most))
                most = sets;
            if (there[i].InStock / taken[i].Units is { } stocked && !(stocked >= inStock))
                inStock = stocked;
        }
        return Said(most, inStock, limit => taken.Where((t, i) => t.Units > there[i].Units / (limit + 1)));
    }

    private Availability OfMadeUp(IReadOnlyList<LeafNeed> needs)
    {
        var most = SetDemand.Most(needs, CapacityOf);
        var inStock = SetDemand.Most(needs, goods => UnitsOf(goods.Variant).InStock);
        var said = Said(most, inStock, limit => SetDemand.RunsOut(needs, limit, CapacityOf));
        // Of goods that only bring a set with an answer nothing more is said where they run out themselves.
        var own = needs[0] is { Path.IsOwn: true, ComesApart: false } ? needs[0].Goods : null;
        if (own is null || !(said.Units > 0) || UnitsOf(own.Variant).Units != said.Units)
            return said;
        var words = Of(own.Variant).Words;
        return said with { Words = words, MerchantWords = words };
    }

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

    /// <summary>Whether the fewest units that a variant is sold in can be, together with some parts.</summary>
    public bool Sells(VariantOnSale goods, IReadOnlyList<ValuePart> parts, PublishedRange range)
    {
        if (parts.Count == 0)
            return Sells(goods.Variant);
        var needs = new List<LeafNeed> { new(LeafPath.Own, goods, 1, "") };
        foreach (var part in parts)
            if (NeedsOf(part, range) is { } some)
                needs.AddRange(some);
            else
                return false;
        return Of(needs).CanSell(goods.Variant.Selling.Least);
    }

    /// <summary>Whether what comes with a value is there.</summary>
    public bool Has(ValuePart part, PublishedRange range) => NeedsOf(part, range) is { } needs && Of([.. needs]).CanSell(1);

    /// <summary>What is taken for a part that comes with a value; null where it cannot be had.</summary>
    private static IEnumerable<LeafNeed>? NeedsOf(ValuePart part, PublishedRange range)
    {
        if (range.Part(part.Sku) is not { } found)
            return null;
        if (!found.Edition.Product.IsSet)
            return [new LeafNeed(new LeafPath(part.Sku), found, part.Quantity, part.Sku)];
        return range.Brought(found).Value?.Needs.Select(n => n.Under(part.Sku, part.Quantity, part.Sku));
    }

    /// <summary>Whether the fewest units that a variant is sold in can be.</summary>
    public bool Sells(MatrixVariant variant) => UnitsOf(variant).Units is not { } units || units >= variant.Selling.Least;

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
