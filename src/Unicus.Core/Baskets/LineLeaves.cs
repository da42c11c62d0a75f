namespace Unicus.Core.Baskets;

using System.Collections.Immutable;
using Unicus.Core.Assembling;
using Unicus.Core.Money;
using Unicus.Core.Parts;
using Unicus.Core.Pricing;
using Unicus.Core.Range;

/// <summary>Shares out what is paid for a line over the stocked variants that it is made of (domain.md, section 6).</summary>
internal sealed class LineLeaves
{
    private readonly ImmutableArray<Leaf>.Builder _leaves = ImmutableArray.CreateBuilder<Leaf>();
    private readonly Currency _currency;

    private LineLeaves(Currency currency) => _currency = currency;

    /// <summary>The leaves of goods or of a group's own extras: itself first, then the parts that answers brought.</summary>
    /// <param name="line">The line.</param>
    /// <param name="paid">The line's total less its share of the basket's reductions, in minor units.</param>
    /// <param name="ownWeight">What the goods with all their answers but the parts come to, in minor units; below 0 counts as 0.</param>
    /// <param name="ownCost">What the goods cost in all, with what their answers cost; null where that is not known.</param>
    /// <param name="currency">In which amounts are.</param>
    public static ImmutableArray<Leaf> OfGoods(RunLine line, long paid, long ownWeight, Money? ownCost, Currency currency)
    {
        var (leaves, brought) = (new LineLeaves(currency), BroughtBy(line));
        var shares = Sharing.Of(paid, [Math.Max(0, ownWeight), .. brought.Select(b => b.Weight * line.Quantity)]);
        leaves.Add("", line.Goods, line.Quantity, shares[0], ownCost, null);
        foreach (var (i, part) in brought.Index())
            leaves.Brought(null, part, line.Quantity, shares[i + 1], "");
        return leaves._leaves.ToImmutable();
    }

    /// <summary>The leaves of a set in the order of the slots, then the parts that answers brought.</summary>
    /// <param name="line">The line.</param>
    /// <param name="set">The set.</param>
    /// <param name="paid">As for goods.</param>
    /// <param name="values">What the values of its own answers cost besides.</param>
    /// <param name="currency">In which amounts are.</param>
    public static ImmutableArray<Leaf> OfSet(RunLine line, PricedSet set, long paid, ValueCosts values, Currency currency)
    {
        var (leaves, quantity) = (new LineLeaves(currency), line.Quantity);
        leaves.Share(line.Goods.Edition.Product.Parts!.TaxClass, set, quantity, paid, BroughtBy(line), "");
        var extra = values.For(quantity);
        if (extra == 0 || leaves._leaves.Count == 0)
            return leaves._leaves.ToImmutable();
        var first = leaves._leaves[0];
        leaves._leaves[0] = first with { Cost = first.Cost is { } cost ? cost + leaves.Money(extra) : null };
        return leaves._leaves.ToImmutable();
    }

    /// <summary>The parts that a line's own answers brought, each once.</summary>
    private static ImmutableArray<BroughtPart> BroughtBy(RunLine line) =>
        [.. line.Needs.Select(n => n.Brought).OfType<BroughtPart>().Distinct(ReferenceEqualityComparer.Instance).Cast<BroughtPart>()];

    private Money Money(long minor) => MinorUnits.ToMoney(minor, _currency);

    private void Share(string? taxClass, PricedSet set, long sets, long paid, ImmutableArray<BroughtPart> brought, string path)
    {
        // A set in which everything stays empty takes no share of what is paid.
        var parts = set.Parts.Where(HasLeaves).ToArray();
        var weights = parts.Select(p => p.Weight * p.Units).Concat(brought.Select(b => b.Weight)).ToArray();
        if (weights.Length == 0)
            return;
        var shares = Sharing.Of(paid, weights);
        foreach (var (i, part) in parts.Index())
            Part(taxClass, part, sets * part.Units, shares[i], Join(path, part.Slot.Key.Text));
        foreach (var (i, answered) in brought.Index())
            Brought(taxClass, answered, sets, shares[parts.Length + i], path);
    }

    private static bool HasLeaves(PricedPart part) => part.Inner is not { } inner || part.Brought.Length > 0 || inner.Parts.Any(HasLeaves);

    private void Part(string? taxClass, PricedPart part, long units, long paid, string path)
    {
        if (part.Inner is { } inner)
        {
            Share(taxClass ?? part.Goods.Edition.Product.Parts!.TaxClass, inner, units, paid, part.Brought, path);
            return;
        }
        var once = part.Once.Sum(s => MinorUnits.Of(s.Amount));
        var brought = part.Brought.Sum(b => b.Weight);
        var own = Math.Max(0, (part.List + part.Each - brought) * units + once);
        var shares = Sharing.Of(paid, [own, .. part.Brought.Select(b => b.Weight * units)]);
        var values = part.ValueCosts.For(units);
        Money? cost = part.Goods.Figures.Cost is { } each ? Money(MinorUnits.Of(each) * units + values) : null;
        Add(path, part.Goods, units, shares[0], cost, taxClass);
        foreach (var (i, answered) in part.Brought.Index())
            Brought(taxClass, answered, units, shares[i + 1], path);
    }

    private void Brought(string? taxClass, BroughtPart part, long units, long paid, string path)
    {
        var (all, at) = (units * part.PerUnit, Join(path, part.Question));
        if (part.Set is { } set)
        {
            Share(taxClass ?? part.Goods.Edition.Product.Parts!.TaxClass, set.Priced, all, paid, [], at);
            return;
        }
        Money? cost = part.Goods.Figures.Cost is { } each ? Money(MinorUnits.Of(each) * all) : null;
        Add(at, part.Goods, all, paid, cost, taxClass);
    }

    private void Add(string path, VariantOnSale goods, long units, long paid, Money? cost, string? taxClass) =>
        _leaves.Add(new Leaf(new LeafPath(path), goods, units, Money(paid), cost) { TaxClass = taxClass ?? goods.TaxClass });

    private static string Join(string path, string key) => path.Length == 0 ? key : $"{path}/{key}";
}
