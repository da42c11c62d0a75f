using System.Collections.Immutable;

namespace Unicus.CoreTests;

/// <summary>Random models of every feature mix, small enough to be listed out.</summary>
internal static class RandomModels
{
    public static RuleModel Model(Random random)
    {
        var questions = ImmutableArray.CreateBuilder<Option>();
        for (var i = random.Next(1, 4); i > 0; i--)
            questions.Add(Question(random, $"v{i}", OptionRole.Variant, Ask.One));
        for (var i = random.Next(0, 4); i > 0; i--)
            questions.Add(Question(random, $"x{i}", OptionRole.Extra, (Ask)random.Next(0, 6)));
        var all = Shuffled(questions, random);
        var rules = Enumerable
            .Range(0, random.Next(0, 7))
            .Select(i => new SelectionRule(Key.Of($"r{i}"), When(random, all, 2), [Then(random, all)]) { Off = random.Next(12) == 0 })
            .ToImmutableArray();
        var variants = all.Where(q => q.Role == OptionRole.Variant).ToImmutableArray();
        var notMade = Enumerable
            .Range(0, random.Next(0, 4))
            .Select(_ =>
                Combination.Of(variants.Where(_ => random.Next(3) > 0).Select(o => (o.Key, o.Values[random.Next(o.Values.Length)].Key)))
            )
            .Where(c => c.Pairs.Length > 0)
            .ToImmutableArray();
        return new RuleModel(all, rules, notMade);
    }

    /// <summary>Answers to some of the questions, not always ones that can stand together.</summary>
    public static Configuration Answers(Random random, RuleModel model)
    {
        var given = Configuration.Empty;
        foreach (var question in Shuffled([.. model.Questions], random))
        {
            if (random.Next(2) == 0)
                continue;
            given = given.With(
                question.Key,
                question.Ask switch
                {
                    Ask.Text => new Answer.Text("Orla"),
                    Ask.Number => new Answer.Number(random.Next(0, 12)),
                    Ask.Date => new Answer.Date(new DateOnly(2027, 3, 5)),
                    _ when question.Role == OptionRole.Extra && random.Next(4) == 0 => new Answer.None(),
                    Ask.Several => new Answer.Ticks([.. question.Values.Where((_, i) => i == 0 || random.Next(2) == 0).Select(v => v.Key)]),
                    _ => new Answer.Value(question.Values[random.Next(question.Values.Length)].Key),
                }
            );
        }
        return given;
    }

    private static Option Question(Random random, string key, OptionRole role, Ask ask)
    {
        var values = ask switch
        {
            Ask.YesNo => ["yes"],
            Ask.Text or Ask.Number or Ask.Date => [],
            _ => Enumerable.Range(0, random.Next(1, 4)).Select(v => $"a{v}").ToArray(),
        };
        var max = random.Next(0, values.Length + 1);
        return Sample.Option(key, values) with
        {
            Role = role,
            Ask = ask,
            Required = role == OptionRole.Extra && random.Next(3) == 0,
            Picks = ask == Ask.Several ? new PickLimits(random.Next(0, values.Length + 1), max == 0 ? null : max) : default,
        };
    }

    private static Condition When(Random random, ImmutableArray<Option> all, int depth)
    {
        if (depth > 0 && random.Next(3) == 0)
        {
            ImmutableArray<Condition> of = [.. Enumerable.Range(0, random.Next(0, 3)).Select(_ => When(random, all, depth - 1))];
            return random.Next(3) switch
            {
                0 => new Condition.All(of),
                1 => new Condition.Any(of),
                _ => new Condition.Not(When(random, all, depth - 1)),
            };
        }
        var question = all[random.Next(all.Length)];
        if (question.Ask == Ask.Number && random.Next(2) == 0)
            return random.Next(2) == 0 ? new Condition.AtLeast(question.Key, 5) : new Condition.AtMost(question.Key, 8);
        return question.IsPicked && random.Next(4) > 0
            ? new Condition.Is(question.Key, Some(random, question))
            : new Condition.Answered(question.Key);
    }

    private static Effect Then(Random random, ImmutableArray<Option> all)
    {
        var (extras, picked) = (all.Where(q => q.Role == OptionRole.Extra).ToList(), all.Where(q => q.IsPicked).ToList());
        if (extras.Count > 0 && random.Next(2) == 0)
        {
            ImmutableArray<Key> some = [.. extras.Where(_ => random.Next(2) == 0).Select(e => e.Key).DefaultIfEmpty(extras[0].Key)];
            return random.Next(3) switch
            {
                0 => new Effect.Hide(some),
                1 => new Effect.Show(some),
                _ => new Effect.Require(some),
            };
        }
        var question = picked[random.Next(picked.Count)];
        return random.Next(2) == 0
            ? new Effect.Forbid(question.Key, Some(random, question))
            : new Effect.AllowOnly(question.Key, Some(random, question));
    }

    private static ImmutableArray<Key> Some(Random random, Option question) =>
        [
            .. question
                .Values.Where(_ => random.Next(2) == 0)
                .Select(v => v.Key)
                .DefaultIfEmpty(question.Values[random.Next(question.Values.Length)].Key),
        ];

    private static ImmutableArray<Option> Shuffled(IEnumerable<Option> options, Random random) => [.. options.OrderBy(_ => random.Next())];
}
