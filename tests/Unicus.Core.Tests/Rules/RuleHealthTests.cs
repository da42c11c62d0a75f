using System.Collections.Immutable;
using System.Numerics;
using static Unicus.CoreTests.CompiledRulesTests;

namespace Unicus.CoreTests;

/// <summary>What is said of rules that can never hold, or change nothing.</summary>
public class RuleHealthTests
{
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
}
