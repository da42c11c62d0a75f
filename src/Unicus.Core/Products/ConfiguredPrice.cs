namespace Unicus.Core.Products;

using Unicus.Core.Money;
using Unicus.Core.Pricing;
using Unicus.Core.Variants;

/// <summary>The price of a configuration, which may still be open.</summary>
/// <param name="Working">Of one unit and the line; while several variants agree, of the one that is cheapest.</param>
/// <param name="Variant">The variant that is priced.</param>
/// <param name="Lowest">The lowest price of a unit over all valid complete configurations that agree.</param>
/// <param name="Highest">The most that it can come to.</param>
public sealed record ConfiguredPrice(PriceWorking Working, MatrixVariant Variant, Money Lowest, Money Highest)
{
    /// <summary>Whether both ends are exact; otherwise they are bounds.</summary>
    public bool IsExact { get; init; } = true;
}
