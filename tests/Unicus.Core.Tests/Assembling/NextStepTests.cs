using CsCheck;
using static Unicus.CoreTests.RuleTerms;

namespace Unicus.CoreTests;

public class NextStepTests
{
    private static PriceRule Rule(Random random, int number)
    {
        long Price() => 300 + random.Next(700);
        PriceEffect effect = random.Next(4) switch
        {
            0 => new PriceEffect.Bands(
                BandMode.AllUnits,
                false,
                [new BandRow(2 + random.Next(5), Price(), null), new BandRow(9, Price(), null)]
            ),
            1 => new PriceEffect.Bands(BandMode.Incremental, false, [new BandRow(2 + random.Next(9), null, 1 + random.Next(40))]),
            2 => new PriceEffect.Packs([
                new Pack(5 + random.Next(4), 2_000 + random.Next(4_000)),
                new Pack(2 + random.Next(3), 500 + random.Next(1_500)),
            ]),
            _ => new PriceEffect.Reduce(1 + random.Next(30), null),
        };
        return new PriceRule(Key.Of($"r{number}"), "", effect)
        {
            When = new PriceWhen { QuantityAtLeast = random.Next(2) == 0 ? 2 + random.Next(10) : null },
        };
    }

    /// <summary>So far ahead is looked at least; a step beyond may be said or not.</summary>
    private const int Ahead = 100;

    /// <summary>The law: the next quantity that is said to cost less is the first that does, found by trying one after the other.</summary>
    [Fact]
    public void The_next_quantity_that_costs_less_is_the_first_found_by_trying() =>
        Gen.Int.Sample(
            seed =>
            {
                var random = new Random(seed);
                var goods = RandomRules.Edition(
                    new Product(ProductCode.Of("P1"), "P") { Base = Figures.None with { Price = Sample.Eur(10) } },
                    1
                );
                var terms = Under([.. Enumerable.Range(0, 1 + random.Next(3)).Select(i => Rule(random, i))]);
                var stock = new StockOutlook(_ => new StockLevel(1000, 0, 0, 0), new DateOnly(2027, 3, 1));
                ConfigurationStatus Of(int units) =>
                    ConfigurationStatus.Of(
                        goods,
                        Configuration.Empty,
                        Filling.Rest,
                        new ConfigurationTerms(PublishedRange.Empty, stock, terms, units)
                    );
                decimal Each(int units) => Math.Round(Of(units).Price!.Working.Total.Amount / units, 2, MidpointRounding.AwayFromZero);
                var from = 1 + random.Next(12);
                var first = Enumerable.Range(from + 1, Ahead).FirstOrDefault(q => Each(q) < Each(from));
                var said = Of(from).NextStep?.Units ?? 0;
                Assert.Equal(first, said > from + Ahead ? 0 : said);
            },
            iter: 500
        );
}
