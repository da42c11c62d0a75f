namespace Unicus.Core.Orders;

using System.Collections.Immutable;
using Unicus.Core.Money;

/// <summary>A row of what customs ask of a parcel.</summary>
/// <param name="Leaf">The goods.</param>
/// <param name="Units">That were or will be sent.</param>
/// <param name="Grams">Of them all; null where its weight was not known.</param>
/// <param name="Value">What was paid for them.</param>
public sealed record CustomsRow(OrderLeaf Leaf, int Units, long? Grams, Money Value)
{
    /// <summary>Whether it lacks code, origin or weight.</summary>
    public bool IsIncomplete => Leaf.CustomsCode is null || Leaf.Origin is null || Grams is null;
}

/// <summary>What customs ask of a parcel: every leaf that is sent, without the units that were dropped.</summary>
public static class CustomsSheet
{
    /// <summary>The rows, in the order of lines and leaves.</summary>
    public static ImmutableArray<CustomsRow> Of(Order order) =>
        [
            .. order
                .Leaves.Where(l => l.Shipped && l.Units > l.Dropped)
                .Select(l => new CustomsRow(
                    l,
                    l.Units - l.Dropped,
                    l.WeightGrams is { } grams ? (long)grams * (l.Units - l.Dropped) : null,
                    l.Allocated - MoneyBack.Goods(l)
                )),
        ];
}
