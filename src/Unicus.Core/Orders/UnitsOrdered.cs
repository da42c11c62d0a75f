namespace Unicus.Core.Orders;

/// <summary>Units of goods that were ordered.</summary>
/// <param name="Ordered">Cancelled ones left aside.</param>
/// <param name="Sent">Of these.</param>
public sealed record UnitsOrdered(long Ordered, long Sent)
{
    /// <summary>None.</summary>
    public static UnitsOrdered None { get; } = new(0, 0);

    /// <summary>Both together.</summary>
    public static UnitsOrdered operator +(UnitsOrdered a, UnitsOrdered b) => new(a.Ordered + b.Ordered, a.Sent + b.Sent);

    /// <summary>Units of the goods of lines, by what became of the first leaf of each.</summary>
    public static UnitsOrdered Of(IEnumerable<OrderLine> lines) => lines.Select(Of).Aggregate(None, (a, b) => a + b);

    private static UnitsOrdered Of(OrderLine line)
    {
        var first = line.Leaves.FirstOrDefault();
        var perUnit = first is null ? 1 : Math.Max(1, first.Units / line.Quantity);
        return new UnitsOrdered(line.Quantity - (first?.Dropped ?? 0) / perUnit, (first?.Sent ?? 0) / perUnit);
    }
}
