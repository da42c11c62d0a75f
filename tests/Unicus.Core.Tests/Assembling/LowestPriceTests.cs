using System.Collections.Immutable;
using CsCheck;

namespace Unicus.CoreTests;

/// <summary>The lowest price over what can be bought now, against listing out every configuration from the text of the model.</summary>
public class LowestPriceTests
{
    private static readonly DateOnly Today = new(2027, 3, 1);

    /// <summary>A product with up to two options and three extras, and the stock of its variants and of two parts.</summary>
    private sealed record Case(Product Product, IReadOnlyDictionary<string, int> Stock);

    private static readonly Gen<OptionValue> ExtraValue = Gen.Select(Gen.Int[0, 3], Gen.Int[-300, 900], Gen.Int[0, 9])
        .Select(
            (kind, cents, percent) =>
            {
                var value = new OptionValue(Key.Of("x"), "X");
                return kind switch
                {
                    0 => value,
                    1 => value with { Surcharge = new Surcharge.PerUnit(Sample.Eur(cents / 100m)) },
                    2 => value with { Surcharge = new Surcharge.Percent(new Percentage(percent)) },
                    _ => value with { Part = new ValuePart(percent % 2 == 0 ? "PART-A" : "PART-B", 1 + percent % 3) },
                };
            }
        );

    private static readonly Gen<Option> Extra = Gen.Select(Gen.Int[0, 1], Gen.Bool, ExtraValue.Array[1, 3])
        .Select(
            (ask, required, values) =>
                new Option(Key.Of("e"), "E", OptionRole.Extra)
                {
                    Ask = ask == 0 ? Ask.One : Ask.Several,
                    Required = required,
                    Values = [.. values.Select((v, i) => v with { Key = Key.Of($"v{i}"), Label = $"V{i}" })],
                }
        );

    private static readonly Gen<Case> Cases = Gen.Select(
            Gen.Int[1000, 5000].Array[4],
            Extra.Array[1, 3],
            Gen.Int[0, 3].Array[6],
            Gen.Int[0, 5]
        )
        .Select(
            (cents, extras, units, forbidden) =>
            {
                Option Of(string key) =>
                    new(Key.Of(key), key, OptionRole.Variant)
                    {
                        Values = [new OptionValue(Key.Of("a"), "A"), new OptionValue(Key.Of("b"), "B")],
                    };
                var product = new Product(ProductCode.Of("P"), "P")
                {
                    Options = [Of("one"), Of("two")],
                    Extras = [.. extras.Select((e, i) => e with { Key = Key.Of($"e{i}"), Label = $"E{i}" })],
                };
                var combinations = product.Matrix().Variants.Select(v => v.Values).ToList();
                product = product with
                {
                    Variants =
                    [
                        .. combinations.Select(
                            (c, i) => new Variant(c) { Own = Figures.None with { Price = Sample.Eur(cents[i] / 100m) } }
                        ),
                    ],
                    Rules =
                        forbidden > 1
                            ? []
                            :
                            [
                                new SelectionRule(
                                    Key.Of("r"),
                                    new Condition.Is(Key.Of("one"), [Key.Of("a")]),
                                    [new Effect.Forbid(Key.Of("e0"), [Key.Of("v0")])]
                                ),
                            ],
                };
                var stock = product.Matrix().Variants.Index().ToDictionary(v => v.Item.Sku.Text, v => units[v.Index]);
                (stock["PART-A"], stock["PART-B"]) = (units[4], units[5]);
                return new Case(product, stock);
            }
        );

    private static Edition Compiled(Product product, int id) =>
        new(id, 1, DateTimeOffset.UnixEpoch, product, product.Matrix()) { Sets = [] };

    private static Edition Part(string code, int id, decimal price) =>
        Compiled(
            new Product(ProductCode.Of(code), code)
            {
                Base = Figures.None with { Price = Sample.Eur(price) },
                Variants = [new Variant(Combination.Empty) { Sku = Sku.Of(code) }],
            },
            id
        );

    [Fact]
    public void The_lowest_price_is_that_of_the_cheapest_configuration_that_can_be_bought() =>
        Cases.Sample(
            c =>
            {
                var (edition, a, b) = (Compiled(c.Product, 1), Part("PART-A", 2, 2.50m), Part("PART-B", 3, 0.75m));
                var range = new PublishedRange.Of([edition, a, b]);
                var stock = new StockOutlook(sku => new StockLevel(c.Stock.GetValueOrDefault(sku.Text), 0, 0, 0), Today);
                var plainly = All(edition).Where(x => CanBeBought(edition, x, c.Stock)).Select(x => (decimal?)PriceOf(edition, x)).Min();
                Assert.Equal(
                    plainly,
                    ConfigurationStatus.From(edition, Configuration.Empty, new ConfigurationTerms(range, stock, Sample.Plain))?.Amount
                );
                // With one value of an option given.
                var given = Configuration.Of(Combination.Parse("one=b"));
                var narrowed = All(edition)
                    .Where(x => x[Key.Of("one")] is Answer.Value { Key.Text: "b" } && CanBeBought(edition, x, c.Stock))
                    .Select(x => (decimal?)PriceOf(edition, x))
                    .Min();
                Assert.Equal(
                    narrowed,
                    ConfigurationStatus.From(edition, given, new ConfigurationTerms(range, stock, Sample.Plain))?.Amount
                );
            },
            iter: 400
        );

    /// <summary>“A plain 8.40 whose needed finishes all add at least 1.10 is from 9.50.”</summary>
    [Fact]
    public void A_needed_finish_is_in_the_lowest_price()
    {
        OptionValue Finish(string key, decimal adds) => new(Key.Of(key), key) { Surcharge = new Surcharge.PerUnit(Sample.Eur(adds)) };
        var product = new Product(ProductCode.Of("P"), "P")
        {
            Base = Figures.None with { Price = Sample.Eur(8.40m) },
            Selling = new Selling { Counted = false },
            Extras =
            [
                new Option(Key.Of("finish"), "Finish", OptionRole.Extra)
                {
                    Ask = Ask.One,
                    Required = true,
                    Values = [Finish("oil", 1.10m), Finish("wax", 2.00m)],
                },
            ],
        };
        var edition = Compiled(product, 1);
        var status = ConfigurationStatus.Of(
            edition,
            Configuration.Empty,
            Filling.Beforehand,
            new ConfigurationTerms(PublishedRange.Empty, StockOutlook.Empty(Today), Sample.Plain)
        );
        Assert.Equal("9.50", status.Lowest.ToString());
        Assert.True(status.Varies);
        Assert.False(status.IsDecided);
        Assert.Equal(["Finish"], status.Open.Select(o => o.Label));
    }

    /// <summary>Every valid complete configuration, found by trying all of them.</summary>
    private static IEnumerable<Configuration> All(Edition edition)
    {
        IEnumerable<Configuration> all = [Configuration.Empty];
        foreach (var question in edition.Product.Questions)
            all = all.SelectMany(c => Answers(question).Select(a => c.With(question.Key, a))).ToList();
        return all.Where(c => edition.Configurator.Answer(c).Complete);
    }

    private static IEnumerable<Answer> Answers(Option question)
    {
        if (question.Ask != Ask.Several)
            return question
                .Values.Select(v => (Answer)new Answer.Value(v.Key))
                .Concat(question.Role == OptionRole.Extra ? [new Answer.None()] : []);
        return Enumerable
            .Range(0, 1 << question.Values.Length)
            .Select(bits => question.Values.Where((_, i) => (bits >> i & 1) == 1).Select(v => v.Key).ToImmutableArray())
            .Select(keys => keys.IsEmpty ? (Answer)new Answer.None() : new Answer.Ticks([.. keys]));
    }

    private static MatrixVariant VariantOf(Edition edition, Configuration c) =>
        edition.Matrix.Find(Combination.Of(edition.Matrix.Options.Select(o => (o.Key, ((Answer.Value)c[o.Key]!).Key))))!;

    private static IEnumerable<OptionValue> Picked(Edition edition, Configuration c) =>
        edition.Product.Extras.SelectMany(e => AnswerText.Picked(e, c[e.Key]));

    private static bool CanBeBought(Edition edition, Configuration c, IReadOnlyDictionary<string, int> stock) =>
        Picked(edition, c)
            .Select(v => v.Part)
            .OfType<ValuePart>()
            .Append(new ValuePart(VariantOf(edition, c).Sku.Text, 1))
            .GroupBy(p => p.Sku)
            .All(g => g.Sum(p => p.Quantity) <= stock[g.Key]);

    /// <summary>List price, amounts, percentages of the list price rounded each by itself, and list prices of parts.</summary>
    private static decimal PriceOf(Edition edition, Configuration c)
    {
        var list = VariantOf(edition, c).Price.Figure!.Value.Amount;
        return list
            + Picked(edition, c)
                .Sum(v =>
                    v.Surcharge switch
                    {
                        Surcharge.PerUnit u => u.Amount.Amount,
                        Surcharge.Percent p => Math.Round(list * p.Rate.Value / 100, 2, MidpointRounding.AwayFromZero),
                        _ => 0,
                    } + (v.Part is { } part ? part.Quantity * (part.Sku == "PART-A" ? 2.50m : 0.75m) : 0)
                );
    }
}
