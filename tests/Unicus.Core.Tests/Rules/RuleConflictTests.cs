using System.Collections.Immutable;
using System.Numerics;
using static Unicus.CoreTests.CompiledRulesTests;

namespace Unicus.CoreTests;

/// <summary>Conflicts of answers, and what mends them.</summary>
public class RuleConflictTests
{
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
}
