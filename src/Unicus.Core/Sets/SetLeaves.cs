using System.Collections.Immutable;

namespace Unicus.Core;

/// <summary>Shares out what is paid for a line of sets over the stocked variants that they are made of (domain.md, section 6).</summary>
internal sealed class SetLeaves
{
    private readonly ImmutableArray<Leaf>.Builder _leaves = ImmutableArray.CreateBuilder<Leaf>();
    private readonly Currency _currency;

    private SetLeaves(Currency currency) => _currency = currency;

    /// <summary>The leaves in the order of the slots, then the parts that answers brought.</summary>
    /// <param name="paid">For the whole line, in minor units.</param>
    /// <param name="brought">What the set's own answers brought.</param>
    /// <param name="values">What their values cost besides.</param>
    public static ImmutableArray<Leaf> Of(
        Edition edition,
        PricedSet set,
        int quantity,
        long paid,
        IEnumerable<LeafNeed> brought,
        AnswerSheet.Sum values,
        Currency currency
    )
    {
        var leaves = new SetLeaves(currency);
        leaves.Share(edition.Product.Parts!.TaxClass, set, quantity, paid, [.. brought], "");
        var extra = values.Cost * quantity + values.OnceCost;
        if (extra == 0 || leaves._leaves.Count == 0)
            return leaves._leaves.ToImmutable();
        var first = leaves._leaves[0];
        leaves._leaves[0] = first with { Cost = first.Cost is { } cost ? cost + leaves.Money(extra) : null };
        return leaves._leaves.ToImmutable();
    }

    private Money Money(long minor) => MinorUnits.ToMoney(minor, _currency);

    private void Share(string? taxClass, PricedSet set, long sets, long paid, ImmutableArray<LeafNeed> brought, string path)
    {
        var weights = set.Parts.Select(p => p.Weight * p.Units).Concat(brought.Select(WeightOf)).ToArray();
        if (weights.Length == 0)
            return;
        var shares = Sharing.Of(paid, weights);
        foreach (var (i, part) in set.Parts.Index())
            Part(taxClass, part, sets * part.Units, shares[i], Join(path, part.Slot.Key.Text));
        foreach (var (i, need) in brought.Index())
            Brought(taxClass, need, sets, shares[set.Parts.Length + i], path);
    }

    private void Part(string? taxClass, PricedPart part, long units, long paid, string path)
    {
        if (part.Inner is { } inner)
        {
            Share(taxClass ?? part.Goods.Edition.Product.Parts!.TaxClass, inner, units, paid, part.Brought, path);
            return;
        }
        var once = part.Once.Sum(s => MinorUnits.Of(s.Amount));
        var brought = part.Brought.Sum(WeightOf);
        var own = Math.Max(0, (part.List + part.Each - brought) * units + once);
        var shares = Sharing.Of(paid, [own, .. part.Brought.Select(b => WeightOf(b) * units)]);
        var values = part.ValueCosts.Cost * units + part.ValueCosts.OnceCost;
        Money? cost = part.Goods.Figures.Cost is { } each ? Money(MinorUnits.Of(each) * units + values) : null;
        Add(path, part.Goods, units, shares[0], cost, taxClass);
        foreach (var (i, need) in part.Brought.Index())
            Brought(taxClass, need, units, shares[i + 1], path);
    }

    private void Brought(string? taxClass, LeafNeed need, long units, long paid, string path)
    {
        var all = units * need.PerUnit;
        Money? cost = need.Goods.Figures.Cost is { } each ? Money(MinorUnits.Of(each) * all) : null;
        Add(Join(path, need.Path.Text), need.Goods, all, paid, cost, taxClass);
    }

    private void Add(string path, VariantOnSale goods, long units, long paid, Money? cost, string? taxClass) =>
        _leaves.Add(new Leaf(new LeafPath(path), goods, units, Money(paid), cost) { TaxClass = taxClass ?? goods.TaxClass });

    /// <summary>The list price of what comes with an answer, for one unit.</summary>
    private static long WeightOf(LeafNeed need) => (need.Goods.Figures.Price is { } price ? MinorUnits.Of(price) : 0) * need.PerUnit;

    private static string Join(string path, string key) => path.Length == 0 ? key : $"{path}/{key}";
}
