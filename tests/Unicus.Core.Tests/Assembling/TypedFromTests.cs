using CsCheck;
using static Unicus.CoreTests.RuleTerms;

namespace Unicus.CoreTests;

/// <summary>From prices count what is typed and needed at its cheapest.</summary>
public class TypedFromTests
{
    private static readonly DateOnly Today = new(2027, 3, 1);

    private static ConfigurationTerms Around(PublishedRange range) =>
        new(range, new StockOutlook(_ => new StockLevel(100, 0, 0, 0), Today), Under([]));

    private static Option Number(string key, bool required, decimal min, decimal max, Surcharge? surcharge) =>
        new(Key.Of(key), key, OptionRole.Extra)
        {
            Ask = Ask.Number,
            Required = required,
            Number = new NumberLimits(min, max, 1, null),
            Surcharge = surcharge,
        };

    private static Product Priced(params Option[] extras) =>
        new(ProductCode.Of("P1"), "P") { Base = Figures.None with { Price = Sample.Eur(10) }, Extras = [.. extras] };

    /// <summary>10.00 and a needed number, least 5 at 0.30: nothing can be bought below 11.50; lists and sets say so too.</summary>
    [Fact]
    public void A_needed_number_counts_at_its_least()
    {
        var goods = RandomRules.Edition(Priced(Number("length", true, 5, 50, new Surcharge.PerMeasure(Sample.Eur(0.3m)))), 1);
        var set = Sample.OnSale(
            2,
            """
            { "format": "unicus-product/1", "code": "S", "name": "S", "parts": { "sold": "together", "price": { "rule": "sum" }, "slots": [
              { "key": "one", "label": "One", "of": [ { "product": "P1" } ] } ] } }
            """
        );
        var around = Around(new PublishedRange.Of([goods, set]));
        Assert.Equal(11.5m, ListFigures.Of(goods, around).From!.Value.Amount);
        Assert.True(ListFigures.Of(goods, around).Varies);
        Assert.Equal(11.5m, ListFigures.Of(set, around).From!.Value.Amount);
    }

    /// <summary>The law: the lowest price is the lowest of all numbers, texts and ticks that are valid together, with tables of one and two
    /// measures, prices by measure and by character, and rules that ask what is typed.</summary>
    [Fact]
    public void The_lowest_price_is_that_of_listing_out_what_may_be_typed() =>
        Gen.Int.Sample(
            seed =>
            {
                var random = new Random(seed);
                Money Amount() => Sample.Eur(random.Next(-60, 300) / 100m);
                TableRow Row(int max) => new(max, [new TableCell(3, Amount()), new TableCell(6, Amount())]);
                Surcharge? wide = random.Next(3) switch
                {
                    0 => null,
                    1 => new Surcharge.PerMeasure(Amount()),
                    _ => new Surcharge.Table(
                        null,
                        [new TableRow(2, [new TableCell(0, Amount())]), new TableRow(6, [new TableCell(0, Amount())])]
                    ),
                };
                Surcharge high =
                    random.Next(2) == 0 ? new Surcharge.PerMeasure(Amount()) : new Surcharge.Table(Key.Of("wide"), [Row(2), Row(5)]);
                var product = Priced(
                    Number("wide", random.Next(2) == 0, 1, 6, wide),
                    Number("high", random.Next(2) == 0, 0, 5, high),
                    new Option(Key.Of("words"), "Words", OptionRole.Extra)
                    {
                        Ask = Ask.Text,
                        Required = random.Next(2) == 0,
                        MaxLength = 3,
                        Surcharge = new Surcharge.PerCharacter(Amount(), random.Next(2) == 0 ? Sample.Eur(1) : null),
                    },
                    new Option(Key.Of("mark"), "Mark", OptionRole.Extra)
                    {
                        Ask = Ask.YesNo,
                        Values = [new OptionValue(Key.Of("yes"), "Yes") { Surcharge = new Surcharge.PerUnit(Amount()) }],
                    }
                );
                if (random.Next(2) == 0)
                    product = product with
                    {
                        Rules =
                        [
                            new SelectionRule(
                                Key.Of("r"),
                                random.Next(2) == 0
                                    ? new Condition.AtLeast(Key.Of("wide"), 3)
                                    : new Condition.Not(new Condition.AtMost(Key.Of("high"), 2)),
                                [
                                    random.Next(2) == 0
                                        ? new Effect.Require([Key.Of("mark")])
                                        : new Effect.Forbid(Key.Of("mark"), [Key.Of("yes")]),
                                ]
                            ),
                        ],
                    };
                var goods = RandomRules.Edition(product, 1);
                var listed = All(goods).Min();
                Assert.Equal(listed, ConfigurationStatus.From(goods, Configuration.Empty, Around(PublishedRange.Empty))?.Amount);
            },
            iter: 300
        );

    private static bool Fits(Edition goods, Key question, Answer answer) =>
        AnswerLimits.Problem(goods.Configurator.Book.Find(question)!, answer, Today) is null;

    /// <summary>What a unit costs in every complete way.</summary>
    private static IEnumerable<decimal?> All(Edition goods)
    {
        IEnumerable<Answer?> numbers = Enumerable.Range(0, 7).Select(n => (Answer?)new Answer.Number(n)).Prepend(null);
        IEnumerable<Answer?> words = [null, new Answer.Text("a"), new Answer.Text("ab"), new Answer.Text("abc")];
        foreach (var wide in numbers)
            foreach (var high in numbers)
                foreach (var text in words)
                    foreach (var mark in new Answer[] { new Answer.None(), new Answer.Value(Key.Of("yes")) })
                    {
                        var given = Configuration.Empty.With(Key.Of("mark"), mark);
                        foreach (var (key, answer) in new[] { ("wide", wide), ("high", high), ("words", text) })
                            if (answer is not null)
                                given = given.With(Key.Of(key), answer);
                        if (given.Given.Any(g => !Fits(goods, g.Question, g.Answer)))
                            continue;
                        var status = ConfigurationStatus.Of(goods, given, Filling.None, Around(PublishedRange.Empty));
                        if (status.IsWhole && goods.Configurator.PriceProblem(given) is null)
                            yield return status.Price!.Working.Unit.Amount;
                    }
    }
}
