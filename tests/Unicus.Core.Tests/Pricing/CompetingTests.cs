using CsCheck;

namespace Unicus.CoreTests;

/// <summary>Rules that compete for the lowest price of a unit (domain.md, section 5, stage 3).</summary>
public class CompetingTests
{
    private static readonly Gen<PriceEffect> Effects = Gen.OneOf(
        Gen.Int[1, 400].Select(p => (PriceEffect)new PriceEffect.Reduce(p / 4m, null)),
        Gen.Int[1, 12].Select(p => (PriceEffect)new PriceEffect.Reduce(10 + p / 1000m, null)),
        Gen.Long[1, 60].Select(a => (PriceEffect)new PriceEffect.Reduce(null, a)),
        Gen.Long[0, 60].Select(p => (PriceEffect)new PriceEffect.SetUnit(p)),
        Gen.Long[500, 40_000].Select(p => (PriceEffect)new PriceEffect.SetUnit(p))
    );

    /// <summary>Law: the rule that acts is the first of those with the lowest result, at small prices too, where rounding makes different
    /// rules equal; looking only at those that lead changes nothing.</summary>
    [Fact]
    public void The_first_of_those_with_the_lowest_result_acts() =>
        Gen.Select(Effects.Array[1, 12], Gen.OneOf(Gen.Long[1, 40], Gen.Long[1, 2_000], Gen.Long[9_000, 60_000]), Gen.Long[-30, 30])
            .Sample(
                (effects, list, answers) =>
                {
                    var uses = effects.Select((e, i) => new RuleUse(new PriceRule(Key.Of($"r{i}"), "", e))).ToArray();
                    var line = Line(list, answers);
                    if (line.Unit <= 0)
                        return;
                    var lowest = uses.Min(u => u.Left(line, line.Unit));
                    var first = lowest < line.Unit ? uses.First(u => u.Left(line, line.Unit) == lowest) : null;
                    UnitStage.Run(line, new UnitRules(uses));
                    Assert.Equal(Math.Min(lowest, list + answers), line.Unit);
                    Assert.Equal(first, uses.FirstOrDefault(u => u.Moved != 0));
                },
                iter: 60_000
            );

    /// <summary>Thirty percentages are not looked at one by one where none of them can come to the same as another.</summary>
    [Fact]
    public void Only_those_that_lead_are_looked_at()
    {
        RuleUse[] uses =
        [
            .. Enumerable.Range(1, 30).Select(p => new RuleUse(new PriceRule(Key.Of($"r{p}"), "", new PriceEffect.Reduce(p, null)))),
        ];
        var rules = new UnitRules(uses).Best;
        Assert.Equal(30, rules.LookedAt(99).Length);
        Assert.Equal(uses[29], rules.LookedAt(100)[0]);
        Assert.Equal(1, rules.LookedAt(100).Length);
    }

    private static LineRun Line(long list, long answers)
    {
        var product = new Product(ProductCode.Of("C"), "C") { Base = new Figures { Price = new Money(1, Currency.Euro) } };
        return LineRun.Bare(LineGoods.Of(product.Matrix().Variants[0], list, null), answers, 1);
    }
}
