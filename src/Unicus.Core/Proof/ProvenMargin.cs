namespace Unicus.Core.Proof;

/// <summary>The lowest margin that a product can be sold at.</summary>
/// <param name="Lowest">The basket of one line that has it: any configuration, every quantity up to
/// <see cref="LowestMargin.MostUnits"/> that is sold, one group, any coupons, one page, any moment. Null where all that can be bought
/// costs nothing.</param>
/// <param name="IsExact">Whether it is the lowest; otherwise it is at least as high as <see cref="Bound"/> says.</param>
/// <param name="Bound">No line of that kind for which something is paid is sold below this margin, in per cent; null where nothing is
/// known.</param>
/// <param name="Unknown">How many variants have a price and no known cost.</param>
public sealed record ProvenMargin(SoldAt? Lowest, bool IsExact, decimal? Bound, int Unknown)
{
    /// <summary>A basket of one line for which nothing is paid, which has no margin; null where none was found.</summary>
    public SoldAt? Free { get; init; }

    /// <summary>No basket of these goods, with any coupons, is sold below this margin by what rules may take off, the floor left aside;
    /// null where rules may give them away.</summary>
    public decimal? ByRules { get; init; }

    /// <summary>No basket of these goods is sold below this margin by their floor; null where some have none.</summary>
    public decimal? AtFloor { get; init; }

    /// <summary>Whether a reduction of the cheapest reaches them, so that what one of them is reduced by hangs on the others.</summary>
    public bool IsPooled { get; init; }
}

/// <summary>The lowest margin over several products.</summary>
/// <param name="Lowest">The product that can be sold lowest.</param>
/// <param name="Basket">No basket is sold below this margin, in per cent; null where something may be given away.</param>
/// <param name="IsExact">Whether <paramref name="Lowest"/> is exact.</param>
/// <param name="Unknown">How many variants have a price and no known cost.</param>
public sealed record RangeMargin(ProvenMargin Lowest, decimal? Basket, bool IsExact, int Unknown)
{
    /// <summary>Puts products together.</summary>
    /// <param name="products">At least one.</param>
    public static RangeMargin Of(IReadOnlyCollection<ProvenMargin> products)
    {
        var bound = new BasketMargin();
        foreach (var product in products)
            bound = bound.With(product);
        return new RangeMargin(
            products.MinBy(p => p.Lowest?.Margin ?? decimal.MaxValue)!,
            bound.Margin,
            products.All(p => p.IsExact),
            products.Sum(p => p.Unknown)
        );
    }
}

/// <summary>No basket of some products is sold below a margin.</summary>
/// <remarks>
/// A line by itself is held by the better of what rules may take and its floor. Where the cheapest of a pool are reduced, one line may
/// pay for another: only the lowest of all by rules, or the lowest of all floors, holds the pool.
/// </remarks>
public sealed record BasketMargin
{
    /// <summary>The lowest of goods in no pool; null where nothing holds one of them.</summary>
    public decimal? Single { get; init; } = 100;

    /// <summary>The lowest by rules of goods in pools; null where they may be given away.</summary>
    public decimal? PoolByRules { get; init; } = 100;

    /// <summary>The lowest floor of goods in pools; null where one has none.</summary>
    public decimal? PoolAtFloor { get; init; } = 100;

    /// <summary>In per cent of what is paid net of tax; null where something may be given away.</summary>
    public decimal? Margin => Lower(Single, Higher(PoolByRules, PoolAtFloor));

    /// <summary>With one product more.</summary>
    public BasketMargin With(ProvenMargin product) =>
        product.IsPooled
            ? this with
            {
                PoolByRules = Lower(PoolByRules, product.ByRules),
                PoolAtFloor = Lower(PoolAtFloor, product.AtFloor),
            }
            : this with
            {
                Single = Lower(Single, Higher(product.ByRules, product.AtFloor)),
            };

    private static decimal? Higher(decimal? a, decimal? b) => a is { } x && b is { } y ? Math.Max(x, y) : a ?? b;

    private static decimal? Lower(decimal? a, decimal? b) => a is { } x && b is { } y ? Math.Min(x, y) : null;
}
