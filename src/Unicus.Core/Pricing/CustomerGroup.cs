namespace Unicus.Core.Pricing;

using Unicus.Core.Options;

/// <summary>A group of customers with prices of their own.</summary>
/// <param name="Key">Unique among its kind in the shop.</param>
/// <param name="Label">What people read.</param>
/// <param name="Code">A word by which shoppers say that they belong to it, letter case ignored; null: only by their account.</param>
public sealed record CustomerGroup(Key Key, string Label, string? Code);
