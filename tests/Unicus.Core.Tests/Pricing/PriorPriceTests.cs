using CsCheck;

namespace Unicus.CoreTests;

/// <summary>The was price by Directive 98/6/EC, Article 6a: the lowest of the 30 days before the reduction.</summary>
public class PriorPriceTests
{
    private static readonly DateTimeOffset Start = new(2027, 1, 1, 0, 0, 0, TimeSpan.Zero);

    private static PublicPrice Day(int day, long list, long? price) => new(Start.AddDays(day), list, price);

    private static long? Of(params PublicPrice[] oldestFirst) => PriorPrice.Of(oldestFirst.Reverse());

    [Fact]
    public void A_reduction_has_the_lowest_price_of_the_thirty_days_before() =>
        Assert.Equal(4_500, Of(Day(0, 5_000, 5_000), Day(60, 5_000, 4_500), Day(70, 5_000, 5_000), Day(80, 5_000, 4_000)));

    [Fact]
    public void What_lies_more_than_thirty_days_back_does_not_count() =>
        Assert.Equal(5_000, Of(Day(0, 5_000, 3_000), Day(10, 5_000, 5_000), Day(40, 5_000, 4_000)));

    [Fact]
    public void A_reduction_that_grows_step_by_step_keeps_the_price_before_its_first_step() =>
        Assert.Equal(5_000, Of(Day(0, 5_000, 5_000), Day(40, 5_000, 4_500), Day(90, 5_000, 4_000), Day(120, 5_000, 3_000)));

    [Fact]
    public void A_reduction_that_shrinks_begins_anew() =>
        Assert.Equal(3_000, Of(Day(0, 5_000, 5_000), Day(40, 5_000, 3_000), Day(50, 5_000, 4_000)));

    [Fact]
    public void A_lower_list_price_is_no_reduction() => Assert.Null(Of(Day(0, 5_000, 5_000), Day(40, 4_000, 4_000)));

    [Fact]
    public void Without_history_before_it_there_is_none() => Assert.Null(Of(Day(0, 5_000, 4_000)));

    [Fact]
    public void Days_off_sale_break_a_reduction_and_have_no_price() =>
        Assert.Equal(4_000, Of(Day(0, 5_000, 5_000), Day(10, 5_000, 4_000), Day(30, 0, null), Day(36, 5_000, 4_000)));

    /// <summary>Day by day, written from the text alone.</summary>
    [Fact]
    public void It_is_that_of_a_second_reading() =>
        Gen.Select(Gen.Long[1, 4], Gen.Long[0, 4])
            .Array[1, 150]
            .Sample(
                days =>
                {
                    // A price is at most the list price; 0 stands for a day off sale.
                    var prices = days.Select(d => (List: d.Item1 + 10, Price: d.Item2 == 0 ? (long?)null : Math.Min(d.Item1, d.Item2) + 10))
                        .ToArray();
                    bool IsReduced(int d) => prices[d].Price < prices[d].List;
                    var last = prices.Length - 1;
                    long? expected = null;
                    if (IsReduced(last))
                    {
                        var first = last;
                        while (first > 0 && IsReduced(first - 1) && prices[first - 1].Price >= prices[first].Price)
                            first--;
                        expected = prices[Math.Max(0, first - 30)..first].Min(p => p.Price);
                    }
                    Assert.Equal(expected, Of([.. prices.Select((p, d) => Day(d, p.List, p.Price))]));
                },
                iter: 5_000
            );
}
