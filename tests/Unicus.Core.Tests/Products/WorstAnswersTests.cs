using System.Collections.Immutable;

namespace Unicus.CoreTests;

/// <summary>The answers that the proof of the lowest margin looks at, against a general constraint solver (Google OR-Tools,
/// CP-SAT).</summary>
public class WorstAnswersTests
{
    /// <summary>Of random questions and rules with surcharges and costs: for any weight of what answers cost against what they add, the
    /// worst of the answers that are kept is the worst that the solver finds among all.</summary>
    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    public void The_worst_that_is_kept_is_the_worst_that_the_solver_finds(int part)
    {
        var compared = 0;
        for (var seed = part * 250; seed < (part + 1) * 250; seed++)
        {
            var random = new Random(seed + 900_000);
            var model = RandomModels.Model(random);
            if (!model.Book.Loops.IsEmpty || model.Questions.Any(q => !q.IsPicked))
                continue;
            model = model with
            {
                Questions =
                [
                    .. model.Questions.Select(q =>
                        q.Role == OptionRole.Variant
                            ? q
                            : q with
                            {
                                Surcharge = null,
                                Values = [.. q.Values.Select(v => Weighed(v, random))],
                            }
                    ),
                ],
            };
            var product = new Product(ProductCode.Of("X"), "x")
            {
                Base = new Figures { Price = Sample.Eur(500) },
                Options = [.. model.Questions.Where(q => q.Role == OptionRole.Variant)],
                Extras = [.. model.Questions.Where(q => q.Role == OptionRole.Extra)],
                Rules = model.Rules,
                NotMade = model.NotMade,
            };
            var matrix = product.Matrix();
            var configurator = new Configurator(product, matrix);
            // Where nothing can be configured nothing is sold.
            if (configurator.Rules.IsEmpty)
                continue;
            var worst = new WorstAnswers(configurator, _ => null, default);
            foreach (var variant in matrix.Offered.Take(4))
            {
                var kept = worst.Of(variant, Sample.Eur(500));
                Assert.True(worst.IsExact);
                foreach (var weight in new[] { 0, 1, 3 })
                {
                    var least = new CpSatModel(model, Configuration.Empty).Least(
                        variant.Values.Pairs.Select(p => (p.Option, p.Value)),
                        (question, value) => WeightOf(product, question, value, weight)
                    );
                    Assert.Equal(least, kept.Count == 0 ? null : kept.Min(k => k.Adds - weight * k.Cost));
                    compared += least is null ? 0 : 1;
                }
            }
        }
        Assert.True(compared > 300, $"only {compared} were compared");
    }

    private static OptionValue Weighed(OptionValue value, Random random) =>
        value with
        {
            Surcharge = new Surcharge.PerUnit(Sample.Eur(random.Next(-300, 900) / 100m)),
            Cost = Sample.Eur(random.Next(0, 700) / 100m),
            Part = null,
        };

    private static long WeightOf(Product product, Key question, Key value, int weight)
    {
        if (product.Extras.FirstOrDefault(q => q.Key == question)?.Find(value) is not { } found)
            return 0;
        return MinorUnits.Of(((Surcharge.PerUnit)found.Surcharge!).Amount) - weight * MinorUnits.Of(found.Cost!.Value);
    }
}
