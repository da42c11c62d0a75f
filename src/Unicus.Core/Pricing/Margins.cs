namespace Unicus.Core.Pricing;

using Unicus.Core.Money;
using Unicus.Core.Variants;

/// <summary>Profit and margin of variants at their list price, with the tax of the shop's first destination.</summary>
public static class Margins
{
    /// <summary>What is left of a variant's price.</summary>
    /// <returns>Null where price or cost is missing.</returns>
    public static Profit? Of(VariantMatrix matrix, TradeTerms terms, MatrixVariant variant) =>
        variant.Price.Figure is { } price && variant.Cost.Figure is { } cost
            ? Profit.Of(price, cost, Rate(matrix, terms, variant), terms.PricesIncludeTax)
            : null;

    /// <summary>The tax rate of a variant.</summary>
    public static Percentage Rate(VariantMatrix matrix, TradeTerms terms, MatrixVariant variant) =>
        Rate(terms, matrix.Figures.Resolve(variant.Variant.Own, variant.Values, f => f.TaxClass).Figure);

    /// <summary>The rate of a tax class at the shop's first destination.</summary>
    /// <param name="taxClass">Null for the class of goods that name none.</param>
    public static Percentage Rate(TradeTerms terms, string? taxClass) => terms.Find(null)?.RateOf(terms.InForce(taxClass)) ?? default;
}
