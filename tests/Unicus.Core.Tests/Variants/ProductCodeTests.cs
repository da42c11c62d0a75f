namespace Unicus.CoreTests;

public class ProductCodeTests
{
    [Theory]
    [InlineData("gh1", "GH1")]
    [InlineData(" a-b.c_9 ", "A-B.C_9")]
    [InlineData("A", "A")]
    [InlineData("", null)]
    [InlineData("A B", null)]
    [InlineData("A!B", null)]
    [InlineData("-A", null)]
    [InlineData("A.", null)]
    [InlineData("ÄB", null)]
    [InlineData("A23456789012345678901234567890123", null)]
    public void A_code_is_letters_and_digits_with_marks_between(string typed, string? code)
    {
        var read = ProductCode.Parse(typed);
        Assert.Equal((code is not null, code), (read.Ok, read.Ok ? read.Value.Text : null));
        Assert.Equal(code is null, read.Problem is not null);
    }

    [Fact]
    public void A_code_made_of_a_name_is_one_that_is_free()
    {
        var taken = new HashSet<ProductCode>();
        for (var i = 0; i < 50; i++)
            Assert.True(taken.Add(ProductCode.From("Garden hive", taken.Contains)));
        Assert.All(taken, c => Assert.Equal(c, ProductCode.Parse(c.Text).Value));
    }
}
