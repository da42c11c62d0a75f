using CsCheck;

namespace Unicus.CoreTests;

/// <summary>How many units there are, and when.</summary>
public class StockOutlookTests
{
    private static readonly Sku Sku = Sku.Of("HIVE");
    private static readonly DateOnly Today = new(2027, 5, 1);

    private static readonly Gen<(StockLevel Level, StockPlan Plan)> Stocks = Gen.Select(
        Gen.Int[0, 9],
        Gen.Int[0, 12],
        Gen.Select(Gen.Int[-4, 12], Gen.Int[1, 5], Gen.Bool)
            .Select((day, units, dated) => new ExpectedReceipt(dated ? Today.AddDays(day) : null, units))
            .Array[0, 5],
        Gen.Select(Gen.Int[-4, 12], Gen.Int[0, 6], Gen.Int[1, 4])
            .Select((day, days, units) => new StockClaim(new StockSpan(Today.AddDays(day), Today.AddDays(day + days)), units))
            .Array[0, 5],
        (onHand, allocated, expected, claims) => (new StockLevel(onHand, allocated, 0, 0), new StockPlan([.. expected], [.. claims]))
    );

    private static StockOutlook Of(StockLevel level, StockPlan plan) => new(_ => level, Today, _ => plan);

    /// <summary>Law: over a span there are as many as on the day on which most are claimed; on one day, what is available less what is
    /// claimed on it.</summary>
    [Fact]
    public void A_span_is_the_least_of_its_days() =>
        Gen.Select(Stocks, Gen.Int[0, 10], Gen.Int[0, 8])
            .Sample(
                (stock, first, days) =>
                {
                    var outlook = Of(stock.Level, stock.Plan);
                    var all = Enumerable.Range(first, days + 1).Select(d => Today.AddDays(d)).ToList();
                    long On(DateOnly day) => stock.Level.Available - stock.Plan.Claims.Where(c => c.Span.Contains(day)).Sum(c => c.Units);
                    Assert.Equal(all.Min(On), outlook.Units(Sku, new StockSpan(all[0], all[^1])));
                    Assert.Equal(On(all[0]), outlook.Units(Sku, StockSpan.Of(all[0])));
                }
            );

    /// <summary>Law: the first day for so many units is the first on which that many are available, found by trying every day.</summary>
    [Fact]
    public void The_first_day_is_found_by_trying() =>
        Gen.Select(Stocks, Gen.Int[1, 20])
            .Sample(
                (stock, units) =>
                {
                    var outlook = Of(stock.Level, stock.Plan);
                    var tried = Enumerable.Range(0, 20).Select(d => (DateOnly?)Today.AddDays(d)).ToList();
                    long By(DateOnly day) =>
                        stock.Level.Available + stock.Plan.Expected.Where(e => e.Day >= Today && e.Day <= day).Sum(e => e.Units);
                    Assert.All(tried, d => Assert.Equal(By(d!.Value), outlook.UnitsBy(Sku, d.Value)));
                    Assert.Equal(tried.Find(d => By(d!.Value) >= units), outlook.DayFor(Sku, units));
                }
            );

    /// <summary>trading.md, section 7: on hand 4, allocated 6, expected 5 on 3 May and 10 on 20 May; one more can be had on 3 May, four
    /// more on 20 May. What is overdue or has no day counts for none.</summary>
    [Fact]
    public void The_worked_example_of_the_day()
    {
        var plan = new StockPlan(
            [
                new ExpectedReceipt(new DateOnly(2027, 5, 20), 10),
                new ExpectedReceipt(new DateOnly(2027, 5, 3), 5),
                new ExpectedReceipt(null, 50),
                new ExpectedReceipt(new DateOnly(2027, 4, 30), 50),
            ],
            []
        );
        var outlook = Of(new StockLevel(4, 6, 0, 0), plan);
        Assert.Equal(-2, outlook.Units(Sku, StockSpan.Of(Today)));
        Assert.Equal(3, outlook.UnitsBy(Sku, new DateOnly(2027, 5, 3)));
        Assert.Equal(new DateOnly(2027, 5, 3), outlook.DayFor(Sku, 1));
        Assert.Equal(new DateOnly(2027, 5, 20), outlook.DayFor(Sku, 4));
        Assert.Null(outlook.DayFor(Sku, 14));
        Assert.Equal(Today, Of(new StockLevel(4, 1, 0, 0), plan).DayFor(Sku, 3));
    }

    /// <summary>Law: of goods that are claimed for days to come so many can be sold as nobody claims on any day from today on.</summary>
    [Fact]
    public void What_is_claimed_later_is_not_for_sale() =>
        Stocks.Sample(
            (level, plan) =>
            {
                var outlook = Of(level, plan);
                var variant = Sample.Hive.Matrix().Variants[0];
                Assert.Equal(Math.Max(0, outlook.Units(Sku, StockSpan.Since(Today))), outlook.CapacityOf(variant));
                Assert.Equal(outlook.CapacityOf(variant), outlook.Of(variant).Units);
            }
        );
}
