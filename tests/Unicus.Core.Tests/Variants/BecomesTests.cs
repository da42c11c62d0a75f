using System.Collections.Immutable;

namespace Unicus.CoreTests;

/// <summary>Two values that mean the same become one.</summary>
public class BecomesTests
{
    private static readonly Option Depth = Sample.Option("depth", "shallow", "deep");
    private static readonly Option Timber = Sample.Option("timber", "larch", "pine");

    private static MatrixDifference Merge(params string[] notMade)
    {
        var gone = notMade.Select(Combination.Parse).ToList();
        var made = new MadeSet([Depth, Timber], gone);
        var stakes = made.Made().Select(made.At).Select(c => new VariantStake(new Variant(c), 10, true));
        var after = Timber with { Values = Timber.Values.RemoveAt(1) };
        return OptionChange.Work(
            [Depth, Timber],
            [Depth, after],
            gone,
            stakes,
            new OptionDecisions
            {
                Becomes = ImmutableDictionary<(Key, Key), Key>.Empty.Add((Key.Of("timber"), Key.Of("pine")), Key.Of("larch")),
            }
        );
    }

    [Fact]
    public void Variants_that_coincide_are_merged_and_the_one_that_was_there_stays()
    {
        var d = Merge();
        Assert.Equal(
            ["depth=deep,timber=larch", "depth=shallow,timber=larch"],
            d.Merged.Select(m => m.Survivor.Variant.Values.Text).Order()
        );
        Assert.Empty(d.Retired);
    }

    [Theory]
    [InlineData("depth=shallow,timber=pine")]
    [InlineData("depth=shallow,timber=larch")]
    public void What_is_made_of_one_of_them_is_made(string notMade)
    {
        var d = Merge(notMade);
        Assert.Empty(d.NotMade);
        Assert.Empty(d.Retired);
        Assert.Single(d.Merged);
        Assert.Equal("depth=shallow,timber=larch", Assert.Single(d.Kept).Values.Text);
    }

    [Fact]
    public void What_is_made_of_neither_stays_not_made()
    {
        var d = Merge("depth=shallow,timber=pine", "depth=shallow,timber=larch");
        Assert.Equal("depth=shallow,timber=larch", Assert.Single(d.NotMade).Text);
        Assert.Single(d.Merged);
    }
}
