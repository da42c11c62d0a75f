namespace Unicus.CoreTests;

/// <summary>Unit prices by the kilogram, litre, metre or piece: Directive 98/6/EC, Article 2; by 100 g or 100 ml up to a quarter of a
/// kilogram or litre: common practice, no source.</summary>
public class NetContentTests
{
    [Theory]
    [InlineData("250 g", "3.50", "1.40", "100 g")]
    [InlineData("500g", "3.50", "7.00", "kg")]
    [InlineData("0.7 l", "9.99", "14.27", "l")]
    [InlineData("25 cl", "1.00", "0.40", "100 ml")]
    [InlineData("150 cm", "6.00", "4.00", "m")]
    [InlineData("500 mm", "6.00", "12.00", "m")]
    [InlineData("12 pieces", "7.00", "0.58", "piece")]
    [InlineData("12", "7.00", "0.58", "piece")]
    public void A_price_is_told_for_a_measure_that_can_be_compared(string content, string price, string each, string per)
    {
        var unit = NetContent.Parse(content).Value!.PriceOf(new Money(decimal.Parse(price), Currency.Euro));
        Assert.Equal((each, per), (unit.Price.ToString(), unit.Per));
    }

    [Theory]
    [InlineData("0 g")]
    [InlineData("-1 kg")]
    [InlineData("12 stones")]
    [InlineData("two l")]
    public void What_is_no_content_is_refused(string typed) => Assert.False(NetContent.Parse(typed).Ok);

    [Fact]
    public void What_was_typed_is_read_back() =>
        Assert.All(["0.75 l", "1 piece", "6 pieces"], t => Assert.Equal(t, NetContent.Parse(t).Value!.ToString()));
}
