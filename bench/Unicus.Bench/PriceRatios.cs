using System.Collections.Immutable;
using System.Diagnostics;

namespace Unicus.Bench;

/// <summary>Prices by rules against a hand-written loop over arrays of integers that does the same additions, percentages, comparisons
/// and roundings.</summary>
internal static class PriceRatios
{
    private const int Lines = 10_000;
    private const int Rules = 30;
    private const int Rounds = 90;
    private static readonly int[] Sizes = [10, 20, 50, 100, 200, 300, 400, 600, 800, 1_000];

    public static void Run()
    {
        var (edition, rules) = (Product(), MakeRules());
        var lines = Basket(edition);
        var terms = new RunTerms(
            new TradeTerms(Currency.Euro, true, [new TaxClass(Key.Of("standard"), "Standard")], []) { Floor = new Percentage(20) },
            null
        )
        {
            Buying = RuleContext.Anyone(DateTimeOffset.UnixEpoch, TimeZoneInfo.Utc, new PriceBook(rules, [])),
        };
        var range = new PublishedRange.Of([edition]);
        var (list, answers, floor) = (
            lines.Select(l => MinorUnits.Of(l.Goods.Variant.Price.Figure!.Value)).ToArray(),
            lines.Select(l => l.Answers.Given.IsEmpty ? 0L : 150).ToArray(),
            lines.Select(l => (long)Math.Ceiling(l.Goods.Variant.Cost.Figure!.Value.Amount * 100 / 0.8m)).ToArray()
        );
        var quantity = lines.Select(l => l.Quantity).ToArray();
        object Bare() => PriceRun.Of(lines, terms, range, trace: false);
        object Traced() => PriceRun.Of(lines, terms, range, trace: true).Basket!.Lines.Sum(l => l.Working.Steps.Length);
        object Looped() => Loop(list, answers, floor, quantity, rules);
        // As they are compiled in a shop that is open, the loop too.
        _ = (Median(Looped), Median(Bare), Median(Traced));
        var (bare, loop) = InTurn(Bare, Looped);
        var (traced, loopAgain) = InTurn(Traced, Looped);
        var sum = PriceRun.Of(lines, terms, range, trace: false).Basket!.Lines.Sum(l => MinorUnits.Of(l.Total));
        if (sum != Loop(list, answers, floor, quantity, rules))
            throw new InvalidOperationException("The loop and the engine come to different prices.");
        Report.Row(
            "price 10,000 configured lines with 30 rules, no working, ms",
            bare,
            "a loop over integers",
            loop,
            bare / loop,
            "at most 3"
        );
        Report.Row("the same with working, ms", traced, "the loop", loopAgain, traced / loopAgain, "at most 10");
        Picks(rules);
        Growth(lines, bare, some => PriceRun.Of(some, terms, range, trace: false));
    }

    /// <summary>How long baskets of more and more lines take.</summary>
    /// <param name="whole">What all lines take together, in milliseconds.</param>
    private static void Growth(RunLine[] lines, double whole, Func<RunLine[], object> price)
    {
        (int Lines, double Milliseconds) Took(RunLine[] some) => (some.Length, Median(() => price(some)));
        var took = Sizes.Select(count => Took([.. lines.Take(count)])).ToList();
        foreach (var (count, milliseconds) in took.Where(t => t.Lines is 10 or 100 or 1_000))
            Report.Row(
                $"price a basket of {count:N0} lines, ms",
                milliseconds,
                "its part of 10,000 lines",
                whole * count / lines.Length,
                milliseconds / (whole * count / lines.Length),
                "about 1"
            );
        if (Environment.GetEnvironmentVariable("UNICUS_PLOTS") is { } folder)
            File.WriteAllText(
                Path.Combine(folder, "basket-growth.svg"),
                BasketPlot.Draw([.. took.Select(t => (t.Lines, 1_000 * t.Milliseconds))])
            );
    }

    /// <summary>Answers to a shopper's picks with thirty rules for prices in force, on forty questions with 120 rules over
    /// answers.</summary>
    private static void Picks(ImmutableArray<PriceRule> rules)
    {
        var product = RuleRatios.Priced(RuleRatios.Mixed(40, 8, 120));
        var edition = new Edition(2, 1, DateTimeOffset.UnixEpoch, product, product.Matrix()) { Sets = [] };
        var terms = new RunTerms(new TradeTerms(Currency.Euro, true, [], []), null)
        {
            Buying = RuleContext.Anyone(DateTimeOffset.UnixEpoch, TimeZoneInfo.Utc, new PriceBook(rules, [])),
        };
        var stock = new StockOutlook(_ => new StockLevel(1000, 0, 0, 0), DateOnly.MinValue);
        var status = new ConfigurationTerms(PublishedRange.Empty, stock, terms);
        var times = PickTimes.Of(edition, status);
        var p99 = times.Order().ElementAt(times.Count * 99 / 100);
        Report.Row(
            "answer to a pick with 30 rules for prices in force, price and span, 99th percentile, ms",
            p99,
            "limit",
            1,
            p99,
            "at most 1"
        );
    }

    /// <summary>The same in one loop: thirty rules of four kinds at stage 3, bands at stage 4, the floor behind both.</summary>
    private static long Loop(long[] list, long[] answers, long[] floor, int[] quantity, ImmutableArray<PriceRule> rules)
    {
        var percents = rules.Select(r => (r.Effect as PriceEffect.Reduce)?.Percent is { } p ? (long)(p * 100) : -1).ToArray();
        var amounts = rules.Select(r => (r.Effect as PriceEffect.Reduce)?.Amount ?? -1).ToArray();
        var sets = rules.Select(r => (r.Effect as PriceEffect.SetUnit)?.Price ?? -1).ToArray();
        var from = rules.Select(r => (r.Effect as PriceEffect.Bands)?.Rows[0].From ?? -1).ToArray();
        var off = rules.Select(r => (r.Effect as PriceEffect.Bands)?.Rows[0].Percent is { } p ? (long)(p * 100) : -1).ToArray();
        var sum = 0L;
        for (var i = 0; i < list.Length; i++)
        {
            var start = list[i] + answers[i];
            var best = start;
            for (var r = 0; r < percents.Length; r++)
            {
                var result =
                    percents[r] >= 0 ? (2 * start * (10_000 - percents[r]) + 10_000) / 20_000
                    : amounts[r] >= 0 ? Math.Max(0, start - amounts[r])
                    : sets[r] >= 0 ? Math.Min(start, sets[r] + answers[i])
                    : start;
                best = Math.Min(best, result);
            }
            var room = Math.Max(0, list[i] - floor[i]);
            var unit = Math.Max(best, start - room);
            var goods = unit * quantity[i];
            var least = goods;
            for (var r = 0; r < percents.Length; r++)
                if (from[r] > 0 && quantity[i] >= from[r])
                    least = Math.Min(least, (2 * unit * (10_000 - off[r]) + 10_000) / 20_000 * quantity[i]);
            sum += Math.Max(least, start * quantity[i] - room * quantity[i]);
        }
        return sum;
    }

    private static ImmutableArray<PriceRule> MakeRules() =>
        [
            .. Enumerable
                .Range(0, Rules)
                .Select(i => new PriceRule(
                    Key.Of($"r{i}"),
                    $"Rule {i}",
                    (i % 4) switch
                    {
                        0 => new PriceEffect.Reduce(5 + i / 4, null),
                        1 => new PriceEffect.Reduce(null, 100 + 10 * i),
                        2 => new PriceEffect.SetUnit(4_000 - 20 * i),
                        _ => new PriceEffect.Bands(BandMode.AllUnits, false, [new BandRow(5 + i, null, 2 + i / 4)]),
                    }
                )),
        ];

    private static Edition Product()
    {
        Option Axis(string key, int count, int step) =>
            new(Key.Of(key), key, OptionRole.Variant)
            {
                Values =
                [
                    .. Enumerable
                        .Range(0, count)
                        .Select(v => new OptionValue(Key.Of($"v{v}"), $"V{v}")
                        {
                            SkuCode = $"{v}",
                            Surcharge = new Surcharge.PerUnit(new Money(v * step, Currency.Euro)),
                        }),
                ],
            };
        var product = new Product(ProductCode.Of("BENCH"), "Bench")
        {
            Base = Figures.None with { Price = new Money(30, Currency.Euro), Cost = new Money(12, Currency.Euro) },
            Options = [Axis("a", 10, 1), Axis("b", 10, 2)],
            Extras =
            [
                new Option(Key.Of("mark"), "Mark", OptionRole.Extra)
                {
                    Ask = Ask.YesNo,
                    Values = [new OptionValue(Key.Of("yes"), "Yes")],
                    Surcharge = new Surcharge.PerUnit(new Money(1.50m, Currency.Euro)),
                },
            ],
        };
        return new Edition(1, 1, DateTimeOffset.UnixEpoch, product, product.Matrix()) { Sets = [] };
    }

    private static RunLine[] Basket(Edition edition)
    {
        var marked = Configuration.Empty.With(Key.Of("mark"), new Answer.Value(Key.Of("yes")));
        var goods = edition.Matrix.Variants.Select(v => new VariantOnSale(edition, v)).ToArray();
        return
        [
            .. Enumerable
                .Range(0, Lines)
                .Select(i => (Goods: goods[i % goods.Length], i))
                .Select(x => new RunLine(
                    x.Goods,
                    x.i % 3 == 0 ? Configuration.Empty : marked,
                    1 + x.i % 40,
                    [new LeafNeed(LeafPath.Own, x.Goods, 1, "")]
                )),
        ];
    }

    /// <summary>Medians of two things measured a few at a time in turn, since the machine is now faster and now slower.</summary>
    private static (double One, double Other) InTurn(Func<object?> one, Func<object?> other)
    {
        var (ones, others) = (new List<double>(), new List<double>());
        for (var turn = 0; turn < Rounds / 5; turn++)
        {
            ones.AddRange(Times(one, 5));
            others.AddRange(Times(other, 5));
        }
        return (Middle(ones), Middle(others));
    }

    private static double Median(Func<object?> work) => Middle([.. Times(work, Rounds).Skip(Rounds / 3)]);

    private static double Middle(List<double> times) => times.Order().ElementAt(times.Count / 2);

    private static IEnumerable<double> Times(Func<object?> work, int rounds)
    {
        for (var i = 0; i < rounds; i++)
        {
            var clock = Stopwatch.StartNew();
            _ = work();
            yield return clock.Elapsed.TotalMilliseconds;
        }
    }
}
