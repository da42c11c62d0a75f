namespace Unicus.Core.RuleBook;

using System.Collections.Immutable;
using Unicus.Core.Options;
using Unicus.Core.Products;
using Unicus.Core.Range;

/// <summary>What the shop's rules ask of a product to know whether they reach it.</summary>
/// <param name="Code">Its code.</param>
/// <param name="IsSet">Whether it has parts that are sold together.</param>
/// <param name="Tags">Its tags.</param>
/// <param name="Options">The keys of its options of variants.</param>
/// <param name="Categories">The categories that hold it, those above them included; letter case ignored.</param>
internal sealed record RuleGoods(
    string Code,
    bool IsSet,
    ImmutableArray<string> Tags,
    ImmutableArray<Key> Options,
    IReadOnlySet<string> Categories
)
{
    /// <summary>A product of an edition.</summary>
    public static RuleGoods Of(Edition edition, IReadOnlySet<string> categories)
    {
        var product = edition.Product;
        return new RuleGoods(product.Code.Text, product.IsSet, product.Tags, [.. edition.Matrix.Options.Select(o => o.Key)], categories);
    }
}
