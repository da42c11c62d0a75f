using System.Collections.Immutable;

namespace Unicus.Web.Workbench;

/// <summary>A change of options that has something at stake, to be decided on before it is applied.</summary>
public sealed record PendingOptions(
    string Here,
    string Wanted,
    int Version,
    string Sentence,
    MatrixDifference Difference,
    ImmutableArray<Option> Before,
    ImmutableArray<Option> After,
    int StockQuestion,
    IReadOnlyDictionary<string, string> Allocated
)
{
    /// <summary>So many variants are asked about one by one; the choice for all covers the others.</summary>
    public const int MostAsked = 40;

    /// <summary>The variants that go, those with stock first.</summary>
    public IReadOnlyList<VariantStake> Going =>
        [.. Difference.Retired.Concat(Difference.Deleted.Where(x => !x.IsBlank)).OrderByDescending(r => r.OnHand > 0)];

    /// <summary>How many of them hold stock.</summary>
    public int WithStock => Going.Count(r => r.OnHand > 0);

    public IEnumerable<Option> Added =>
        Difference.Kept.All(k => k.Stake.IsBlank) && StockQuestion == 0 ? [] : After.Where(o => Before.All(b => b.Key != o.Key));

    public string Name(VariantStake stake) => stake.Variant.Values.Name(Before) is { Length: > 0 } name ? name : "The product as it is";
}
