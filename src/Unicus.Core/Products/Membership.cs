namespace Unicus.Core.Products;

using System.Collections.Immutable;

/// <summary>A category of goods in a tree.</summary>
/// <param name="Id">The number by which the shop keeps it.</param>
/// <param name="Name">What people read.</param>
/// <param name="ParentId">The category above; null at the top.</param>
/// <param name="Search">A saved search whose products belong to it besides those that name it; null for none.</param>
public sealed record Category(int Id, string Name, int? ParentId, string? Search);

/// <summary>Which categories hold a product.</summary>
public static class Membership
{
    /// <summary>The categories that a product names or whose saved search finds it, and all above them.</summary>
    /// <param name="tree">All categories.</param>
    /// <param name="named">The names that the product gives; letter case is ignored.</param>
    /// <param name="text">What saved searches look at, as <see cref="TextOf"/> makes it.</param>
    /// <returns>Their numbers in rising order.</returns>
    public static ImmutableArray<int> Of(IReadOnlyList<Category> tree, IReadOnlyCollection<string> named, string text)
    {
        var byId = tree.ToDictionary(c => c.Id);
        var holding = new SortedSet<int>();
        foreach (var category in tree)
        {
            var holds =
                named.Contains(category.Name, StringComparer.OrdinalIgnoreCase)
                || (category.Search is { Length: > 0 } search && Finds(search, text));
            for (var at = holds ? category : null; at is not null && holding.Add(at.Id);)
                at = at.ParentId is { } parent ? byId.GetValueOrDefault(parent) : null;
        }
        return [.. holding];
    }

    /// <summary>Whether every word of a saved search stands in a text; letter case is ignored.</summary>
    public static bool Finds(string search, string text) =>
        search.Split(' ', StringSplitOptions.RemoveEmptyEntries).All(w => text.Contains(w, StringComparison.OrdinalIgnoreCase));

    /// <summary>Name, summary, brand, tags, categories and specifications: what saved searches look at.</summary>
    public static string TextOf(Product product) =>
        string.Join(
            '\n',
            [
                product.Name,
                product.Summary ?? "",
                product.Brand ?? "",
                .. product.Tags,
                .. product.Categories,
                .. product.Specifications.Select(s => $"{s.Label} {s.Value}"),
            ]
        );
}
