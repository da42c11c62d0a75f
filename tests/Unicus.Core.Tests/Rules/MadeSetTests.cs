using CsCheck;

namespace Unicus.CoreTests;

public class MadeSetTests
{
    /// <summary>Law: what is made, in order, is what listing out all combinations and dropping those not made gives.</summary>
    [Fact]
    public void The_made_set_equals_plain_listing() =>
        Sample.Matrices.Sample(
            (options, notMade) =>
            {
                var made = new MadeSet(options, notMade);
                var expected = Sample.All(options).Where(c => !notMade.Any(n => n.IsWithin(c)));
                Assert.Equal(expected, made.Made().Select(made.At));
                Assert.All(made.Made(), n => Assert.Equal(n, made.NumberOf(made.At(n))));
            }
        );

    /// <summary>Common practice, no source: variants = the product of the numbers of values.</summary>
    [Fact]
    public void The_size_is_the_product_of_the_numbers_of_values_of_any_size()
    {
        Assert.Equal(9, MadeSet.Size([Sample.Option("a", "x", "y", "z"), Sample.Option("b", "x", "y", "z")]));
        var wide = Enumerable.Range(0, 12).Select(i => Sample.Option($"o{i}", [.. Enumerable.Range(0, 10).Select(v => $"v{v}")])).ToList();
        Assert.Equal("1000000000000", MadeSet.Size(wide).ToString());
        Assert.Throws<ArgumentException>(() => new MadeSet(wide, []));
    }
}
