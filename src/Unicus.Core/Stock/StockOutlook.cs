namespace Unicus.Core.Stock;

using System.Collections.Immutable;
using Unicus.Core.Variants;

/// <summary>Days from one to another, both counted.</summary>
/// <param name="From">Where it begins.</param>
/// <param name="Until">Not before <paramref name="From"/>; <see cref="DateOnly.MaxValue"/>: without end.</param>
public readonly record struct StockSpan(DateOnly From, DateOnly Until)
{
    /// <summary>One day.</summary>
    public static StockSpan Of(DateOnly day) => new(day, day);

    /// <summary>A day and all after it.</summary>
    public static StockSpan Since(DateOnly day) => new(day, DateOnly.MaxValue);

    /// <summary>Whether a day is in it.</summary>
    public bool Contains(DateOnly day) => From <= day && day <= Until;
}

/// <summary>Units that are to come in.</summary>
/// <param name="Day">When; null where it is not known. A day that has passed promises nothing any more.</param>
/// <param name="Units">1 or more.</param>
public readonly record struct ExpectedReceipt(DateOnly? Day, int Units);

/// <summary>Units that are spoken for on the days of a span, and in no level.</summary>
/// <param name="Span">Its days.</param>
/// <param name="Units">1 or more.</param>
public readonly record struct StockClaim(StockSpan Span, int Units);

/// <summary>What is known of the days to come of a SKU.</summary>
public sealed record StockPlan(ImmutableArray<ExpectedReceipt> Expected, ImmutableArray<StockClaim> Claims)
{
    /// <summary>Of a SKU of which nothing is to come and nothing is claimed.</summary>
    public static StockPlan None { get; } = new([], []);
}

/// <summary>How many units there are, and when: the one place that says so (trading.md, sections 7 and 9). Today is the case of one
/// day.</summary>
/// <param name="levels">The stock of a SKU over all locations; that of one without any is the default.</param>
/// <param name="today">The shop's day.</param>
/// <param name="plans">What is known of the days to come; null: nothing.</param>
public sealed class StockOutlook(Func<Sku, StockLevel> levels, DateOnly today, Func<Sku, StockPlan>? plans = null)
{
    /// <summary>The shop's day.</summary>
    public DateOnly Today => today;

    /// <summary>Where nothing lies: for those who ask only what something is made of, not whether it is there.</summary>
    public static StockOutlook Empty(DateOnly today) => new(_ => default, today);

    /// <summary>The units that nobody takes on any day of a span: what is available now, less the most that is claimed on one of its
    /// days.</summary>
    /// <remarks>What is expected does not count: what may be sold or lent is there. Below 0 where more was sold or claimed than there
    /// is.</remarks>
    public long Units(Sku sku, StockSpan span) => (long)levels(sku).Available - MostClaimed(sku, span);

    /// <summary>C(s, d): the units that are available by a day, with what is expected from today to it.</summary>
    /// <param name="sku">The SKU.</param>
    /// <param name="day">Today or later.</param>
    public long UnitsBy(Sku sku, DateOnly day) =>
        levels(sku).Available + PlanOf(sku).Expected.Where(e => e.Day >= today && e.Day <= day).Sum(e => (long)e.Units);

    /// <summary>The first day on which so many units are available; null where it is not known.</summary>
    /// <param name="sku">The SKU.</param>
    /// <param name="units">1 or more.</param>
    public DateOnly? DayFor(Sku sku, long units)
    {
        if (UnitsBy(sku, today) >= units)
            return today;
        var days = PlanOf(sku).Expected.Select(e => e.Day).OfType<DateOnly>().Where(d => d > today).Distinct().Order();
        return days.Select(d => (DateOnly?)d).FirstOrDefault(d => UnitsBy(sku, d!.Value) >= units);
    }

    /// <summary>How many units of one variant can be sold by itself.</summary>
    public Availability Of(MatrixVariant variant) => Availability.Of(variant.Selling, ForSale(variant.Sku), today);

    /// <summary>Units of a variant that can be sold, 0 or more; null: without limit.</summary>
    public long? CapacityOf(MatrixVariant variant) => Sellable(variant).Units;

    /// <summary>Whether the fewest units that a variant is sold in can be.</summary>
    public bool Sells(MatrixVariant variant) => Sellable(variant).Units is not { } units || units >= variant.Selling.Least;

    internal SellableUnits Sellable(MatrixVariant variant) => SellableUnits.Of(variant.Selling, ForSale(variant.Sku), today);

    /// <summary>The level of a SKU as who buys finds it: what is claimed from today on is not for sale.</summary>
    private StockLevel ForSale(Sku sku)
    {
        var level = levels(sku);
        return plans is null || MostClaimed(sku, StockSpan.Since(today)) is not (> 0 and var claimed)
            ? level
            : level with
            {
                Allocated = level.Allocated + (int)Math.Min(claimed, Movements.MostOfLevel),
            };
    }

    private StockPlan PlanOf(Sku sku) => plans?.Invoke(sku) ?? StockPlan.None;

    /// <summary>The most units that are claimed on one day of a span: that of its first day, or of one on which a claim begins.</summary>
    private long MostClaimed(Sku sku, StockSpan span)
    {
        var claims = PlanOf(sku).Claims;
        return claims
            .Select(c => c.Span.From)
            .Where(span.Contains)
            .Append(span.From)
            .Distinct()
            .Max(day => claims.Where(c => c.Span.Contains(day)).Sum(c => (long)c.Units));
    }
}
