namespace Unicus.CoreTests;

/// <summary>Source: GS1 General Specifications, check digit calculation, from memory; the EAN-13 example 629104150021 → 3 stands
/// there.</summary>
public class GtinTests
{
    [Theory]
    [InlineData("629104150021", 3)]
    [InlineData("7351353", 7)]
    [InlineData("03600029145", 2)]
    [InlineData("1540014128876", 3)]
    public void Check_digits_are_the_published_ones(string digits, int check)
    {
        Assert.Equal(check, Gtin.CheckDigit(digits));
        Assert.Equal(digits + check, Gtin.Parse(digits + check).Value!.Value.Text);
    }

    [Fact]
    public void A_wrong_digit_anywhere_is_noticed()
    {
        const string right = "6291041500213";
        for (var at = 0; at < right.Length; at++)
            for (var digit = '0'; digit <= '9'; digit++)
                if (digit != right[at])
                    Assert.False(Gtin.Parse(right[..at] + digit + right[(at + 1)..]).Ok);
    }

    [Theory]
    [InlineData("629104150021", "check digit of 629104150021 is wrong: 1 should be")]
    [InlineData("62910415002", "has 8, 12, 13 or 14 digits; this has 11")]
    [InlineData("62910415A0213", "digits only")]
    public void What_is_no_GTIN_says_why(string typed, string why) =>
        Assert.Contains(why, Gtin.Parse(typed).Problem, StringComparison.Ordinal);

    [Fact]
    public void Blanks_and_hyphens_are_left_out_and_nothing_is_nothing()
    {
        Assert.Equal("6291041500213", Gtin.Parse(" 6-291041 500213 ").Value!.Value.Text);
        Assert.Equal(new Read<Gtin?>(null, null), Gtin.Parse("  "));
    }

    [Fact]
    public void The_same_number_with_leading_zeros_is_the_same() => Assert.Equal(Gtin.Of("036000291452"), Gtin.Of("0036000291452"));

    [Theory]
    [InlineData("36000291452", "036000291452")]
    [InlineData("1234565", "01234565")]
    [InlineData("36000291451", "36000291451")]
    [InlineData("6291041500213", "6291041500213")]
    [InlineData("none", "none")]
    public void Zeros_that_a_spreadsheet_dropped_are_put_back_where_that_makes_a_GTIN(string left, string whole) =>
        Assert.Equal(whole, Gtin.WithLostZeros(left));
}
