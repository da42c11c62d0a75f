using System.Collections.Immutable;
using System.Diagnostics;
using Unicus.CoreTests;

namespace Unicus.Bench;

/// <summary>The rules engine: compiling, answering a pick, and the same question put to a general constraint solver.</summary>
internal static class RuleRatios
{
    private const int Questions = 40;
    private const int Values = 8;
    private const int Rules = 120;
    private const int Picks = 4000;

    public static void Run()
    {
        var model = Mixed(Questions, Values, Rules);
        Compile(model);
        var product = Priced(model);
        var clock = Stopwatch.StartNew();
        var configurator = new Configurator(product, product.Matrix());
        configurator.Span(Configuration.Empty, NoParts);
        var compile = clock.Elapsed.TotalMilliseconds;
        var rules = configurator.Rules;
        Report.Row(
            $"compile with prices {Questions} questions × {Values} values, {Rules} mixed rules ({rules.Nodes:N0} nodes), ms",
            compile,
            "limit",
            1000,
            compile / 1000,
            "at most 1"
        );
        var (answers, times) = Walk(model, configurator);
        var p99 = times.Order().ElementAt(times.Count * 99 / 100);
        Report.Row(
            "answer to a pick of these (possible values, count, price span), 99th percentile, ms",
            p99,
            "limit",
            1,
            p99,
            "at most 1"
        );

        var solver = new CpSatModel(model, Configuration.Empty);
        clock.Restart();
        var asked = model.Questions.ToDictionary(q => q.Key, q => solver.Possible(answers, q.Key).ToList());
        var general = clock.Elapsed.TotalMilliseconds;
        foreach (var q in rules.Answer(answers).Questions)
            if (!q.Possible.SequenceEqual(asked[q.Question.Key]))
                throw new InvalidOperationException($"The solver says otherwise of {q.Question.Key}.");
        var median = times.Order().ElementAt(times.Count / 2);
        Report.Row("the same possible values, median, ms", median, "Google.OrTools CP-SAT", general, median / general, "at most 0.01");
        Percentages(model);
        Large();
        Growth();
    }

    /// <summary>The same questions with a percentage added by every other value, on 64 variants with prices of their own.</summary>
    private static void Percentages(RuleModel model)
    {
        var random = new Random(64);
        var options = Enumerable.Range(0, 2).Select(i => Question($"v{i}", Values) with { Role = OptionRole.Variant }).ToImmutableArray();
        var extras = model
            .Questions.Select(q =>
                q with
                {
                    Values =
                    [
                        .. q.Values.Select(
                            (v, i) =>
                                v with
                                {
                                    Surcharge =
                                        i % 2 == 0
                                            ? new Surcharge.Percent(new Percentage(random.Next(1, 12)))
                                            : new Surcharge.PerUnit(Euro(random.Next(-300, 2500))),
                                }
                        ),
                    ],
                }
            )
            .ToImmutableArray();
        var made = new MadeSet(options, []);
        var product = new Product(ProductCode.Of("P"), "p")
        {
            Options = options,
            Extras = extras,
            Rules = model.Rules,
            Variants =
            [
                .. made.Made().Select(n => new Variant(made.At(n)) { Own = new Figures { Price = Euro(random.Next(3000, 9000)) } }),
            ],
        };
        var configurator = new Configurator(product, product.Matrix());
        configurator.Span(Configuration.Empty, NoParts);
        var times = Walk(model with { Questions = [.. options, .. extras] }, configurator).Times;
        var p99 = times.Order().ElementAt(times.Count * 99 / 100);
        Report.Row(
            "the same with percentages on every question and 64 prices, 99th percentile, ms",
            p99,
            "limit",
            5,
            p99 / 5,
            "at most 1"
        );
    }

    /// <summary>Twelve questions on 100,000 variants, 20,000 of which are not made.</summary>
    private static void Large()
    {
        var random = new Random(12);
        var variants = Enumerable.Range(0, 5).Select(i => Question($"v{i}", 10) with { Role = OptionRole.Variant }).ToImmutableArray();
        var extras = Mixed(7, Values, 20);
        var all = new MadeSet(variants, []);
        var notMade = Enumerable.Range(0, all.Combinations).OrderBy(_ => random.Next()).Take(20_000).Select(all.At).ToImmutableArray();
        var model = new RuleModel([.. variants, .. extras.Questions], extras.Rules, notMade);
        var own = all.Made()
            .Where(_ => random.Next(20) == 0)
            .Select(n => new Variant(all.At(n)) { Own = new Figures { Price = Euro(random.Next(2000, 9000)) } });
        var product = Priced(model) with { Variants = [.. own] };
        var matrix = product.Matrix();
        var clock = Stopwatch.StartNew();
        var configurator = new Configurator(product, matrix);
        configurator.Span(Configuration.Empty, NoParts);
        var compile = clock.Elapsed.TotalMilliseconds;
        var rules = configurator.Rules;
        Report.Row(
            $"compile with prices 12 questions on 100,000 variants, 20,000 not made ({rules.Nodes:N0} nodes), ms",
            compile,
            "limit",
            2000,
            compile / 2000,
            "at most 1"
        );
        var times = Walk(model, configurator).Times;
        var p99 = times.Order().ElementAt(times.Count * 99 / 100);
        Report.Row(
            "answer to a pick of these (possible values, count, price span), 99th percentile, ms",
            p99,
            "limit",
            5,
            p99 / 5,
            "at most 1"
        );
    }

    /// <summary>How compile time and nodes grow: a table, and a plot where bench/run says where to.</summary>
    private static void Growth()
    {
        Console.WriteLine();
        Console.WriteLine("| questions | values | rules | nodes | compile, ms |");
        Console.WriteLine("| ---: | ---: | ---: | ---: | ---: |");
        var series = new List<(string Label, List<(int X, int Nodes, double Ms)> Points)>();
        foreach (
            var (label, models) in new (string, (int Questions, int Values, int Rules)[])[]
            {
                ("questions, with 8 values and 3 rules each", [(10, 8, 30), (20, 8, 60), (40, 8, 120), (80, 8, 240), (160, 8, 480)]),
                ("values of each of 40 questions, 120 rules", [(40, 2, 120), (40, 4, 120), (40, 8, 120), (40, 16, 120), (40, 32, 120)]),
                ("rules over 40 questions of 8 values", [(40, 8, 40), (40, 8, 80), (40, 8, 120), (40, 8, 160), (40, 8, 200)]),
            }
        )
        {
            var points = new List<(int, int, double)>();
            foreach (var (questions, values, count) in models)
            {
                var model = Mixed(questions, values, count);
                var clock = Stopwatch.StartNew();
                var rules = Compile(model);
                points.Add(
                    (
                        label.StartsWith('q') ? questions
                        : label.StartsWith('v') ? values
                        : count,
                        rules.Nodes,
                        clock.Elapsed.TotalMilliseconds
                    )
                );
                Console.WriteLine($"| {questions} | {values} | {count} | {rules.Nodes:N0} | {points[^1].Item3:N0} |");
            }
            series.Add((label, points));
        }
        if (Environment.GetEnvironmentVariable("UNICUS_PLOTS") is { } folder)
            File.WriteAllText(Path.Combine(folder, "rules-growth.svg"), GrowthPlot.Draw(series));
    }

    /// <summary>Picks possible values at random, starting over when all is answered.</summary>
    private static (Configuration Answers, List<double> Times) Walk(RuleModel model, Configurator configurator)
    {
        var random = new Random(7);
        var times = new List<double>();
        var (given, half) = (Configuration.Empty, Configuration.Empty);
        for (var i = 0; i < Picks; i++)
        {
            var clock = Stopwatch.GetTimestamp();
            var reply = configurator.Answer(given);
            configurator.Span(given, NoParts);
            if (i >= Picks / 4)
                times.Add(Stopwatch.GetElapsedTime(clock).TotalMilliseconds);
            if (!reply.Valid)
                throw new InvalidOperationException("A possible pick led into a dead end.");
            var open = reply.Questions.Where(q => q.Shown && q.Answer is null && q.Possible.Any(p => p)).ToList();
            if (open.Count <= model.Questions.Length / 2 && half == Configuration.Empty)
                half = given;
            if (open.Count == 0)
            {
                given = Configuration.Empty;
                continue;
            }
            var q = open[random.Next(open.Count)];
            var possible = Enumerable.Range(0, q.Possible.Length).Where(v => q.Possible[v]).ToList();
            given = given.With(q.Question.Key, new Answer.Value(q.Question.Values[possible[random.Next(possible.Count)]].Key));
        }
        return (half, times);
    }

    /// <summary>Questions in page order with rules of every kind, most of them among neighbours, as in a page with sections; one in twenty
    /// reaches further.</summary>
    internal static RuleModel Mixed(int questions, int values, int rules)
    {
        var random = new Random(questions * 1000 + values * 10 + rules);
        var all = Enumerable.Range(0, questions).Select(i => Question($"q{i}", values)).ToImmutableArray();
        ImmutableArray<Key> Some(Option q, int most) =>
            [.. q.Values.OrderBy(_ => random.Next()).Take(random.Next(1, most + 1)).Select(v => v.Key)];
        SelectionRule Rule(int i)
        {
            var from = random.Next(questions);
            var reach = random.Next(20) == 0 ? 8 : 2;
            var to = Math.Clamp(from + random.Next(1, reach + 1), 0, questions - 1);
            if (to == from)
                from--;
            Condition when = new Condition.Is(all[from].Key, Some(all[from], 2));
            if (random.Next(4) == 0 && from > 0)
                when = new Condition.All([when, new Condition.Not(new Condition.Is(all[from - 1].Key, Some(all[from - 1], 2)))]);
            Effect then = random.Next(10) switch
            {
                0 => new Effect.Hide([all[to].Key]),
                1 => new Effect.Require([all[to].Key]),
                < 7 => new Effect.Forbid(all[to].Key, Some(all[to], 2)),
                _ => new Effect.AllowOnly(all[to].Key, Some(all[to], values - 1)),
            };
            return new SelectionRule(Key.Of($"r{i}"), when, [then]);
        }
        return new RuleModel(all, [.. Enumerable.Range(0, rules).Select(Rule)], []);
    }

    /// <summary>The model with a price, surcharges on two answers in three, and a percentage on one question of the last.</summary>
    internal static Product Priced(RuleModel model)
    {
        var random = new Random(3);
        var questions = model
            .Questions.Select(
                (q, i) =>
                    q with
                    {
                        Values =
                        [
                            .. q.Values.Select(v =>
                                v with
                                {
                                    Surcharge =
                                        i == model.Questions.Length - 1 ? new Surcharge.Percent(new Percentage(random.Next(1, 9)))
                                        : random.Next(3) == 0 ? null
                                        : new Surcharge.PerUnit(Euro(random.Next(-300, 2500))),
                                }
                            ),
                        ],
                    }
            )
            .ToList();
        return new Product(ProductCode.Of("B"), "b")
        {
            Base = new Figures { Price = Euro(5000) },
            Options = [.. questions.Where(q => q.Role == OptionRole.Variant)],
            Extras = [.. questions.Where(q => q.Role == OptionRole.Extra)],
            Rules = model.Rules,
            NotMade = model.NotMade,
        };
    }

    private static Money Euro(int cents) => new(cents / 100m, Currency.Euro);

    private static PartFigures? NoParts(string sku) => null;

    private static Option Question(string key, int values) =>
        new(Key.Of(key), key, OptionRole.Extra)
        {
            Values = [.. Enumerable.Range(0, values).Select(v => new OptionValue(Key.Of($"a{v}"), $"a{v}"))],
        };

    private static CompiledRules Compile(RuleModel model) =>
        CompiledRules.Compile(model.Book, model.Made) is var (rules, faults) && rules is not null
            ? rules
            : throw new InvalidOperationException(faults[0].What);
}
