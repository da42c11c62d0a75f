namespace Unicus.CoreTests;

/// <summary>What customs ask for: 4 to 12 digits of the Harmonized System and its national endings, however they are grouped.</summary>
public class CustomsTextTests
{
    [Theory]
    [InlineData("4421", true)]
    [InlineData("4421.99.99", true)]
    [InlineData("44 21 99 99 99 99", true)]
    [InlineData("442", false)]
    [InlineData("4421999999991", false)]
    [InlineData("4421-99", false)]
    [InlineData("4421 beehives", false)]
    [InlineData("4 4 2 1 9 9 9 9 9 9 9", false)]
    [InlineData("", false)]
    public void A_code_has_four_to_twelve_digits(string text, bool isCode) => Assert.Equal(isCode, CustomsText.IsCode(text));

    [Theory]
    [InlineData("IE", true)]
    [InlineData("ie", false)]
    [InlineData("IRL", false)]
    [InlineData("I1", false)]
    public void A_country_is_two_capitals(string text, bool isCountry) => Assert.Equal(isCountry, CustomsText.IsCountry(text));
}
