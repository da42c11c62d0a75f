namespace Unicus.Core.Range;

using Unicus.Core.Parts;
using Unicus.Core.Products;

/// <summary>The leaf positions of a set: how many leaves it has when it has come apart with every slot filled.</summary>
public static class SetPositions
{
    /// <summary>So many may be published (domain.md, section 6).</summary>
    public const int Most = 500;

    /// <summary>Counts them, through every level; no further than is needed to say that there are too many.</summary>
    /// <param name="product">With what may fill its slots.</param>
    /// <param name="range">Where parts are looked up; one that is not on sale counts once.</param>
    public static int Of(Product product, PublishedRange range) => (int)Of(product, range, 0);

    private static long Of(Product product, PublishedRange range, int level)
    {
        if (!product.IsSet || level > SetParts.MostLevels)
            return 1;
        var count = 0L;
        foreach (var filled in product.SlotsInRange)
        {
            var most =
                filled.Slot.Picks is { } picks ? picks.Max ?? filled.Candidates.Length
                : filled.Question is null ? filled.Candidates.Length
                : 1;
            var positions = filled.Candidates.Select(c =>
                PartOnSale.Of(c, range) is { } part ? Of(part.Edition.Product, range, level + 1) : 1
            );
            count += positions.OrderDescending().Take(most).Sum();
            if (count > int.MaxValue / 2)
                return int.MaxValue / 2;
        }
        return count;
    }
}
