using System.Collections.Immutable;

namespace Unicus.Store;

/// <summary>A category of the shop.</summary>
/// <param name="Key">By which addresses name it.</param>
/// <param name="ParentId">The one that it stands below; null at the top.</param>
/// <param name="Search">The words by which it fills itself; null where products name it.</param>
/// <param name="Options">The keys of options of the library that its products usually have.</param>
/// <param name="Specifications">The labels of specifications that its products usually have.</param>
public sealed record ShopCategory(
    int Id,
    string Key,
    string Name,
    int? ParentId,
    string? Search,
    ImmutableArray<string> Options,
    ImmutableArray<string> Specifications
)
{
    internal static ShopCategory Of(CategoryRow row) =>
        new(row.Id, row.Key, row.Name, row.ParentId, row.Search, [.. row.Options], [.. row.Specifications]);
}
