using System.Globalization;

namespace Unicus.CoreTests;

/// <summary>Amounts as people read them, against the platform's CLDR data and against figures from memory of it.</summary>
public sealed class PriceFormTests
{
    [Theory]
    // Unicode CLDR, charts of currency formats, from memory.
    [InlineData("en-IE", "EUR", "1340.5", "€1,340.50")]
    [InlineData("de-DE", "EUR", "1340.5", "1.340,50 €")]
    [InlineData("fr-FR", "EUR", "1340.5", "1 340,50 €")]
    [InlineData("en-GB", "GBP", "-3.2", "-£3.20")]
    [InlineData("en-GB", "EUR", "3.2", "€3.20")]
    [InlineData("en-IE", "USD", "3.2", "USD 3.20")]
    [InlineData("en-IE", "JPY", "1340", "JPY 1,340")]
    [InlineData("de-DE", "BHD", "1.5", "1,500 BHD")]
    public void Signs_places_and_separators_are_those_of_the_country(string locale, string currency, string amount, string expected)
    {
        var money = new Money(decimal.Parse(amount, CultureInfo.InvariantCulture), Currency.Of(currency));
        var text = PriceForm.Of(locale, money.Currency)!.Text(money);
        Assert.Equal(expected, string.Concat(text.Select(c => char.IsWhiteSpace(c) ? ' ' : c)));
    }

    [Fact]
    public void Every_country_with_its_own_currency_reads_as_the_platform_writes_it()
    {
        var looked = 0;
        foreach (var culture in CultureInfo.GetCultures(CultureTypes.SpecificCultures))
        {
            if (Currency.Find(new RegionInfo(culture.Name).ISOCurrencySymbol) is not { } currency)
                continue;
            if (culture.NumberFormat.CurrencyDecimalDigits != currency.MinorUnits)
                continue;
            looked++;
            var text = PriceForm.Of(culture.Name, currency)!.Text(new Money(12345m, currency));
            Assert.Equal(12345m.ToString("C", culture), text);
        }
        Assert.True(looked > 200, $"{looked}");
    }

    [Fact]
    public void A_locale_that_is_none_and_an_amount_of_another_currency_are_refused()
    {
        Assert.Null(PriceForm.Of("xx-QQ", Currency.Euro));
        Assert.Null(PriceForm.Of("", Currency.Euro));
        Assert.Throws<InvalidOperationException>(() => PriceForm.Of("en-IE", Currency.Euro)!.Text(new Money(1m, Currency.Of("GBP"))));
    }
}
