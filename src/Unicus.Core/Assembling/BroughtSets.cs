namespace Unicus.Core.Assembling;

using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using Unicus.Core.Money;
using Unicus.Core.Pricing.Answers;
using Unicus.Core.Range;
using Unicus.Core.Variants;

/// <summary>What comes with answers, as a range has it: each set put together once for a range.</summary>
public static class BroughtSets
{
    private static readonly ConditionalWeakTable<PublishedRange, ConcurrentDictionary<Sku, BroughtSet>> Kept = [];

    /// <summary>What a part sells for, costs and is called; null where there is none on sale.</summary>
    /// <param name="range">Where parts are looked up.</param>
    /// <param name="code">A SKU in any letter case.</param>
    public static PartFigures? Figures(this PublishedRange range, string code) =>
        range.Part(code) is not { } part ? null
        : part.Edition.Product.IsSet ? range.Brought(part).Value?.Figures
        : part.Figures;

    /// <summary>A set that comes with an answer.</summary>
    /// <param name="range">Where parts are looked up.</param>
    /// <param name="goods">A variant of a set.</param>
    /// <param name="within">What it comes with, and the sets that this stands in; null where that is not looked at.</param>
    /// <returns>The set, or why it cannot come with an answer, in a sentence.</returns>
    internal static Read<BroughtSet> Brought(this PublishedRange range, VariantOnSale goods, EnteredSets? within = null)
    {
        var kept = Kept.GetOrCreateValue(range);
        if (!kept.TryGetValue(goods.Variant.Sku, out var set))
        {
            var found = BroughtSet.Of(goods, range, within);
            if (found.Value is not { } made)
                return found;
            // What cannot be had is found anew, since that may hang on what it stands in.
            set = kept.GetOrAdd(goods.Variant.Sku, made);
        }
        return within is not null && set.Products.Any(within.Contains)
            ? Read<BroughtSet>.No($"{goods.Edition.Product.Name} contains what it would come with.")
            : Read<BroughtSet>.Of(set);
    }
}
