namespace Unicus.Core.Pricing;

using Unicus.Core.Money;

/// <summary>Stage 7: how far rules may push a price.</summary>
public static class Floors
{
    /// <summary>The floor of leaves, in minor units.</summary>
    /// <param name="leaves">What each costs in all its units, in minor units, and its tax rate in per cent.</param>
    /// <param name="margin">The least, in per cent of the price net of tax; from 0 to below 100.</param>
    public static long Of(IEnumerable<(long Cost, decimal Rate)> leaves, Percentage margin)
    {
        // One division at the end: Σ cost × (100 + rate) / (100 − margin).
        var sum = leaves.Sum(l => l.Cost * (100 + l.Rate));
        return (long)decimal.Ceiling(sum / (100 - margin.Value));
    }
}
