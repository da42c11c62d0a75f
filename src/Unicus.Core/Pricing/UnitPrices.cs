namespace Unicus.Core.Pricing;

using Unicus.Core.Variants;

/// <summary>The price of one unit of a product after stage 3 with its floor, for any of its variants and answers.</summary>
/// <remarks>For one variant it never falls when the answers rise, so that extremes over answers are extremes of the price.</remarks>
internal abstract class UnitPrices
{
    /// <summary>Whether every variant is treated alike, so that a lower price before the rules is never a higher one behind
    /// them.</summary>
    public abstract bool IsUniform { get; }

    /// <summary>The price of a unit, in minor units.</summary>
    /// <param name="variant">Which variant it is.</param>
    /// <param name="before">Its list price and what its answers add, in minor units.</param>
    public abstract long Of(MatrixVariant variant, long before);
}
