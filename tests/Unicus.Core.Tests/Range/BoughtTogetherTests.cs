using CsCheck;

namespace Unicus.CoreTests;

/// <summary>What was bought together, against a plain count.</summary>
public class BoughtTogetherTests
{
    /// <summary>Worked by hand: in 10 orders honey stands in 5, jars in 4, both in 4, so the lift is 4 · 10 / (5 · 4) = 2.</summary>
    [Fact]
    public void Lift_says_how_many_times_as_often_as_by_chance()
    {
        int[][] orders =
        [
            [1, 2],
            [1, 2, 2],
            [2, 1],
            [1, 2],
            [1],
            [3],
            [3],
            [4],
            [4],
            [5],
        ];
        var found = BoughtTogether.Find(orders, 3, 10);
        Assert.Equal([new BoughtPair(1, 2, 4, 2), new BoughtPair(2, 1, 4, 2)], found);
        Assert.Empty(BoughtTogether.Find(orders, 5, 10));
    }

    /// <summary>An order of very many products is stock for another shop.</summary>
    [Fact]
    public void Very_long_orders_are_left_out()
    {
        int[] all = [.. Enumerable.Range(1, BoughtTogether.MostProducts + 1)];
        Assert.Empty(BoughtTogether.Find([all, all, all, [99], [98], [97]], 2, 5));
    }

    /// <summary>Random histories: the pairs, their orders and lifts are those of counting every pair of products in every order.</summary>
    [Fact]
    public void It_is_what_a_plain_count_gives() =>
        Gen.Int[0, 12]
            .Array[0, 6]
            .Array[0, 60]
            .Select(Gen.Int[1, 4])
            .Sample(
                (orders, least) =>
                {
                    var plain = new List<BoughtPair>();
                    for (var a = 0; a <= 12; a++)
                        for (var b = 0; b <= 12; b++)
                        {
                            var both = orders.Count(o => o.Contains(a) && o.Contains(b));
                            if (a == b || both < least)
                                continue;
                            var (ofA, ofB) = (orders.Count(o => o.Contains(a)), orders.Count(o => o.Contains(b)));
                            var lift = (double)both * orders.Length / ((double)ofA * ofB);
                            if (lift > 1)
                                plain.Add(new BoughtPair(a, b, both, lift));
                        }
                    var found = BoughtTogether.Find(orders, least, 100);
                    Assert.Equal(
                        plain.Select(p => (p.Product, p.Other, p.Orders, Math.Round(p.Lift, 9))).Order(),
                        found.Select(p => (p.Product, p.Other, p.Orders, Math.Round(p.Lift, 9))).Order()
                    );
                }
            );
}
