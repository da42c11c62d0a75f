using System.Collections.Immutable;
using CsCheck;
using static Unicus.CoreTests.RuleTerms;

namespace Unicus.CoreTests;

/// <summary>The lowest margin of one line against listing out everything that can be bought: every answer, quantity, mix of coupons, page
/// and moment.</summary>
public class LowestLineTests
{
    private static readonly DateTimeOffset Start = new(2027, 3, 1, 9, 0, 0, TimeSpan.Zero);
    private static readonly string[] Words = ["MAY", "SEVEN"];

    /// <summary>A small range in which everything can be listed out.</summary>
    private sealed record Small(Edition Goods, ImmutableArray<PriceRule> Rules, int Most)
    {
        public RunTerms At(DateTimeOffset at, params string[] coupons)
        {
            var terms = Under(Rules, coupons);
            return terms with { Buying = terms.Buying with { At = at } };
        }
    }

    private static PriceEffect Effect(Random random) =>
        random.Next(9) switch
        {
            0 => new PriceEffect.Reduce(5 + random.Next(40), null),
            1 => new PriceEffect.Reduce(null, 1 + random.Next(600)),
            2 => new PriceEffect.SetUnit(500 + random.Next(2_000)),
            3 => new PriceEffect.Bands(
                random.Next(2) == 0 ? BandMode.AllUnits : BandMode.Incremental,
                false,
                [new BandRow(2 + random.Next(4), 600 + random.Next(2_500), null), new BandRow(7, null, 1 + random.Next(50))]
            ),
            4 => new PriceEffect.Packs([new Pack(2 + random.Next(4), 1_000 + random.Next(5_000))]),
            5 => new PriceEffect.CheapestOff(2 + random.Next(3), 1, 10 * (1 + random.Next(10))),
            6 or 7 => new PriceEffect.ReduceBasket(1 + random.Next(60), null),
            _ => new PriceEffect.ReduceBasket(null, 1 + random.Next(4_000)),
        };

    private static PriceRule Rule(Random random, int number)
    {
        var effect = Effect(random);
        DateTimeOffset? from = random.Next(4) == 0 ? Start.AddDays(random.Next(1, 20)) : null;
        return new PriceRule(Key.Of($"r{number}"), $"Rule {number}", effect)
        {
            Combine = effect.Stage is PriceStage.Unit or PriceStage.Basket ? (Combine)random.Next(3) : Combine.Best,
            When = new PriceWhen
            {
                From = from,
                Until = random.Next(5) == 0 ? (from ?? Start).AddDays(random.Next(1, 9)) : null,
                Weekdays = random.Next(6) == 0 ? [DayOfWeek.Friday] : [],
                QuantityAtLeast = random.Next(4) == 0 ? 2 + random.Next(4) : null,
                BasketAtLeast = effect.Stage == PriceStage.Basket && random.Next(2) == 0 ? random.Next(12_000) : null,
                Coupon = random.Next(3) == 0 ? Words[random.Next(2)] : null,
            },
            Scope = random.Next(8) == 0 ? new PriceScope { Through = "PAGE" } : PriceScope.All,
        };
    }

    private static Small Range(int seed)
    {
        var random = new Random(seed);
        var price = 900 + random.Next(4_000);
        var most = 6 + random.Next(20);
        var product = new Product(ProductCode.Of("P1"), "P")
        {
            Base = Figures.None with { Price = Sample.Eur(price / 100m), Cost = Sample.Eur(price * random.Next(20, 80) / 10_000m) },
            Floor = random.Next(3) == 0 ? new Percentage(random.Next(4) * 8) : null,
            Selling = new Selling { MinimumQuantity = random.Next(3) == 0 ? 1 + random.Next(5) : null, MaximumPerOrder = most },
            Extras =
            [
                new Option(Key.Of("length"), "Length", OptionRole.Extra)
                {
                    Ask = Ask.Number,
                    Required = random.Next(2) == 0,
                    Number = new NumberLimits(random.Next(3), 3 + random.Next(5), 1, null),
                    Surcharge =
                        random.Next(2) == 0
                            ? new Surcharge.PerMeasure(Sample.Eur(random.Next(-40, 60) / 100m))
                            : new Surcharge.Table(null, [Row(2, random), Row(5, random), Row(9, random)]),
                },
                new Option(Key.Of("mark"), "Mark", OptionRole.Extra)
                {
                    Ask = Ask.YesNo,
                    Values =
                    [
                        new OptionValue(Key.Of("yes"), "Yes") { Surcharge = Adding(random), Cost = Sample.Eur(random.Next(200) / 100m) },
                    ],
                },
            ],
        };
        return new Small(RandomRules.Edition(product, 1), [.. Enumerable.Range(0, 1 + random.Next(5)).Select(i => Rule(random, i))], most);
    }

    private static TableRow Row(int max, Random random) => new(max, [new TableCell(0, Sample.Eur(random.Next(-150, 300) / 100m))]);

    private static Surcharge Adding(Random random) =>
        random.Next(3) switch
        {
            0 => new Surcharge.Once(Sample.Eur(random.Next(-300, 800) / 100m)),
            1 => new Surcharge.Percent(new Percentage(random.Next(-10, 30))),
            _ => new Surcharge.PerUnit(Sample.Eur(random.Next(-100, 500) / 100m)),
        };

    /// <summary>Every complete answer.</summary>
    private static IEnumerable<Configuration> Answers(Edition goods)
    {
        var length = goods.Product.Extras[0];
        var numbers = Enumerable.Range(0, 12).Select(n => (Answer?)new Answer.Number(n));
        foreach (var number in length.Required ? numbers : numbers.Prepend(null))
            foreach (var mark in new Answer[] { new Answer.None(), new Answer.Value(Key.Of("yes")) })
            {
                var given = Configuration.Empty.With(Key.Of("mark"), mark);
                if (number is null)
                    yield return given;
                else if (AnswerLimits.Problem(length, number, default) is null)
                    yield return given.With(length.Key, number);
            }
    }

    private static PricedLine? Priced(RunLine line, RunTerms terms) =>
        PriceRun.Of([line], terms, PublishedRange.Empty, trace: false).Basket?.Lines[0];

    /// <summary>The lowest margin for which something is paid.</summary>
    private static decimal? Listed(Small small)
    {
        decimal? lowest = null;
        var goods = new VariantOnSale(small.Goods, small.Goods.Matrix.Variants[0]);
        // Every three hours of forty days, each set of rules in force once.
        var moments = Enumerable
            .Range(0, 320)
            .Select(h => Start.AddHours(3 * h))
            .DistinctBy(at => string.Concat(small.Rules.Select(r => PriceBook.IsInForce(r, at, at.DayOfWeek) ? '1' : '0')));
        string[][] mixes =
        [
            [],
            ["MAY"],
            ["SEVEN"],
            ["MAY", "SEVEN"],
        ];
        foreach (var at in moments)
            foreach (var mix in mixes)
                foreach (var page in new[] { "P1", "PAGE" })
                    foreach (var answers in Answers(small.Goods))
                        for (var units = goods.Variant.Selling.Least; units <= small.Most; units++)
                        {
                            var line = new RunLine(goods, answers, units, [new LeafNeed(LeafPath.Own, goods, 1, "")], page);
                            if (Priced(line, small.At(at, mix)) is not { } priced)
                                continue;
                            var paid = priced.Total + priced.Reduction;
                            var net = paid.Amount - new Percentage(20).ContainedIn(paid).Amount;
                            var margin = net <= 0 ? null : (decimal?)((net - priced.Cost!.Value.Amount) * 100 / net);
                            if (margin is not null && !(margin >= lowest))
                                lowest = margin;
                        }
        return lowest;
    }

    /// <summary>The law: what is proven is what listing out finds, and the basket that is shown can be bought and has it.</summary>
    [Fact]
    public void What_is_proven_is_the_lowest_of_all_that_can_be_bought()
    {
        var exact = 0;
        Gen.Int.Sample(
            seed =>
            {
                var small = Range(seed);
                var terms = small.At(Start);
                var proven = new LowestMargin(terms, PublishedRange.Empty, _ => ["PAGE"]).Of(small.Goods);
                var listed = Listed(small);
                Assert.Equal(listed is null, proven?.Lowest is null);
                if (proven is not { Lowest: { } lowest })
                    return;
                if (proven.IsExact)
                {
                    Interlocked.Increment(ref exact);
                    Assert.Equal(listed, lowest.Margin);
                    var basket = lowest.Basket(terms, PublishedRange.Empty)!;
                    Assert.Equal(lowest.Paid, MinorUnits.Of(basket.Lines[0].Total + basket.Lines[0].Reduction));
                    Assert.Equal(basket.Lines[0].Total + basket.Lines[0].Reduction, lowest.Working(terms, PublishedRange.Empty)!.Total);
                }
                else
                    Assert.True(proven.Bound is null || proven.Bound <= listed, $"{proven.Bound} is above {listed}");
            },
            iter: 40
        );
        Assert.True(exact > 20, $"only {exact} were exact");
    }

    /// <summary>One in two at 80 % off leaves four of eight units, of which one in four is reduced by 40 %: eight units are the lowest, not
    /// four or ten. (Found by the law above.)</summary>
    [Fact]
    public void A_reduction_of_the_cheapest_begins_anew_over_what_another_leaves()
    {
        var goods = RandomRules.Edition(
            new Product(ProductCode.Of("P1"), "P")
            {
                Base = Figures.None with { Price = Sample.Eur(44.45m), Cost = Sample.Eur(33.41m) },
                Selling = new Selling { MaximumPerOrder = 13 },
            },
            1
        );
        PriceRule[] rules =
        [
            new(Key.Of("half"), "Half", new PriceEffect.CheapestOff(2, 1, 80)),
            new(Key.Of("rest"), "Rest", new PriceEffect.CheapestOff(4, 1, 40)),
        ];
        var lowest = new LowestMargin(Under(rules), PublishedRange.Empty).Of(goods)!.Lowest!;
        Assert.Equal((8, 19558L), (lowest.Quantity, lowest.Paid));
    }

    /// <summary>Short, 38.00 less 25 % would be 28.50, so 30.00 for the goods, 28.00 short, stands alone, and keeps the band off. Not
    /// short, 25 % off 40.00 are no more than 30.00: the band acts, and 10 units cost 15.00 each. (Found by the law above.)</summary>
    [Fact]
    public void A_dearer_answer_may_cost_less_where_a_rule_stands_alone()
    {
        var goods = RandomRules.Edition(
            new Product(ProductCode.Of("P1"), "P")
            {
                Base = Figures.None with { Price = Sample.Eur(40), Cost = Sample.Eur(10) },
                Selling = new Selling { MaximumPerOrder = 10 },
                Extras =
                [
                    new Option(Key.Of("short"), "Short", OptionRole.Extra)
                    {
                        Ask = Ask.YesNo,
                        Values = [new OptionValue(Key.Of("yes"), "Yes") { Surcharge = new Surcharge.PerUnit(Sample.Eur(-2)) }],
                    },
                ],
            },
            1
        );
        PriceRule[] rules =
        [
            new(Key.Of("alone"), "Alone", new PriceEffect.SetUnit(3_000)) { Combine = Combine.Alone },
            new(Key.Of("quarter"), "A quarter", new PriceEffect.Reduce(25, null)) { Combine = Combine.Adds },
            new(Key.Of("ten"), "From ten", new PriceEffect.Bands(BandMode.AllUnits, false, [new BandRow(10, null, 50)])),
        ];
        var lowest = new LowestMargin(Under(rules), PublishedRange.Empty).Of(goods)!.Lowest!;
        Assert.Equal((10, 15_000L), (lowest.Quantity, lowest.Paid));
        Assert.Equal(new Answer.None(), lowest.Answers[Key.Of("short")]);
    }

    /// <summary>36.00 with 20 % inside less 10 % of the basket is 32.40, 27.00 net; 20.00 of it are cost: 25.9 % are left.</summary>
    [Fact]
    public void Reductions_of_the_basket_are_in_it()
    {
        var goods = RandomRules.Edition(
            new Product(ProductCode.Of("P1"), "P") { Base = Figures.None with { Price = Sample.Eur(36), Cost = Sample.Eur(20) } },
            1
        );
        var rule = new PriceRule(Key.Of("tenth"), "A tenth", new PriceEffect.ReduceBasket(10, null));
        var proven = new LowestMargin(Under([rule]), PublishedRange.Empty).Of(goods)!;
        Assert.True(proven.IsExact);
        Assert.Equal(25.9m, Math.Round(proven.Lowest!.Margin!.Value, 1));
        var working = proven.Lowest.Working(Under([rule]), PublishedRange.Empty)!;
        Assert.Equal([(PriceStep.List, 36m), (PriceStep.Basket, -3.6m)], working.Steps.Select(s => (s.Step, s.Amount.Amount)));
    }

    /// <summary>What is sold only as a part has no margin of its own, but where a page presents it.</summary>
    [Fact]
    public void What_cannot_be_bought_is_not_in_it()
    {
        var part = RandomRules.Edition(
            new Product(ProductCode.Of("P1"), "P")
            {
                Base = Figures.None with { Price = Sample.Eur(36), Cost = Sample.Eur(50) },
                Shelf = new Shelf { Alone = false },
            },
            1
        );
        Assert.Null(new LowestMargin(Under([]), PublishedRange.Empty).Of(part));
        Assert.Equal("PAGE", new LowestMargin(Under([]), PublishedRange.Empty, _ => ["PAGE"]).Of(part)!.Lowest!.By.Through);
    }

    /// <summary>A number from 0 to 20 at −0.30 each takes 6.00 off at most; the basket that is shown says so.</summary>
    [Fact]
    public void The_working_shows_what_a_number_takes_off()
    {
        var goods = RandomRules.Edition(
            new Product(ProductCode.Of("P1"), "P")
            {
                Base = Figures.None with { Price = Sample.Eur(36), Cost = Sample.Eur(20) },
                Extras =
                [
                    new Option(Key.Of("short"), "Shorter by", OptionRole.Extra)
                    {
                        Ask = Ask.Number,
                        Number = new NumberLimits(0, 20, 1, "mm"),
                        Surcharge = new Surcharge.PerMeasure(Sample.Eur(-0.3m)),
                    },
                ],
            },
            1
        );
        var lowest = new LowestMargin(Under([]), PublishedRange.Empty).Of(goods)!.Lowest!;
        Assert.Equal(new Answer.Number(20), lowest.Answers[Key.Of("short")]);
        Assert.Contains(lowest.Working(Under([]), PublishedRange.Empty)!.Steps, s => s.Amount.Amount == -6m);
    }

    /// <summary>An answer that adds more than the list price, and costs nearly as much: 13.50 of 15.00 are paid, 11.25 net, 10.90 of it
    /// are cost. The bound for baskets looks at it too.</summary>
    [Fact]
    public void An_answer_dearer_than_its_goods_is_in_the_bound()
    {
        var goods = RandomRules.Edition(
            new Product(ProductCode.Of("P1"), "P")
            {
                Base = Figures.None with { Price = Sample.Eur(5), Cost = Sample.Eur(1) },
                Extras =
                [
                    new Option(Key.Of("gold"), "Gold", OptionRole.Extra)
                    {
                        Ask = Ask.YesNo,
                        Values =
                        [
                            new OptionValue(Key.Of("yes"), "Yes")
                            {
                                Surcharge = new Surcharge.PerUnit(Sample.Eur(10)),
                                Cost = Sample.Eur(9.90m),
                            },
                        ],
                    },
                ],
            },
            1
        );
        var rule = new PriceRule(Key.Of("tenth"), "A tenth", new PriceEffect.ReduceBasket(10, null));
        var proven = new LowestMargin(Under([rule]), PublishedRange.Empty).Of(goods)!;
        Assert.Equal(3.1m, Math.Round(proven.Lowest!.Margin!.Value, 1));
        Assert.InRange(proven.ByRules!.Value, 0, proven.Lowest.Margin.Value);
    }
}
