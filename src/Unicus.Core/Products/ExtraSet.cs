namespace Unicus.Core.Products;

using System.Collections.Immutable;
using Unicus.Core.Options;
using Unicus.Core.Rules;

/// <summary>Extras together with their rules, kept once for products, categories or everything.</summary>
/// <param name="Key">Unique among its kind in the shop.</param>
/// <param name="Name">What people read.</param>
/// <param name="Everything">Whether it reaches all products.</param>
/// <param name="Categories">The categories whose products it reaches, letter case ignored.</param>
/// <param name="Extras">What it asks.</param>
/// <param name="Rules">The rules that it is about.</param>
public sealed record ExtraSet(
    Key Key,
    string Name,
    bool Everything,
    ImmutableArray<string> Categories,
    ImmutableArray<Option> Extras,
    ImmutableArray<SelectionRule> Rules
)
{
    /// <summary>Whether a product has it: named by the product, or by its category or all, unless the product leaves it out.</summary>
    public bool Reaches(Product product) =>
        product.ExtraSets.Contains(Key) || (!product.WithoutSets.Contains(Key) && ReachesByItself(product));

    /// <summary>Whether it reaches a product that does not name it.</summary>
    public bool ReachesByItself(Product product) =>
        Everything || product.Categories.Any(c => Categories.Contains(c, StringComparer.OrdinalIgnoreCase));
}
