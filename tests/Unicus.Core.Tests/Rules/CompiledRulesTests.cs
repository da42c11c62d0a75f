using System.Collections.Immutable;
using System.Numerics;

namespace Unicus.Core.Tests;

public class CompiledRulesTests
{
    private static readonly ImmutableArray<Option> Shirt =
    [
        Sample.Option("colour", "black", "white", "red", "blue"), Sample.Option("size", "small", "medium", "large"), Sample.Option("print", "a", "b"),
    ];

    private static Condition.Is Is(string question, params string[] values) => new Condition.Is(Key.Of(question), [.. values.Select(Key.Of)]);

    private static SelectionRule Rule(string key, Condition when, params Effect[] then) => new(Key.Of(key), when, [.. then]);

    private static ImmutableArray<Key> Keys(params string[] keys) => [.. keys.Select(Key.Of)];

    internal static CompiledRules Compile(RuleModel model, int mostNodes = CompiledRules.MostNodes) => CompiledRules.Compile(model.Book, model.Made, mostNodes: mostNodes) is { Rules: { } rules } ? rules : throw new InvalidOperationException();

    /// <summary>
    /// Andersen, Hadzic, Pisinger, “Interactive Cost Configuration Over Decision Diagrams”, JAIR 37 (2010), from memory: four colours × three sizes × two prints with two rules leave 11
    /// of 24; with small picked, print A and black only: 1.
    /// </summary>
    [Fact]
    public void Two_rules_leave_eleven_of_twenty_four()
    {
        var rules = Compile(new RuleModel(Shirt, [Rule("a-on-black", Is("print", "a"), new Effect.AllowOnly(Key.Of("colour"), Keys("black"))), Rule("b-not-small", Is("print", "b"), new Effect.Forbid(Key.Of("size"), Keys("small")))], []));
        Assert.Equal(11, rules.Answer(Configuration.Empty).Count);
        var small = rules.Answer(Configuration.Empty.With(Key.Of("size"), new Answer.Value(Key.Of("small"))));
        Assert.Equal(1, small.Count);
        Assert.Equal(["black"], Possible(small, "colour"));
        Assert.Equal(["a"], Possible(small, "print"));
        Assert.Equal(["small", "medium", "large"], Possible(small, "size"));
        Assert.Equal(24, Compile(new RuleModel(Shirt, [], [])).Answer(Configuration.Empty).Count);
    }

    private static IEnumerable<string> Possible(RulesReply reply, string question) =>
        reply.Questions.First(q => q.Question.Key.Text == question) is var q ? q.Question.Values.Where((_, i) => q.Possible[i]).Select(v => v.Key.Text) : [];

    /// <summary>Everything the engine says of 4,000 random models with random answers equals what plain listing of all configurations says.</summary>
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
            if (!q.Question.IsPicked) continue;
            var others = all.Where(w => listing.AgreesWithAll(w, q.Question.Key)).ToList();
            for (var v = 0; v < q.Question.Values.Length; v++)
            {
                var key = q.Question.Values[v].Key;
                var possible = others.Exists(w => w[q.Question.Key] is Answer.Value x && x.Key == key || w[q.Question.Key] is Answer.Ticks t && t.Keys.Contains(key));
                Assert.True(possible == q.Possible[v], $"Seed {seed}: {q.Question.Key} = {key} is {(possible ? "" : "not ")}possible.");
            }
            var none = others.Exists(w => w[q.Question.Key] is Answer.None && listing.IsShown(q.Question.Key, w));
            Assert.True(none == q.NonePossible, $"Seed {seed}: none for {q.Question.Key} is {(none ? "" : "not ")}possible.");
        }
        return reply.Valid;
    }
}
