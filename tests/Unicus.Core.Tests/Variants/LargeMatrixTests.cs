using CsCheck;

namespace Unicus.CoreTests;

/// <summary>The compact matrix against listing everything out the plain way.</summary>
public class LargeMatrixTests
{
    /// <summary>Law: places, numbers, texts and combinations of the made set name each other.</summary>
    [Fact]
    public void Numbers_places_and_texts_agree() =>
        Sample.Matrices.Sample(
            (options, notMade) =>
            {
                var made = new MadeSet(options, notMade);
                for (var i = 0; i < made.Count; i++)
                {
                    var number = made.Made()[i];
                    Assert.Equal(i, made.IndexOf(number));
                    Assert.Equal(made.At(number).Text, made.TextAt(number));
                    Assert.Equal(number, made.NumberOf(made.TextAt(number)));
                    Assert.True(made.IsMade(number));
                }
                Assert.Equal(made.Combinations - made.Count, Enumerable.Range(0, made.Combinations).Count(n => made.IndexOf(n) < 0));
            }
        );

    [Theory]
    [InlineData("depth=deep")]
    [InlineData("depth=deep,timber=cedar,more=x")]
    [InlineData("depth=deep,timber=oak")]
    [InlineData("timber=cedar,depth=deep")]
    [InlineData("")]
    [InlineData(",")]
    public void A_text_of_other_options_has_no_number(string text) => Assert.Null(new MadeSet(Sample.Hive.Options, []).NumberOf(text));

    /// <summary>Law: a cell is the same whichever way it is asked for, and its SKU is the one that its place makes.</summary>
    [Fact]
    public void Cells_are_the_same_by_place_number_values_and_SKU() =>
        Sample.Matrices.Sample(
            (options, notMade) =>
            {
                var matrix = (Sample.Hive with { Options = options, NotMade = notMade }).Matrix();
                for (var i = 0; i < matrix.Variants.Count; i++)
                {
                    var cell = matrix.Variants[i];
                    Assert.Same(cell, matrix.At(cell.Number));
                    Assert.Same(cell, matrix.Find(cell.Values));
                    Assert.Same(cell, matrix.Find(cell.Values.Text));
                    Assert.Equal(matrix.SkuAt(i), cell.Sku);
                    Assert.Equal(cell.Sku, matrix.Find(cell.Sku)!.Sku);
                }
                Assert.Equal(matrix.Offered.Count(), matrix.OfferedCount);
            }
        );

    /// <summary>Law: the short way of a change that only adds finds what the long way finds.</summary>
    [Fact]
    public void Adding_the_short_way_is_adding_the_long_way() =>
        Gen.Select(Sample.Matrices, Gen.Int[0, 3], Gen.Int[1, 3])
            .Sample(
                (before, at, more) =>
                {
                    if (before.Options.IsEmpty)
                        return;
                    var grown = before.Options[at % before.Options.Length];
                    var after = before.Options.Replace(
                        grown,
                        grown with
                        {
                            Values =
                            [
                                .. Enumerable.Range(0, more).Select(i => new OptionValue(Key.Of($"new{i}"), $"New {i}")),
                                .. grown.Values,
                            ],
                        }
                    );
                    Assert.True(OptionChange.OnlyAdds(before.Options, after));
                    var made = new MadeSet(before.Options, before.NotMade);
                    var stakes = made.Made().Select(n => new VariantStake(new Variant(made.At(n)), 0, false));
                    var whole = OptionChange.Work(before.Options, after, before.NotMade, stakes, new OptionDecisions());
                    Assert.Equal(
                        whole.New.Select(c => c.Text).Order(),
                        OptionChange.Added(before.Options, after, before.NotMade).Select(c => c.Text).Order()
                    );
                    Assert.False(OptionChange.OnlyAdds(after, before.Options));
                }
            );

    [Fact]
    public void A_hundred_thousand_cells_are_not_built_until_they_are_asked_for()
    {
        var options = Enumerable.Range(0, 5).Select(o => Sample.Option($"o{o}", [.. Enumerable.Range(0, 10).Select(v => $"v{v}")]));
        var product = Sample.Hive with { Options = [.. options] };
        var before = GC.GetAllocatedBytesForCurrentThread();
        var matrix = product.Matrix();
        Assert.Equal("GH1-V9-V9-V9-V9-V9", matrix.Variants[99_999].Sku.Text);
        Assert.True(GC.GetAllocatedBytesForCurrentThread() - before < 8_000_000, "less than 80 bytes a variant");
    }
}
