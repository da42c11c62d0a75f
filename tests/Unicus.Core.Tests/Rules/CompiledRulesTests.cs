using System.Collections.Immutable;
using System.Numerics;

namespace Unicus.CoreTests;

public class CompiledRulesTests
{
    private static readonly ImmutableArray<Option> Shirt =
    [
        Sample.Option("colour", "black", "white", "red", "blue"),
        Sample.Option("size", "small", "medium", "large"),
        Sample.Option("print", "a", "b"),
    ];

    private static Condition.Is Is(string question, params string[] values) =>
        new Condition.Is(Key.Of(question), [.. values.Select(Key.Of)]);

    private static SelectionRule Rule(string key, Condition when, params Effect[] then) => new(Key.Of(key), when, [.. then]);

    private static ImmutableArray<Key> Keys(params string[] keys) => [.. keys.Select(Key.Of)];

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

    private static IEnumerable<string> Possible(RulesReply reply, string question) =>
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

    /// <summary>
    /// Junker, “QuickXplain: Preferred Explanations and Relaxations for Over-Constrained Problems”, AAAI 2004, from memory: a station
    /// wagon with roof racks 500, a CD player 500, one more
    /// seat 800, metal colour 500 and the luxury version 2600, for at most 3000. All but luxury cost 2300; with luxury any other is too
    /// much. Of the minimal conflicts the one is told whose
    /// answers were given last.
    /// </summary>
    [Theory]
    [InlineData("racks cd seat metal luxury", "luxury metal")]
    [InlineData("luxury metal seat cd racks", "luxury racks")]
    [InlineData("racks luxury seat", "luxury seat")]
    [InlineData("racks cd seat metal", null)]
    public void A_conflict_of_the_priced_options_is_minimal_and_keeps_what_was_given_last(string wishes, string? conflict)
    {
        (string Name, int Cost)[] priced = [("racks", 500), ("cd", 500), ("seat", 800), ("metal", 500), ("luxury", 2600)];
        var questions = priced
            .Select(p => Sample.Option(p.Name, "yes") with { Role = OptionRole.Extra, Ask = Ask.YesNo })
            .ToImmutableArray();
        var over = Enumerable
            .Range(1, 31)
            .Select(bits => priced.Where((_, i) => (bits >> i & 1) == 1).ToList())
            .Where(set => set.Sum(p => p.Cost) > 3000 && set.All(p => set.Sum(x => x.Cost) - p.Cost <= 3000));
        var rules = Compile(
            new RuleModel(
                questions,
                [
                    .. over.Select(
                        (set, i) =>
                            Rule(
                                $"over-{i}",
                                new Condition.All([.. set.SkipLast(1).Select(p => Is(p.Name, "yes"))]),
                                new Effect.Forbid(Key.Of(set[^1].Name), Keys("yes"))
                            )
                    ),
                ],
                []
            )
        );
        var found = ConflictFinder.Find(
            rules,
            wishes.Split(' ').Aggregate(Configuration.Empty, (g, w) => g.With(Key.Of(w), new Answer.Value(Key.Of("yes"))))
        );
        Assert.Equal(conflict, found is null ? null : string.Join(' ', found.Answers.Select(a => a.Text).Order()));
        if (found is not null)
            Assert.Single(found.Rules);
    }

    /// <summary>Every conflict of 2,000 random models cannot stand, and can without any one of its members, by plain listing and by
    /// CP-SAT; a smallest change leaves no more answers than any configuration with the value.</summary>
    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    public void Random_conflicts_are_minimal_and_changes_are_smallest(int part)
    {
        var (conflicts, changes) = (0, 0);
        for (var seed = 10_000 + part * 1000; seed < 10_000 + (part + 1) * 1000; seed++)
        {
            var random = new Random(seed);
            var model = RandomModels.Model(random);
            if (CompiledRules.Compile(model.Book, model.Made).Rules is not { } rules)
                continue;
            var given = RandomModels.Answers(random, model);
            var listing = new PlainListing(model, given);
            // Where a rule shows two questions, its key alone does not say which of the two is meant.
            if (
                !model.Rules.Any(r => r.Then.OfType<Effect.Show>().Any(s => s.Questions.Length > 1))
                && ConflictFinder.Find(rules, given) is { } conflict
            )
            {
                conflicts++;
                IsMinimal(model, conflict, listing.CanStand, $"Seed {seed}, listing");
                IsMinimal(
                    model,
                    conflict,
                    (answers, members, notMade) =>
                        new Configuration([.. given.Given.Where(g => answers.Contains(g.Question))]) is var some
                        && new CpSatModel(model, some, (members, notMade)).CanStand(some),
                    $"Seed {seed}, CP-SAT"
                );
            }
            changes += IsSmallest(model, rules, listing, given, random, seed) ? 1 : 0;
        }
        Assert.InRange(conflicts, 50, 1000);
        Assert.InRange(changes, 40, 1000);
    }

    /// <param name="canStand">Whether some answers and rules can stand together, with or without what is not made.</param>
    private static void IsMinimal(
        RuleModel model,
        RuleConflict conflict,
        Func<IReadOnlySet<Key>, IReadOnlySet<Key>, bool, bool> canStand,
        string where
    )
    {
        var (answers, members) = (conflict.Answers.ToHashSet(), conflict.Rules.ToHashSet());
        Assert.False(canStand(answers, members, conflict.NotMade), $"{where}: what is named can stand together.");
        foreach (var answer in answers)
            Assert.True(
                canStand(answers.Where(a => a != answer).ToHashSet(), members, conflict.NotMade),
                $"{where}: {answer} is not needed."
            );
        if (conflict.NotMade)
            Assert.True(canStand(answers, members, false), $"{where}: what is not made is not needed.");
        foreach (var rule in members)
        {
            // All rules that show one question go together.
            var shown = model.Rules.First(r => r.Key == rule).Then.OfType<Effect.Show>().SelectMany(s => s.Questions).ToList();
            var together = model
                .Rules.Where(r => r.Key == rule || r.Then.OfType<Effect.Show>().Any(s => s.Questions.Any(shown.Contains)))
                .Select(r => r.Key)
                .ToHashSet();
            Assert.True(canStand(answers, members.Except(together).ToHashSet(), conflict.NotMade), $"{where}: {rule} is not needed.");
        }
    }

    private static bool IsSmallest(RuleModel model, CompiledRules rules, PlainListing listing, Configuration given, Random random, int seed)
    {
        var listed = model.Questions.Where(q => q.Values.Length > 0).ToList();
        var question = listed[random.Next(listed.Count)];
        var value = question.Values[random.Next(question.Values.Length)].Key;
        var having = listing
            .Valid()
            .Where(w => w[question.Key] is Answer.Value v && v.Key == value || w[question.Key] is Answer.Ticks t && t.Keys.Contains(value))
            .ToList();
        var picks = given.Given.Where(g => g.Question != question.Key && model.Questions.First(q => q.Key == g.Question).IsPicked).ToList();
        var least = having.Count == 0 ? (int?)null : having.Min(w => picks.Count(g => !listing.Agrees(w, g.Question, g.Answer)));
        var change = rules.WhatToChange(given, question.Key, value);
        Assert.True(
            least == change?.Length,
            $"Seed {seed}: {change?.Length} answers instead of {least} make {question.Key} = {value} possible."
        );
        if (change is not { Length: > 0 } answers)
            return false;
        var after = answers.Aggregate(given, (g, a) => g.With(a.Question, a.Becomes));
        Assert.True(
            rules.Answer(after).Questions.First(q => q.Question.Key == question.Key).Possible[question.PlaceOf(value)],
            $"Seed {seed}: the change does not help."
        );
        return true;
    }

    /// <summary>What is said of the health of 2,000 random models, whatever is typed, equals what its definition makes of all
    /// configurations that plain listing, and of all that CP-SAT finds.</summary>
    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    public void Random_rules_are_judged_as_by_listing_and_by_a_general_solver(int part)
    {
        var (sick, well, compared) = (0, 0, 0);
        for (var seed = 20_000 + part * 1400; compared < 1000; seed++)
        {
            var model = RandomModels.Model(new Random(seed));
            if (CompiledRules.Compile(model.Book, model.Made).Rules is not { } rules)
                continue;
            compared++;
            var health = Words(RuleHealth.Of(rules));
            Assert.True(
                Words(Seen.Judge(model, Seen.ByListing)) == health,
                $"Seed {seed}, listing: {Words(Seen.Judge(model, Seen.ByListing))} instead of {health}."
            );
            Assert.True(
                Words(Seen.Judge(model, m => new CpSatModel(m, null).AllSeen())) == health,
                $"Seed {seed}, CP-SAT: not " + $"{health}."
            );
            if (RuleHealth.Of(rules).IsGood)
                well++;
            else
                sick++;
        }
        Assert.InRange(sick, 300, 950);
        Assert.InRange(well, 50, 700);
    }

    /// <summary>Two counterexamples found by the random models, made small.</summary>
    [Fact]
    public void What_may_be_typed_counts_in_the_health_of_rules()
    {
        ImmutableArray<Option> questions =
        [
            Sample.Option("size", "small", "large"),
            new(Key.Of("words"), "Words", OptionRole.Extra) { Ask = Ask.Text },
        ];
        var typed = new Condition.Answered(Key.Of("words"));
        // Large is possible as soon as something is typed.
        var large = RuleHealth.Of(
            Compile(
                new RuleModel(
                    questions,
                    [Rule("large-with-words", new Condition.Not(typed), new Effect.Forbid(Key.Of("size"), Keys("large")))],
                    []
                )
            )
        );
        Assert.True(large.IsGood, Words(large));
        // Of two rules that ask for the same text neither changes anything alone.
        var twice = RuleHealth.Of(
            Compile(
                new RuleModel(
                    questions,
                    [
                        Rule("once", Is("size", "large"), new Effect.Require(Keys("words"))),
                        Rule("again", Is("size", "large"), new Effect.Require(Keys("words"))),
                    ],
                    []
                )
            )
        );
        Assert.Equal(Keys("again", "once"), twice.ChangesNothing.Order());
    }

    private static string Words(RuleHealth h) =>
        h.Impossible
            ? "impossible"
            : $"never possible {string.Join(' ', h.NeverPossible.Order())}, never holds {string.Join(' ', h.NeverHolds)}, changes "
                + $"nothing {string.Join(' ', h.ChangesNothing)}, never shown {string.Join(' ', h.NeverShown.Order())}";

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
