using System.Collections.Immutable;
using CsCheck;

namespace Unicus.Core.Tests;

public class LowestMarginTests
{
    private static readonly TradeTerms Terms = new(
        Currency.Euro,
        true,
        [new TaxClass(Key.Of("standard"), "Standard")],
        [new Destination("IE", "Ireland", ImmutableSortedDictionary<string, decimal>.Empty.Add("standard", 20), [])]
    );

    private static RunTerms Under(IEnumerable<PriceRule> rules, params string[] coupons) =>
        new(Terms, Terms.Destinations[0])
        {
            Buying = Buying.Anyone(DateTimeOffset.UnixEpoch, TimeZoneInfo.Utc, new PriceBook(rules, [])) with
            {
                Coupons = [.. coupons.Select(c => new NamedCoupon(c))],
            },
        };

    private static ProvenMargin? Prove(RandomRules.Case c, int edition) =>
        new LowestMargin(Under(c.Rules), PublishedRange.Empty).Of(c.Editions[edition]);

    /// <summary>The margin of what is paid for lines, reductions of the basket taken off: null where nothing is paid.</summary>
    private static decimal? MarginOf(IEnumerable<RunLine> lines, RunTerms terms, RandomRules.Case c, bool withBasket)
    {
        var basket = PriceRun.Of([.. lines], terms, new PublishedRange.Of(c.Editions), trace: false).Basket;
        if (basket is null)
            return 100;
        var paid = basket.Lines.Select(l => (Line: l, Paid: l.Total + (withBasket ? l.Reduction : Money.Zero(Currency.Euro)))).ToList();
        var net = paid.Sum(p => p.Paid.Amount - new Percentage(20).ContainedIn(p.Paid).Amount);
        var cost = paid.Sum(p => p.Line.Cost!.Value.Amount);
        return net <= 0 ? null : (net - cost) * 100 / net;
    }

    private static RunLine Line(Edition edition, MatrixVariant variant, int ticks, int quantity, bool through)
    {
        var goods = new VariantOnSale(edition, variant);
        ImmutableArray<Key> keys = [.. (ticks & 1) > 0 ? new[] { Key.Of("each") } : [], .. (ticks & 2) > 0 ? new[] { Key.Of("once") } : []];
        var answers = Configuration.Empty.With(Key.Of("mark"), keys.IsEmpty ? new Answer.None() : new Answer.Ticks(keys));
        return new RunLine(goods, answers, quantity, [new LeafNeed(LeafPath.Own, goods, 1, "")], through ? "PAGE" : null);
    }

    private static IEnumerable<int> Quantities(Random random) =>
        Enumerable.Range(1, 15).Concat(Enumerable.Range(0, 8).Select(_ => random.Next(1, 1001))).Append(1000);

    /// <summary>The law: no line alone with one coupon, at any quantity up to 1,000, has a lower margin, and one has it.</summary>
    [Fact]
    public void No_line_has_a_lower_margin_than_the_one_that_is_shown() =>
        Gen.Select(RandomRules.Cases, Gen.Int)
            .Sample(
                (c, seed) =>
                {
                    if (Prove(c, 0) is not { } proven)
                        return;
                    var random = new Random(seed);
                    Assert.True(proven.IsExact);
                    var (lowest, edition) = (proven.Lowest, c.Editions[0]);
                    var shown = new RunLine(
                        lowest.Goods,
                        lowest.Answers,
                        lowest.Quantity,
                        [new LeafNeed(LeafPath.Own, lowest.Goods, 1, "")],
                        lowest.By.Through
                    );
                    var terms = Under(c.Rules, lowest.By.Coupon is { } coupon ? [coupon.Code] : []);
                    Assert.Equal(lowest.Margin, MarginOf([shown], terms, c, withBasket: false));
                    for (var i = 0; i < 6; i++)
                    {
                        var variant = edition.Matrix.Variants[random.Next(4)];
                        var (ticks, through, with) = (random.Next(4), random.Next(2) == 0, random.Next(2) == 0);
                        foreach (var units in Quantities(random))
                        {
                            var line = Line(edition, variant, ticks, units, through);
                            var margin = MarginOf([line], Under(c.Rules, with ? ["May"] : []), c, withBasket: false);
                            Assert.True(
                                lowest.Margin is null || margin >= lowest.Margin,
                                $"{units} of {variant.Sku} with {ticks} at {margin}, below {lowest.Margin}"
                            );
                        }
                    }
                },
                iter: 40
            );

    /// <summary>The law: whatever lies in a basket, its margin is never below the bound.</summary>
    [Fact]
    public void No_basket_has_a_lower_margin_than_the_bound() =>
        RandomRules.Cases.Sample(
            c =>
            {
                var known = c.Lines.Where(l => l.Goods.Figures.Cost is not null).ToList();
                if (known.Count == 0)
                    return;
                var bound = BoundOf([.. Enumerable.Range(0, 3).Select(i => Prove(c, i)).OfType<ProvenMargin>()]);
                var margin = MarginOf(known, Under(c.Rules, c.Coupon ? ["MAY"] : []), c, withBasket: true);
                Assert.True(bound is null || margin >= bound, $"{margin} is below {bound}");
            },
            iter: 700
        );

    private static decimal? BoundOf(IReadOnlyList<ProvenMargin> proven) => RangeMargin.Of(proven).Basket;
}
