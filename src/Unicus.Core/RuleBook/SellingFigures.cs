namespace Unicus.Core.RuleBook;

using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using Unicus.Core.Money;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Stages;
using Unicus.Core.Range;
using Unicus.Core.Variants;

/// <summary>What the variants of an edition sell at, cost and are taxed by, each put together once for the terms in force.</summary>
internal sealed class SellingFigures
{
    private static readonly ConditionalWeakTable<Edition, SellingFigures> Kept = [];

    private readonly ConcurrentDictionary<int, LineGoods> _figures = [];

    private SellingFigures(Edition edition, TradeTerms terms) => (Edition, Terms) = (edition, terms);

    /// <summary>What they are of.</summary>
    public Edition Edition { get; }

    /// <summary>The shop's terms that they hold for.</summary>
    public TradeTerms Terms { get; }

    /// <summary>The figures of an edition.</summary>
    public static SellingFigures Of(Edition edition, TradeTerms terms)
    {
        if (!Kept.TryGetValue(edition, out var kept) || !ReferenceEquals(kept.Terms, terms))
            Kept.AddOrUpdate(edition, kept = new SellingFigures(edition, terms));
        return kept;
    }

    /// <summary>The figures of a variant; null where it has no price.</summary>
    public LineGoods? Of(MatrixVariant variant)
    {
        // One whose values are gone has no number of its own.
        if (variant.Number < 0)
            return Make(variant);
        if (_figures.TryGetValue(variant.Number, out var figures))
            return figures;
        return Make(variant) is { } made ? _figures.GetOrAdd(variant.Number, made) : null;
    }

    private LineGoods? Make(MatrixVariant variant)
    {
        if (variant.Price.Figure is not { } price)
            return null;
        var taxClass = Edition.Matrix.Figures.Resolve(variant.Variant.Own, variant.Values, f => f.TaxClass).Figure;
        var (code, sku) = (Edition.Product.Code.Text, variant.Sku.Text.ToUpperInvariant());
        return new LineGoods(code, sku, Terms.Currency, MinorUnits.Of(price), EditionPrices.FloorOf(Edition, variant, Terms))
        {
            Cost = variant.Cost.Figure is { } cost ? MinorUnits.Of(cost) : null,
            TaxClass = Terms.InForce(taxClass),
        };
    }
}
