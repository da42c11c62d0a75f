namespace Unicus.Core.Assembling;

using System.Collections.Immutable;

/// <summary>What picks come to: both matter where a floor holds a price.</summary>
/// <param name="Sum">What they add to the list price, in minor units.</param>
/// <param name="Gross">Σ cost × (100 + tax rate) of their leaves, which the floor is made of; null where a cost is not known, so that
/// nothing limits rules.</param>
internal readonly record struct FrontPoint(long Sum, decimal? Gross)
{
    /// <summary>Nothing is picked.</summary>
    public static FrontPoint None { get; } = new(0, 0);

    /// <summary>Both together.</summary>
    public FrontPoint With(FrontPoint other) => new(Sum + other.Sum, Gross + other.Gross);

    /// <summary>The floor's part as a number that orders it: no limit is the lowest.</summary>
    public decimal Held => Gross ?? decimal.MinValue;
}

/// <summary>The picks that no others beat in list price and floor together, at one end.</summary>
/// <param name="Points">In rising order.</param>
/// <param name="IsExact">Whether every point is that of some picks; otherwise they are bounds.</param>
internal sealed record PriceFront(ImmutableArray<FrontPoint> Points, bool IsExact)
{
    /// <summary>Beyond so many points several are put together as one that beats them all.</summary>
    private const int Most = 2_000;

    /// <summary>Of points: those that none is lower than, or as low, in both.</summary>
    public static PriceFront Lowest(IEnumerable<FrontPoint> points, bool isExact = true) => Of(points, isExact, 1);

    /// <summary>Of points: those that none is higher than, or as high, in both.</summary>
    public static PriceFront Highest(IEnumerable<FrontPoint> points, bool isExact = true) => Of(points, isExact, -1);

    private static PriceFront Of(IEnumerable<FrontPoint> points, bool isExact, int way)
    {
        var sorted = points.ToList();
        sorted.Sort((a, b) => way * (a.Sum != b.Sum ? a.Sum.CompareTo(b.Sum) : a.Held.CompareTo(b.Held)));
        var kept = ImmutableArray.CreateBuilder<FrontPoint>();
        foreach (var point in sorted)
            if (kept.Count == 0 || way * point.Held.CompareTo(kept[^1].Held) < 0)
                kept.Add(point);
        if (kept.Count <= Most)
            return new PriceFront(kept.ToImmutable(), isExact);
        // Points stand in order of their sums, so the first of some is the end of one figure and the last of the other.
        var joined = kept.Chunk(1 + kept.Count / Most).Select(some => new FrontPoint(some[0].Sum, some[^1].Gross));
        return new PriceFront([.. joined], false);
    }
}
