using CsCheck;
using static Unicus.CoreTests.RuleTerms;

namespace Unicus.CoreTests;

/// <summary>The proof of the lowest margin for sets, against baskets of them.</summary>
public class LowestSetMarginTests
{
    private static readonly TradeTerms TwoClasses = RuleTerms.Terms with
    {
        TaxClasses = [.. RuleTerms.Terms.TaxClasses, new TaxClass(Key.Of("reduced"), "Reduced")],
        Destinations = [RuleTerms.Terms.Destinations[0] with { Rates = RuleTerms.Terms.Destinations[0].Rates.Add("reduced", 9) }],
    };

    private static decimal? MarginOf(RunLine line, RunTerms terms, RandomSets range)
    {
        if (PriceRun.Of([line], terms, range.Range, trace: false).Basket is not { } basket)
            return 100;
        var (paid, cost) = (basket.Lines[0].Total + basket.Lines[0].Reduction, basket.Lines[0].Cost!.Value);
        var net = paid.Amount - basket.Lines[0].Tax.Amount;
        return net <= 0 ? null : (net - cost.Amount) * 100 / net;
    }

    private static RunTerms Terms(RandomSets range, int seed, int floor)
    {
        var random = new Random(seed);
        var rules = Enumerable
            .Range(0, random.Next(3))
            .Select(i => new PriceRule(
                Key.Of($"r{i}"),
                "",
                random.Next(5) switch
                {
                    3 => new PriceEffect.ReduceBasket(1 + random.Next(60), null),
                    4 => new PriceEffect.ReduceBasket(null, 1 + random.Next(3_000)),
                    0 => new PriceEffect.Reduce(1 + random.Next(60), null),
                    1 => new PriceEffect.Reduce(null, 1 + random.Next(800)),
                    _ => new PriceEffect.Bands(BandMode.AllUnits, false, [new BandRow(2 + random.Next(20), null, 1 + random.Next(50))]),
                }
            ));
        var terms = Under([.. rules]) with { Destination = TwoClasses.Destinations[0], Trade = TwoClasses };
        return terms with { Trade = terms.Trade with { Floor = floor == 0 ? null : new Percentage(10 * floor) } };
    }

    /// <summary>The law: whatever is picked of sets within sets, in whatever quantity, no line has a lower margin than the bound; where
    /// the proof is exact, the line that it shows can be bought and has it.</summary>
    [Fact]
    public void No_picks_have_a_lower_margin_than_is_proven()
    {
        var (proofs, exact, bought) = (0, 0, 0);
        Gen.Select(Gen.Int, Gen.Int, Gen.Int[0, 3])
            .Sample(
                (seed, rules, floor) =>
                {
                    var range = new RandomSets(seed, withClasses: (rules & 3) == 0);
                    var code = $"S{1 + (seed & int.MaxValue) % 3}";
                    var terms = Terms(range, rules, floor);
                    if (new LowestMargin(terms, range.Range).Of(range[code]) is not { } proven)
                        return;
                    Interlocked.Increment(ref proofs);
                    if (proven is { IsExact: true, Lowest: { } lowest })
                    {
                        Interlocked.Increment(ref exact);
                        var (line, by) = lowest.Line(terms, range.Range)!.Value;
                        Assert.Equal(lowest.Margin, MarginOf(line, by, range));
                    }
                    var random = new Random(rules);
                    for (var i = 0; i < 8; i++)
                    {
                        if (range.Picks(code) is not { } picks)
                            continue;
                        var units = random.Next(2) == 0 ? 1 + random.Next(25) : 1 + random.Next(1000);
                        var faults = new List<Fault>();
                        var request = new LineRequest(code, null, picks.Answers, units, null) { Parts = picks.Parts };
                        if (new LineCompletion(range.Range, new DateOnly(2027, 3, 1), terms).Complete(request, "#", faults) is not { } line)
                            continue;
                        Interlocked.Increment(ref bought);
                        var margin = MarginOf(line, terms, range);
                        Assert.True(
                            margin is null ? proven.Free is not null : proven.Bound is null || margin >= proven.Bound,
                            $"{code}: {margin} below {proven.Bound}, {units} units, {picks.Parts.ToJsonString()}"
                        );
                    }
                },
                iter: 400
            );
        Assert.True(bought > 1_000 && proofs > 300 && exact > proofs / 2, $"{bought} lines, {proofs} proofs, {exact} exact");
    }
}
