using System.Collections.Immutable;
using System.Text.Json;
using static Unicus.CoreTests.ConfiguratorTests;

namespace Unicus.CoreTests;

/// <summary>The ends of a price over all configurations, against pricing each.</summary>
public class PriceSpanTests
{
    /// <summary>The lowest and highest price of 1,500 random models, with own prices, percentages and hidden typed answers, equal pricing
    /// every valid configuration one by one; so does the cheapest variant.</summary>
    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void The_price_span_equals_pricing_every_configuration(int part)
    {
        var compared = 0;
        for (var seed = part * 500; seed < (part + 1) * 500; seed++)
        {
            var random = new Random(seed + 50_000);
            var model = Priced(random, RandomModels.Model(random));
            if (!model.Book.Loops.IsEmpty)
                continue;
            var variants = model.Questions.Where(q => q.Role == OptionRole.Variant).ToImmutableArray();
            var own = Sample
                .All(variants)
                .Where(_ => random.Next(3) == 0)
                .Select(c => new Variant(c)
                {
                    Own = new Figures { Price = Sample.Eur(random.Next(2000, 20000) / 100m) },
                    Retired = random.Next(8) == 0,
                });
            var product = new Product(ProductCode.Of("X"), "x")
            {
                Base = new Figures { Price = Sample.Eur(random.Next(5000, 20000) / 100m) },
                Options = variants,
                Extras = [.. model.Questions.Where(q => q.Role == OptionRole.Extra)],
                Rules = model.Rules,
                NotMade = model.NotMade,
                Variants = [.. own],
            };
            var configurator = Of(product);
            var matrix = product.Matrix();
            var given = RandomModels.Answers(random, model);
            var listing = new PlainListing(model, given);
            var prices = listing.Valid().Where(w => listing.AgreesWithAll(w)).Select(w => PriceOf(w)).OfType<Money>().ToList();
            var span = configurator.Span(given, Stand);
            Assert.Equal(prices.Count == 0 ? null : new PriceSpan(prices.Min(), prices.Max()), span);
            compared += prices.Count > 0 ? 1 : 0;
            // The same over the solutions that CP-SAT finds.
            var solutions = new CpSatModel(model, given)
                .Solutions()
                .Select(s => s.ToDictionary(p => p.Key, p => Whole(model.Questions.First(q => q.Key == p.Key), p.Value)));
            var solved = solutions.Where(w => listing.AgreesWithAll(w)).Select(w => PriceOf(w)).OfType<Money>().ToList();
            Assert.Equal(solved.Count == 0 ? null : new PriceSpan(solved.Min(), solved.Max()), span);

            Money? PriceOf(Dictionary<Key, Answer> whole)
            {
                var variant = matrix.Find(Combination.Of(variants.Select(o => (o.Key, ((Answer.Value)whole[o.Key]).Key))))!;
                if (variant.Variant.Retired)
                    return null;
                var list = variant.Price.Figure!.Value;
                var shown = new Configuration([
                    .. model
                        .Questions.Select(q => (q.Key, Answer: whole.TryGetValue(q.Key, out var a) ? a : given[q.Key]))
                        .Where(a => a.Answer is not null && listing.IsShown(a.Key, whole))
                        .Select(a => (a.Key, a.Answer!)),
                ]);
                return list
                    + new AnswerPricing(model.Questions, Stand)
                        .Steps(shown, list)
                        .Where(s => !s.PerLine)
                        .Select(s => s.Amount)
                        .Sum(Currency.Euro);
            }
        }
        Assert.InRange(compared, 120, 500);
    }

    /// <summary>Percentages on many questions: by list price where these are few, in one diagram where sums and prices are many, and told
    /// where even that is too much.</summary>
    [Theory]
    [InlineData(3, 40)]
    [InlineData(40, 3)]
    [InlineData(90, 3)]
    [InlineData(90, 40)]
    public void Percentages_on_many_questions_are_exact(int wide, int extras)
    {
        var random = new Random(wide + extras);
        var options = new[] { "x", "y" }
            .Select(k => new Option(Key.Of(k), k, OptionRole.Variant)
            {
                Values = [.. Enumerable.Range(0, wide).Select(i => new OptionValue(Key.Of($"v{i}"), $"v{i}"))],
            })
            .ToImmutableArray();
        var asked = Enumerable
            .Range(0, extras)
            .Select(e => new Option(Key.Of($"e{e}"), $"e{e}", OptionRole.Extra)
            {
                Required = true,
                Values =
                [
                    .. Enumerable
                        .Range(0, 4)
                        .Select(i => new OptionValue(Key.Of($"v{i}"), $"v{i}")
                        {
                            Surcharge = new Surcharge.Percent(new Percentage(random.Next(-200, 700) / 10m)),
                        }),
                ],
            })
            .ToImmutableArray();
        var own = Sample
            .All(options)
            .Select(c => new Variant(c) { Own = new Figures { Price = Sample.Eur(random.Next(1000, 90_000) / 100m) } })
            .ToImmutableArray();
        var rule = new SelectionRule(
            Key.Of("r"),
            new Condition.Is(Key.Of("x"), [Key.Of("v1")]),
            [new Effect.Forbid(Key.Of("e0"), [Key.Of("v0"), Key.Of("v1")])]
        );
        var configurator = Of(
            new Product(ProductCode.Of("X"), "x")
            {
                Options = options,
                Extras = asked,
                Variants = own,
                Rules = [rule],
            }
        );
        if (wide > 80 && extras > 30)
        {
            Assert.Contains("too interwoven", Assert.Single(configurator.Faults).What, StringComparison.Ordinal);
            Assert.Null(configurator.Span(Configuration.Empty, Stand));
            return;
        }
        Assert.Empty(configurator.Faults);
        foreach (var given in new[] { Configuration.Empty, Configuration.Of(Combination.Of([(Key.Of("x"), Key.Of("v1"))])) })
        {
            decimal Share(Variant v, Func<IEnumerable<decimal>, decimal> best) =>
                asked.Sum(q =>
                    best(
                        q.Values.Where((_, i) => q.Key != Key.Of("e0") || i > 1 || v.Values[Key.Of("x")] != Key.Of("v1"))
                            .Select(a => ((Surcharge.Percent)a.Surcharge!).Rate.Of(v.Own.Price!.Value).Amount)
                    )
                );
            var fitting = own.Where(v => given[Key.Of("x")] is not Answer.Value x || v.Values[Key.Of("x")] == x.Key).ToList();
            Assert.Equal(
                new PriceSpan(
                    Sample.Eur(fitting.Min(v => v.Own.Price!.Value.Amount + Share(v, s => s.Min()))),
                    Sample.Eur(fitting.Max(v => v.Own.Price!.Value.Amount + Share(v, s => s.Max())))
                ),
                configurator.Span(given, Stand)
            );
        }
    }

    private static Answer Whole(Option question, List<Key> picked) =>
        picked.Count == 0 ? new Answer.None()
        : question.Ask == Ask.Several ? new Answer.Ticks([.. picked])
        : new Answer.Value(picked[0]);

    private static RuleModel Priced(Random random, RuleModel model) =>
        model with
        {
            Questions =
            [
                .. model.Questions.Select(q =>
                    q.Role == OptionRole.Variant
                        ? q with
                        {
                            Values =
                            [
                                .. q.Values.Select(v =>
                                    v with
                                    {
                                        Surcharge =
                                            random.Next(2) == 0
                                                ? new Surcharge.PerUnit(Sample.Eur(random.Next(-5, 30)))
                                                : new Surcharge.Percent(new Percentage(random.Next(0, 20))),
                                    }
                                ),
                            ],
                        }
                        : q with
                        {
                            Surcharge = q.Ask switch
                            {
                                Ask.Text => new Surcharge.PerCharacter(Sample.Eur(0.60m), Sample.Eur(random.Next(0, 5))),
                                Ask.Number => random.Next(2) == 0
                                    ? new Surcharge.PerMeasure(Sample.Eur(0.35m))
                                    : new Surcharge.Percent(new Percentage(random.Next(1, 9))),
                                Ask.Date => new Surcharge.Percent(new Percentage(2.5m)),
                                _ => null,
                            },
                            Values =
                            [
                                .. q.Values.Select(v =>
                                    v with
                                    {
                                        Part = random.Next(5) == 0 ? new ValuePart("STAND-1", 2) : null,
                                        Surcharge = random.Next(4) switch
                                        {
                                            0 => new Surcharge.PerUnit(Sample.Eur(random.Next(-5, 40))),
                                            1 => new Surcharge.Percent(new Percentage(random.Next(-10, 25))),
                                            2 => new Surcharge.Once(Sample.Eur(3)),
                                            _ => null,
                                        },
                                    }
                                ),
                            ],
                        }
                ),
            ],
        };
}
