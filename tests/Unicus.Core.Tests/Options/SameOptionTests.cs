using System.Reflection;

namespace Unicus.CoreTests;

/// <summary>Options and values differ when any one of their properties does, so that no change of one is taken for none.</summary>
public class SameOptionTests
{
    private static OptionValue Value() =>
        new(Key.Of("a"), "A")
        {
            SkuCode = "A",
            Swatch = new Swatch.Stripes(["#112233", "#445566"]),
            Surcharge = new Surcharge.Percent(new Percentage(5)),
            Figures = new Figures { Price = Sample.Eur(1) },
            Cost = Sample.Eur(2),
            Part = new ValuePart("P", 1),
        };

    private static Option Option() =>
        new(Key.Of("o"), "O", OptionRole.Extra)
        {
            Help = "h",
            Library = Key.Of("l"),
            Default = Key.Of("a"),
            Ask = Ask.Several,
            Picks = new PickLimits(1, 2),
            MaxLength = 3,
            Characters = "A-Z",
            Number = new NumberLimits(1, 2, 1, "cm"),
            Date = new DateLimits(1, 2, [DayOfWeek.Sunday]),
            Surcharge = new Surcharge.Table(null, [new TableRow(2, [new TableCell(1, Sample.Eur(1))])]),
            Preset = ["a"],
            Behind = 1,
            FromSet = Key.Of("s"),
            Values = [Value()],
        };

    [Fact]
    public void What_is_made_twice_alike_is_the_same()
    {
        Assert.Equal(Value(), Value());
        Assert.Equal(Option(), Option());
        Assert.Equal(Option().GetHashCode(), Option().GetHashCode());
    }

    [Fact]
    public void A_value_differs_when_any_one_of_its_properties_does() =>
        Differs(
            Value,
            [
                v => v with { Key = Key.Of("b") },
                v => v with { Label = "B" },
                v => v with { SkuCode = "B" },
                v => v with { Swatch = new Swatch.Stripes(["#112233", "#445567"]) },
                v => v with { Surcharge = new Surcharge.Percent(new Percentage(6)) },
                v => v with { Figures = new Figures { Price = Sample.Eur(2) } },
                v => v with { DoesNotApply = true },
                v => v with { Cost = null },
                v => v with { Part = new ValuePart("P", 2) },
            ]
        );

    [Fact]
    public void An_option_differs_when_any_one_of_its_properties_does() =>
        Differs(
            Option,
            [
                o => o with { Key = Key.Of("p") },
                o => o with { Label = "P" },
                o => o with { Role = OptionRole.Variant },
                o => o with { Help = null },
                o => o with { Library = null },
                o => o with { Default = null },
                o => o with { SharesSku = true },
                o => o with { Ask = Ask.One },
                o => o with { Required = true },
                o => o with { Picks = new PickLimits(1, 3) },
                o => o with { MaxLength = null },
                o => o with { Characters = "a-z" },
                o => o with { Number = new NumberLimits(1, 2, 1, "m") },
                o => o with { Date = new DateLimits(1, 2, [DayOfWeek.Monday]) },
                o => o with { Surcharge = new Surcharge.Table(null, [new TableRow(2, [new TableCell(1, Sample.Eur(2))])]) },
                o => o with { Preset = [] },
                o => o with { Behind = null },
                o => o with { FromSet = null },
                o => o with { IsSlot = true },
                o => o with { Values = [Value() with { Label = "B" }] },
            ]
        );

    /// <summary>Each change makes another, and together they change every property that can be set.</summary>
    private static void Differs<T>(Func<T> make, Func<T, T>[] changes)
        where T : notnull
    {
        var settable = typeof(T).GetProperties().Where(p => p.SetMethod is not null).ToList();
        var changed = new HashSet<string>();
        foreach (var change in changes)
        {
            var (before, after) = (make(), change(make()));
            Assert.NotEqual(before, after);
            changed.UnionWith(settable.Where(p => !Same(p, before, after)).Select(p => p.Name));
        }
        Assert.Equal(settable.Select(p => p.Name).Order(), changed.Order());
    }

    private static bool Same<T>(PropertyInfo property, T one, T other)
    {
        var (a, b) = (property.GetValue(one), property.GetValue(other));
        return a is System.Collections.IEnumerable x and not string && b is System.Collections.IEnumerable y
            ? x.Cast<object>().SequenceEqual(y.Cast<object>())
            : Equals(a, b);
    }
}
