namespace Unicus.Core.Pricing;

using System.Collections.Immutable;
using Unicus.Core.Money;

/// <summary>What configurations cost in whole minor units, as far as it hangs on the list price of the variant.</summary>
/// <param name="List">The list price of each combination by its number; null where it has none or is not on offer.</param>
/// <param name="Percent">For each level, percentages of the list price by state, each rounded by itself; null where the level adds
/// none.</param>
/// <param name="Always">Percentages of the list price that always apply.</param>
internal sealed record ConfigurationCost(long?[] List, Percentage[]?[] Percent, ImmutableArray<Percentage> Always)
{
    /// <summary>A percentage of a list price, rounded half away from zero.</summary>
    public static long Share(long list, Percentage rate) => (long)Math.Round(list * rate.Value / 100m, 0, MidpointRounding.AwayFromZero);
}

/// <summary>The lowest and the highest cost, and the states of a cheapest configuration.</summary>
internal readonly record struct CostExtremes(long Lowest, long Highest, int[] Cheapest);
