namespace Unicus.Core.Range;

using Unicus.Core.Options;
using Unicus.Core.Pricing.Answers;
using Unicus.Core.Variants;

/// <summary>A variant that is on sale: with a page of its own, or as a part of something else.</summary>
public sealed record VariantOnSale(Edition Edition, MatrixVariant Variant)
{
    private PartFigures? _figures;

    /// <summary>Price, cost and name, as they stand in prices of what it is a part of. Put together when they are first asked
    /// for.</summary>
    public PartFigures Figures => _figures ??= new PartFigures(Variant.Price.Figure, Variant.Cost.Figure, Edition.Title(Variant));

    /// <summary>Whether it is the same variant of the same edition.</summary>
    public bool Equals(VariantOnSale? other) => other is not null && Edition == other.Edition && Variant == other.Variant;

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Edition.ProductId, Variant.Sku);

    /// <summary>The key of its tax class; null where it names none, which means the shop's first.</summary>
    public string? TaxClass => Edition.Matrix.Figures.Resolve(Variant.Variant.Own, Variant.Values, f => f.TaxClass).Figure;

    /// <summary>What one unit weighs in grams; null where it is not known.</summary>
    public int? WeightGrams => Edition.Matrix.Figures.Resolve<int>(Variant.Variant.Own, Variant.Values, f => f.WeightGrams).Figure;

    /// <summary>The size of one unit; null where it is not known.</summary>
    public SizeMm? SizeMm => Edition.Matrix.Figures.Resolve(Variant.Variant.Own, Variant.Values, f => f.SizeMm).Figure;

    /// <summary>What one unit holds; null where it is not known.</summary>
    public NetContent? NetContent => Edition.Matrix.Figures.Resolve(Variant.Variant.Own, Variant.Values, f => f.NetContent).Figure;

    /// <summary>The commodity code for customs; null where none is known.</summary>
    public string? CustomsCode => Edition.Matrix.Figures.Resolve(Variant.Variant.Own, Variant.Values, f => f.CustomsCode).Figure;

    /// <summary>The country of origin; null where it is not known.</summary>
    public string? Origin => Edition.Matrix.Figures.Resolve(Variant.Variant.Own, Variant.Values, f => f.Origin).Figure;

    /// <summary>The number of available units at or below which the stock is low; null where none is set.</summary>
    public int? LowLevel => Edition.Matrix.Figures.Resolve<int>(Variant.Variant.Own, Variant.Values, f => f.LowLevel).Figure;
}
