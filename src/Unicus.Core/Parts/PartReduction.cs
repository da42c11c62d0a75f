namespace Unicus.Core.Parts;

using Unicus.Core.Money;
using Unicus.Core.Pricing;

/// <summary>What something is reduced by: a percentage or an amount, one of them.</summary>
/// <param name="Percent">Above 0 and at most 100.</param>
/// <param name="Amount">0 or more.</param>
public sealed record PartReduction(decimal? Percent, Money? Amount)
{
    /// <summary>What is left of an amount in minor units; never below 0.</summary>
    public long Remains(long amount) =>
        Percent is { } percent ? new Rate(percent).Remains(amount) : Math.Max(0, amount - MinorUnits.Of(Amount!.Value));
}
