namespace Unicus.Core.Pricing.Stages;

/// <summary>Where the units of a line stand among those that count together.</summary>
/// <param name="Before">Units of earlier lines.</param>
/// <param name="Total">Units of all.</param>
internal readonly record struct PlaceInBands(long Before, long Total);
