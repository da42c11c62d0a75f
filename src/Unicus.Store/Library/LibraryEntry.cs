using System.Collections.Immutable;

namespace Unicus.Store;

/// <summary>An option of the library with the products that use it.</summary>
public sealed record LibraryEntry(Option Option, int Version, IReadOnlyList<(string Code, string Name)> UsedBy);

/// <summary>What merging two values of the library would do to one product.</summary>
/// <param name="Rules">The rules that will name the value that stays, as they will read.</param>
public sealed record MergeEffect(
    string Code,
    string Name,
    MatrixDifference Difference,
    ImmutableArray<Option> Before,
    ImmutableArray<string> Rules
);
