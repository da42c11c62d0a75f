namespace Unicus.Core.Assembling;

using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using Unicus.Core.Money;
using Unicus.Core.Parts;
using Unicus.Core.Products;
using Unicus.Core.Range;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>What a unit of a variant comes to over all its answers, in minor units.</summary>
internal sealed record UnitSpan(VariantOnSale Goods, long Lowest, long Highest)
{
    /// <summary>What one unit takes.</summary>
    public ImmutableArray<LeafNeed> Needs { get; } = [new LeafNeed(LeafPath.Own, Goods, 1, "")];

    /// <summary>The key of its tax class.</summary>
    public string? TaxClass { get; } = Goods.TaxClass;

    private const int MostVariants = 400;

    private static readonly ConditionalWeakTable<Edition, StrongBox<ImmutableArray<UnitSpan>?>> Kept = [];

    /// <summary>What a unit of each variant comes to over all answers, without any rules of prices; null where there are very many, or
    /// where answers bring parts, whose prices are not its own. For slots of sets, which ask again and again: found once for an
    /// edition.</summary>
    public static ImmutableArray<UnitSpan>? Of(Edition edition) => Kept.GetValue(edition, e => new(Find(e))).Value;

    private static ImmutableArray<UnitSpan>? Find(Edition edition)
    {
        if (edition.Product.Extras.Any(q => q.Values.Any(v => v.Part is not null)))
            return null;
        var configurator = edition.Configurator;
        var offered = configurator.Offered(Configuration.Empty).Take(MostVariants + 1).ToList();
        if (offered.Count > MostVariants)
            return null;
        var spans = ImmutableArray.CreateBuilder<UnitSpan>();
        foreach (var variant in offered)
            if (variant.Price.Figure is not null && configurator.Span(Configuration.Of(variant.Values), _ => null) is { } span)
                spans.Add(new UnitSpan(new VariantOnSale(edition, variant), MinorUnits.Of(span.Lowest), MinorUnits.Of(span.Highest)));
        return spans.ToImmutable();
    }
}
