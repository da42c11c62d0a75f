using CsCheck;

namespace Unicus.Core.Tests;

public class ConfiguratorTests
{
    /// <summary>Law: what is made, in order, is what listing out all combinations and dropping those not made gives.</summary>
    [Fact]
    public void The_made_set_equals_plain_listing() => Sample.Matrices.Sample((options, notMade) =>
    {
        var made = new MadeSet(options, notMade);
        var expected = Sample.All(options).Where(c => !notMade.Any(n => n.IsWithin(c)));
        Assert.Equal(expected, made.Made().Select(made.At));
        Assert.All(made.Made(), n => Assert.Equal(n, made.NumberOf(made.At(n))));
    });

    /// <summary>Common practice, no source: variants = the product of the numbers of values.</summary>
    [Fact]
    public void The_size_is_the_product_of_the_numbers_of_values_of_any_size()
    {
        Assert.Equal(9, MadeSet.Size([Sample.Option("a", "x", "y", "z"), Sample.Option("b", "x", "y", "z")]));
        var wide = Enumerable.Range(0, 12).Select(i => Sample.Option($"o{i}", [.. Enumerable.Range(0, 10).Select(v => $"v{v}")])).ToList();
        Assert.Equal("1000000000000", MadeSet.Size(wide).ToString());
        Assert.Throws<ArgumentException>(() => new MadeSet(wide, []));
    }

    /// <summary>Laws: possible, count, complete and conflict equal what listing out all combinations says; a conflict is subset-minimal.</summary>
    [Fact]
    public void Answers_equal_plain_listing() => Gen.Select(Sample.Matrices, Gen.Int[-1, 3].Array[4]).Sample((matrix, picks) =>
    {
        var made = new MadeSet(matrix.Options, matrix.NotMade);
        var configurator = new Configurator(made, made.Made());
        var answers = matrix.Options.Select((o, i) => (o, picks[i])).Where(x => x.Item2 >= 0 && x.Item2 < x.o.Values.Length).Aggregate(Answers.None, (a, x) => a.With(x.o.Key, x.o.Values[x.Item2].Key));
        var all = Sample.All(matrix.Options).Where(c => !matrix.NotMade.Any(n => n.IsWithin(c))).ToList();
        bool Agrees(Combination c, IEnumerable<Key> questions) => questions.All(q => !answers.Given.TryGetValue(q, out var v) || c[q] == v);
        var state = configurator.Answer(answers);

        var keys = matrix.Options.Select(o => o.Key).ToList();
        var agreeing = all.Where(c => Agrees(c, keys)).ToList();
        Assert.Equal(agreeing.Count, (int)state.Count);
        Assert.Equal(agreeing.Count > 0 && keys.All(answers.Given.ContainsKey), state.Complete);
        foreach (var question in state.Questions)
            for (var i = 0; i < question.Option.Values.Length; i++)
                Assert.Equal(all.Any(c => c[question.Option.Key] == question.Option.Values[i].Key && Agrees(c, keys.Where(k => k != question.Option.Key))), question.Possible[i]);
        Assert.Equal(agreeing.Count == 0, state.Conflict is not null);
        if (state.Conflict is not { } conflict) return;
        Assert.DoesNotContain(all, c => Agrees(c, conflict.Answers));
        Assert.All(conflict.Answers, dropped => Assert.Contains(all, c => Agrees(c, conflict.Answers.Where(a => a != dropped))));
    });

    [Fact]
    public void An_unknown_option_or_value_is_a_programming_error()
    {
        var made = new MadeSet([Sample.Option("depth", "deep")], []);
        Assert.Throws<ArgumentException>(() => new Configurator(made, made.Made()).Answer(Answers.None.With(Key.Of("depth"), Key.Of("wide"))));
    }
}
