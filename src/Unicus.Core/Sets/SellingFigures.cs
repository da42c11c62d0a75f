using System.Collections.Concurrent;
using System.Runtime.CompilerServices;

namespace Unicus.Core;

/// <summary>What a variant sells at, costs and is taxed by, as runs of prices reckon with it.</summary>
/// <param name="List">L, in minor units.</param>
/// <param name="Floor">F, in minor units; null where nothing limits rules.</param>
/// <param name="Cost">Of one unit, in minor units; null where it is not known.</param>
/// <param name="TaxClass">The key in force; null where the shop has no class.</param>
/// <param name="Sku">In capitals.</param>
internal sealed record SellingFigures(long List, long? Floor, long? Cost, string? TaxClass, string Sku)
{
    private static readonly ConditionalWeakTable<Edition, OfEdition> Kept = [];

    /// <summary>The figures of a variant; null where it has no price. Found once for an edition and the terms in force.</summary>
    public static SellingFigures? Of(Edition edition, MatrixVariant variant, TradeTerms terms)
    {
        // One whose values are gone has no number of its own.
        if (variant.Number < 0)
            return Make(edition, variant, terms);
        if (!Kept.TryGetValue(edition, out var kept) || !ReferenceEquals(kept.Terms, terms))
            Kept.AddOrUpdate(edition, kept = new OfEdition(terms));
        if (kept.Figures.TryGetValue(variant.Number, out var figures))
            return figures;
        return Make(edition, variant, terms) is { } made ? kept.Figures.GetOrAdd(variant.Number, made) : null;
    }

    private static SellingFigures? Make(Edition edition, MatrixVariant variant, TradeTerms terms)
    {
        if (variant.Price.Figure is not { } price)
            return null;
        var taxClass = edition.Matrix.Figures.Resolve(variant.Variant.Own, variant.Values, f => f.TaxClass).Figure;
        return new SellingFigures(
            MinorUnits.Of(price),
            EditionPrices.FloorOf(edition, variant, terms),
            variant.Cost.Figure is { } cost ? MinorUnits.Of(cost) : null,
            terms.InForce(taxClass),
            variant.Sku.Text.ToUpperInvariant()
        );
    }

    private sealed record OfEdition(TradeTerms Terms)
    {
        public ConcurrentDictionary<int, SellingFigures> Figures { get; } = [];
    }
}
