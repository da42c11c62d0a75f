namespace Unicus.Core.Products;

using System.Collections.Immutable;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Pricing;
using Unicus.Core.Variants;

/// <summary>A variant that stands in another product now.</summary>
/// <param name="Before">Its values in the product where it was.</param>
/// <param name="Now">Its values where it is.</param>
/// <param name="Sku">The SKU.</param>
public sealed record MovedVariant(Combination Before, Combination Now, Sku Sku);

/// <summary>Goods that stand in another product since products were brought together or one was split.</summary>
/// <param name="From">The code of the product where they were, in capitals.</param>
/// <param name="To">The code of the product where they are.</param>
public abstract record MovedGoods(string From, string To)
{
    /// <summary>The whole product became variants of another one, or of itself with a further option.</summary>
    /// <param name="From">Where it begins.</param>
    /// <param name="To">Where it ends.</param>
    /// <param name="Value">What tells them apart from the others there.</param>
    /// <param name="Variants">In their order.</param>
    public sealed record Joined(string From, string To, Combination Value, ImmutableArray<MovedVariant> Variants) : MovedGoods(From, To);

    /// <summary>Some variants became a product of their own.</summary>
    /// <param name="From">Where it begins.</param>
    /// <param name="To">Where it ends.</param>
    /// <param name="Which">The values that they had and have no more.</param>
    public sealed record Parted(string From, string To, Combination Which) : MovedGoods(From, To);
}

/// <summary>What names goods follows them into another product: slots of sets and groups, price rules, suggestions (domain.md,
/// section 1).</summary>
/// <param name="moved">Where goods went.</param>
/// <param name="skusOf">The SKUs of other products, by code.</param>
public sealed class NamesFollowing(IReadOnlyList<MovedGoods> moved, Func<string, IEnumerable<string>> skusOf)
{
    /// <summary>Beyond so many named variants a slot takes all that came from the product.</summary>
    private const int MostNamed = 200;

    private readonly Dictionary<string, MovedGoods> _moved = moved.ToDictionary(m => m.From);

    /// <summary>A product with everything in it that named the goods naming them where they are.</summary>
    /// <returns>The very same product where nothing does.</returns>
    public Product Of(Product product)
    {
        var (companions, stepUps) = (Of(product.Companions, product.Code), Of(product.StepUps, product.Code));
        var isSuggesting = !companions.SequenceEqual(product.Companions) || !stepUps.SequenceEqual(product.StepUps);
        var after = isSuggesting ? product with { Companions = companions, StepUps = stepUps } : product;
        var rules = product.PriceRules.Select(Of).ToImmutableArray();
        if (product.PriceRules.Zip(rules).Any(r => !ReferenceEquals(r.First, r.Second)))
            after = after with { PriceRules = rules };
        return product.Parts is null ? after : WithSlots(after, product.Parts);
    }

    /// <summary>A rule of prices that names the goods where they are.</summary>
    /// <returns>The very same rule where it does not name them.</returns>
    public PriceRule Of(PriceRule rule)
    {
        var scope = rule.Scope;
        if (scope.Through is { } through && Find(through) is MovedGoods.Joined page)
            scope = scope with { Through = page.To };
        if (scope.Products.Any(p => Find(p) is not null))
            scope = WithProducts(scope);
        return ReferenceEquals(scope, rule.Scope) ? rule : rule with { Scope = scope };
    }

    private MovedGoods? Find(string code) => _moved.GetValueOrDefault(code.ToUpperInvariant());

    private ImmutableArray<ProductCode> Of(ImmutableArray<ProductCode> codes, ProductCode own) =>
        [.. codes.Select(c => Find(c.Text) is MovedGoods.Joined j ? ProductCode.Of(j.To) : c).Where(c => c != own).Distinct()];

    /// <summary>The products by code where all of a product is named, else the variants by SKU.</summary>
    private PriceScope WithProducts(PriceScope scope)
    {
        var joined = scope.Products.Select(Find).OfType<MovedGoods.Joined>().ToList();
        var isWhole = moved
            .OfType<MovedGoods.Joined>()
            .GroupBy(j => j.To)
            .Where(g => joined.Exists(j => j.To == g.Key))
            .All(g => g.All(joined.Contains));
        IEnumerable<string> Now(string code) =>
            Find(code) switch
            {
                MovedGoods.Joined j => [j.To],
                MovedGoods.Parted p => [p.From, p.To],
                _ => [code],
            };
        var products = scope.Products.SelectMany(Now).Distinct().ToImmutableArray();
        if (joined.Count == 0 || isWhole || !scope.Skus.IsEmpty)
            return scope with { Products = products };
        var skus = scope.Products.SelectMany(p =>
            Find(p) is MovedGoods.Joined j ? j.Variants.Select(v => v.Sku.Text.ToUpperInvariant()) : Now(p).SelectMany(skusOf)
        );
        return scope with { Products = [], Skus = [.. skus.Distinct()] };
    }

    private Product WithSlots(Product product, SetParts parts)
    {
        var slots = ImmutableArray.CreateBuilder<Slot>();
        foreach (var slot in parts.Slots)
        {
            var renamed = new Dictionary<Key, Key>();
            var entries = slot.Of.SelectMany(e => Of(e, slot, renamed)).ToList();
            if (entries.Count == slot.Of.Length && slot.Of.Zip(entries).All(e => ReferenceEquals(e.First, e.Second)))
            {
                slots.Add(slot);
                continue;
            }
            var picks = slot.Default.Select(d => renamed.GetValueOrDefault(d, d)).Distinct();
            slots.Add(slot with { Of = [.. Apart(entries)], Default = [.. picks] });
            var rules = product.Rules.Select(r => renamed.Aggregate(r, (rule, k) => rule.Following(slot.Key, k.Key, k.Value)));
            product = product with { Rules = [.. rules] };
        }
        return parts.Slots.Zip(slots).All(s => ReferenceEquals(s.First, s.Second))
            ? product
            : product with
            {
                Parts = parts with { Slots = slots.ToImmutable() },
            };
    }

    /// <summary>Two entries of one product are one candidate.</summary>
    private static IEnumerable<PartEntry> Apart(IEnumerable<PartEntry> entries) =>
        entries
            .GroupBy(e =>
                e switch
                {
                    PartEntry.OfProduct p => Slot.KeyOf(p.Code)?.Text,
                    PartEntry.OfSku s => Slot.KeyOf(s.Code)?.Text,
                    _ => null,
                } ?? e.ToString()
            )
            .Select(same =>
                same.Count() == 1 || same.First() is not PartEntry.OfProduct
                    ? same.First()
                    : same.First() with
                    {
                        Variants = same.Any(e => e.Variants.IsEmpty) ? [] : [.. same.SelectMany(e => e.Variants).Distinct()],
                    }
            );

    private PartEntry[] Of(PartEntry entry, Slot slot, Dictionary<Key, Key> renamed)
    {
        if (entry is not PartEntry.OfProduct named || Find(named.Code) is not { } goods)
            return [entry];
        var now = goods is MovedGoods.Joined joined ? [Of(named, joined)] : Of(named, (MovedGoods.Parted)goods, slot);
        if (now.Length == 1 && KeyOf(now[0]) is { } after && Slot.KeyOf(named.Code) is { } before && after != before)
            renamed[before] = after;
        return now;
    }

    private static Key? KeyOf(PartEntry entry) =>
        entry is PartEntry.OfSku s ? Slot.KeyOf(s.Code) : Slot.KeyOf(((PartEntry.OfProduct)entry).Code);

    private static PartEntry Of(PartEntry.OfProduct entry, MovedGoods.Joined goods)
    {
        var named = goods.Variants.Where(v => entry.Variants.IsEmpty || entry.Variants.Any(only => only.IsWithin(v.Before))).ToList();
        return named.Count switch
        {
            0 => entry,
            // One variant keeps a candidate of its own beside others that went the same way.
            1 => new PartEntry.OfSku(named[0].Sku.Text.ToUpperInvariant()) { Extra = entry.Extra },
            _ => new PartEntry.OfProduct(goods.To)
            {
                Variants = entry.Variants.IsEmpty || named.Count > MostNamed ? [goods.Value] : [.. named.Select(v => v.Now)],
                Extra = entry.Extra,
            },
        };
    }

    private static PartEntry[] Of(PartEntry.OfProduct entry, MovedGoods.Parted goods, Slot slot)
    {
        var which = goods.Which;
        var going = entry.Variants.Where(v => which.Pairs.All(p => v[p.Option] is not { } value || value == p.Value)).ToList();
        if (!entry.Variants.IsEmpty && going.Count == 0)
            return [entry];
        var rest = going.Select(v => which.Pairs.Aggregate(v, (left, p) => left.Without(p.Option))).ToList();
        var parted = new PartEntry.OfProduct(goods.To)
        {
            Variants = rest.Exists(v => v.Pairs.IsEmpty) ? [] : [.. rest.Distinct()],
            Extra = entry.Extra,
        };
        if (!entry.Variants.IsEmpty && entry.Variants.All(v => which.IsWithin(v)))
            return [parted];
        // What follows an option that the goods have no more cannot follow it any longer.
        var isFollowing = slot.Pick is SlotPick.Follows follows && which[follows.Option] is not null;
        return isFollowing ? [entry] : [entry, parted];
    }
}
