namespace Unicus.Core.Pricing;

using Unicus.Core.Money;
using Unicus.Core.Variants;

/// <summary>Profit and margin of variants at their list price, with the tax of the shop's first destination.</summary>
public static class Margins
{
    /// <summary>What is left of a variant's price.</summary>
    /// <returns>Null where price or cost is missing.</returns>
    public static Profit? Of(VariantMatrix matrix, TradeTerms terms, MatrixVariant variant) =>
        variant.Price.Figure is { } price && variant.Cost.Figure is { } cost ? Basis(matrix, terms, variant).Of(price, cost) : null;

    /// <summary>What margins of a variant are of.</summary>
    public static MarginBasis Basis(VariantMatrix matrix, TradeTerms terms, MatrixVariant variant) =>
        MarginBasis.AtHome(terms, matrix.Figures.Resolve(variant.Variant.Own, variant.Values, f => f.TaxClass).Figure);
}
