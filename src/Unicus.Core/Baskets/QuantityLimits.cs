namespace Unicus.Core.Baskets;

using Unicus.Core.Assembling;
using Unicus.Core.Range;
using Unicus.Core.Variants;

/// <summary>A line with a quantity in which its goods are not sold.</summary>
/// <param name="Line">Its place among the lines, from 0.</param>
/// <param name="What">What is wrong, in a sentence.</param>
public sealed record QuantityFault(int Line, string What);

/// <summary>In which quantities goods are sold: from so many up in a line, and so many at most in one order. What comes as a part of
/// something else is bound by its slot instead.</summary>
public static class QuantityLimits
{
    /// <summary>The lines whose quantities go against the terms of their goods; each once.</summary>
    public static IEnumerable<QuantityFault> Of(IReadOnlyList<RunLine> lines)
    {
        var ordered = new Dictionary<Sku, long>();
        foreach (var (i, line) in lines.Index())
        {
            if (line.IsOfGroup)
                continue;
            var sku = line.Goods.Variant.Sku;
            ordered[sku] = ordered.GetValueOrDefault(sku) + line.Quantity;
            if (WhyNot(line.Goods, line.Quantity, ordered[sku]) is { } why)
                yield return new QuantityFault(i, why);
        }
    }

    /// <summary>Why so many are not sold; null where they are.</summary>
    /// <param name="goods">What it is about.</param>
    /// <param name="units">In the line.</param>
    /// <param name="ordered">In the order, those of the line among them.</param>
    public static string? WhyNot(VariantOnSale goods, int units, long ordered)
    {
        var selling = goods.Variant.Selling;
        return units < selling.Least ? $"{goods.Figures.Name} is sold from {selling.Least:N0} up."
            : ordered > selling.MaximumPerOrder ? $"At most {selling.MaximumPerOrder:N0} of {goods.Figures.Name} go into one order."
            : null;
    }
}
