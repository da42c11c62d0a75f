using System.Collections.Immutable;
using System.Numerics;

namespace Unicus.CoreTests;

public class CompiledRulesTests
{
    internal static readonly ImmutableArray<Option> Shirt =
    [
        Sample.Option("colour", "black", "white", "red", "blue"),
        Sample.Option("size", "small", "medium", "large"),
        Sample.Option("print", "a", "b"),
    ];

    internal static Condition.Is Is(string question, params string[] values) =>
        new Condition.Is(Key.Of(question), [.. values.Select(Key.Of)]);

    internal static SelectionRule Rule(string key, Condition when, params Effect[] then) => new(Key.Of(key), when, [.. then]);

    internal static ImmutableArray<Key> Keys(params string[] keys) => [.. keys.Select(Key.Of)];

    internal static CompiledRules Compile(RuleModel model, int mostNodes = CompiledRules.MostNodes) =>
        CompiledRules.Compile(model.Book, model.Made, mostNodes: mostNodes) is { Rules: { } rules }
            ? rules
            : throw new InvalidOperationException();

    /// <summary>
    /// Andersen, Hadzic, Pisinger, “Interactive Cost Configuration Over Decision Diagrams”, JAIR 37 (2010), from memory: four colours ×
    /// three sizes × two prints with two rules leave 11 of 24; with small picked, print A and black only: 1.
    /// </summary>
    [Fact]
    public void Two_rules_leave_eleven_of_twenty_four()
    {
        var rules = Compile(
            new RuleModel(
                Shirt,
                [
                    Rule("a-on-black", Is("print", "a"), new Effect.AllowOnly(Key.Of("colour"), Keys("black"))),
                    Rule("b-not-small", Is("print", "b"), new Effect.Forbid(Key.Of("size"), Keys("small"))),
                ],
                []
            )
        );
        Assert.Equal(11, rules.Answer(Configuration.Empty).Count);
        var small = rules.Answer(Configuration.Empty.With(Key.Of("size"), new Answer.Value(Key.Of("small"))));
        Assert.Equal(1, small.Count);
        Assert.Equal(["black"], Possible(small, "colour"));
        Assert.Equal(["a"], Possible(small, "print"));
        Assert.Equal(["small", "medium", "large"], Possible(small, "size"));
        Assert.Equal(24, Compile(new RuleModel(Shirt, [], [])).Answer(Configuration.Empty).Count);
    }

    internal static IEnumerable<string> Possible(RulesReply reply, string question) =>
        reply.Questions.First(q => q.Question.Key.Text == question) is var q
            ? q.Question.Values.Where((_, i) => q.Possible[i]).Select(v => v.Key.Text)
            : [];

    /// <summary>Everything the engine says of 4,000 random models with random answers equals what plain listing of all configurations
    /// says.</summary>
    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void Random_models_are_answered_as_by_listing_everything_out(int part)
    {
        var (compiled, valid) = (0, 0);
        for (var seed = part * 1000; seed < (part + 1) * 1000; seed++)
        {
            var random = new Random(seed);
            var model = RandomModels.Model(random);
            var (rules, faults) = CompiledRules.Compile(model.Book, model.Made);
            if (rules is null)
            {
                Assert.NotEmpty(model.Book.Loops);
                Assert.NotEmpty(faults);
                continue;
            }
            Assert.Empty(model.Book.Broken);
            compiled++;
            for (var i = 0; i < 2; i++)
            {
                var given = i == 0 ? Configuration.Empty : RandomModels.Answers(random, model);
                valid += Compare(model, rules, given, seed) ? 1 : 0;
            }
        }
        Assert.InRange(compiled, 600, 1000);
        Assert.InRange(valid, compiled / 2, 2 * compiled - 50);
    }

    private static bool Compare(RuleModel model, CompiledRules rules, Configuration given, int seed)
    {
        var reply = rules.Answer(given);
        var listing = new PlainListing(model, given);
        var all = listing.Valid();
        var agreeing = all.Count(w => listing.AgreesWithAll(w));
        Assert.True(agreeing == reply.Count, $"Seed {seed}: {reply.Count} instead of {agreeing}.");
        var now = given.Given.ToDictionary(g => g.Question, g => g.Answer);
        foreach (var q in reply.Questions)
        {
            Assert.True(listing.IsShown(q.Question.Key, now) == q.Shown, $"Seed {seed}: {q.Question.Key} shown.");
            if (!q.Question.IsPicked)
                continue;
            var others = all.Where(w => listing.AgreesWithAll(w, q.Question.Key)).ToList();
            for (var v = 0; v < q.Question.Values.Length; v++)
            {
                var key = q.Question.Values[v].Key;
                var possible = others.Exists(w =>
                    w[q.Question.Key] is Answer.Value x && x.Key == key || w[q.Question.Key] is Answer.Ticks t && t.Keys.Contains(key)
                );
                Assert.True(possible == q.Possible[v], $"Seed {seed}: {q.Question.Key} = {key} is {(possible ? "" : "not ")}possible.");
            }
            var none = others.Exists(w => w[q.Question.Key] is Answer.None && listing.IsShown(q.Question.Key, w));
            Assert.True(none == q.NonePossible, $"Seed {seed}: none for {q.Question.Key} is {(none ? "" : "not ")}possible.");
        }
        return reply.Valid;
    }

    /// <summary>Counts and possible values of 2,000 random models equal those of all solutions that CP-SAT (Google.OrTools)
    /// finds.</summary>
    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    public void Random_models_have_the_solutions_that_a_general_solver_finds(int part)
    {
        var compared = 0;
        for (var seed = 30_000 + part * 1400; compared < 1000; seed++)
        {
            var random = new Random(seed);
            var model = RandomModels.Model(random);
            if (CompiledRules.Compile(model.Book, model.Made).Rules is not { } rules)
                continue;
            compared++;
            var given = new Configuration([
                .. RandomModels.Answers(random, model).Given.Where(g => !model.Questions.First(q => q.Key == g.Question).IsPicked),
            ]);
            var solutions = new CpSatModel(model, given).Solutions();
            var reply = rules.Answer(given);
            Assert.True(solutions.Count == reply.Count, $"Seed {seed}: {reply.Count} instead of {solutions.Count}.");
            foreach (var q in reply.Questions.Where(q => q.Question.IsPicked))
                Assert.True(
                    q.Question.Values.Select(v => solutions.Exists(s => s[q.Question.Key].Contains(v.Key))).SequenceEqual(q.Possible),
                    $"Seed {seed}: {q.Question.Key}."
                );
        }
    }

    /// <summary>What is possible in 150 random models equals what Z3 says, asked value by value.</summary>
    [Fact]
    public void Random_models_have_what_Z3_finds_possible()
    {
        var compared = 0;
        for (var seed = 70_000; compared < 150; seed++)
        {
            var random = new Random(seed);
            var model = RandomModels.Model(random);
            if (CompiledRules.Compile(model.Book, model.Made).Rules is not { } rules)
                continue;
            compared++;
            var given = RandomModels.Answers(random, model);
            var z3 = new Z3Model(model, given);
            var reply = rules.Answer(given);
            Assert.True(
                z3.Possible()
                    .SequenceEqual(
                        z3.Picks()
                            .Select(p => reply.Questions.First(q => q.Question.Key == p.Question.Key).Possible[p.Question.PlaceOf(p.Value)])
                    ),
                $"Seed {seed}"
            );
        }
    }

    [Fact]
    public void A_loop_of_visibility_is_refused_with_its_rules_named()
    {
        ImmutableArray<Option> two =
        [
            Sample.Option("a", "x") with
            {
                Role = OptionRole.Extra,
            },
            Sample.Option("b", "x") with
            {
                Role = OptionRole.Extra,
            },
        ];
        var (rules, faults) = CompiledRules.Compile(
            new RuleBook(
                two,
                [Rule("first", Is("a", "x"), new Effect.Show(Keys("b"))), Rule("second", Is("b", "x"), new Effect.Hide(Keys("a")))]
            ),
            new MadeSet([], [])
        );
        Assert.Null(rules);
        var fault = Assert.Single(faults).What;
        Assert.All(["first", "second"], name => Assert.Contains(name, fault, StringComparison.Ordinal));
    }

    [Fact]
    public void A_rule_that_names_what_is_gone_is_broken_says_so_and_takes_no_part()
    {
        var book = new RuleBook(
            Shirt,
            [
                Rule("gone", Is("print", "c"), new Effect.Forbid(Key.Of("size"), Keys("small"))),
                Rule("lost", Is("print", "a"), new Effect.Hide(Keys("ribbon"))),
                Rule("always", Is("print", "a"), new Effect.Hide(Keys("size"))),
            ]
        );
        Assert.Equal(
            [
                "gone: print has no value c.",
                "lost: There is no question ribbon.",
                "always: size splits variants: it is always shown and always needs an answer.",
            ],
            book.Broken.Select(f => $"{f.Where}: {f.What}")
        );
        Assert.Empty(book.Acting);
        Assert.Equal(24, CompiledRules.Compile(book, new MadeSet(Shirt, [])).Rules!.Answer(Configuration.Empty).Count);
    }

    [Fact]
    public void Rules_too_interwoven_are_refused_with_the_bound()
    {
        var questions = Enumerable
            .Range(0, 12)
            .Select(i => Sample.Option($"q{i}", "a", "b", "c", "d") with { Role = OptionRole.Extra })
            .ToImmutableArray();
        var random = new Random(5);
        var rules = Enumerable
            .Range(0, 60)
            .Select(i =>
                Rule(
                    $"r{i}",
                    Is($"q{random.Next(12)}", "abcd"[random.Next(4)].ToString()),
                    new Effect.Forbid(Key.Of($"q{random.Next(12)}"), Keys("abcd"[random.Next(4)].ToString()))
                )
            )
            .ToList();
        var (compiled, faults) = CompiledRules.Compile(new RuleBook(questions, rules), new MadeSet([], []), mostNodes: 500);
        Assert.Null(compiled);
        Assert.Contains("over 500 steps", Assert.Single(faults).What, StringComparison.Ordinal);
    }

    [Fact]
    public void Counts_may_be_of_any_size()
    {
        var questions = Enumerable
            .Range(0, 60)
            .Select(i => Sample.Option($"q{i}", "a", "b", "c", "d", "e", "f", "g", "h", "i") with { Role = OptionRole.Extra })
            .ToImmutableArray();
        var rules = Compile(new RuleModel(questions, [], []));
        Assert.Equal(BigInteger.Pow(10, 60), rules.Answer(Configuration.Empty).Count);
        Assert.Equal(BigInteger.Pow(10, 59), rules.Answer(Configuration.Empty.With(Key.Of("q7"), new Answer.None())).Count);
    }

    [Fact]
    public void An_answer_that_does_not_fit_its_question_is_an_error()
    {
        var rules = Compile(new RuleModel(Shirt, [], []));
        Assert.Throws<ArgumentException>(() => rules.Answer(Configuration.Empty.With(Key.Of("ribbon"), new Answer.None())));
        Assert.Throws<ArgumentException>(() => rules.Answer(Configuration.Empty.With(Key.Of("size"), new Answer.Value(Key.Of("huge")))));
        Assert.Throws<ArgumentException>(() => rules.Answer(Configuration.Empty.With(Key.Of("size"), new Answer.Ticks(Keys("small")))));
    }
}
