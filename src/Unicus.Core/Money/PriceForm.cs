namespace Unicus.Core.Money;

using System.Collections.Concurrent;
using System.Globalization;

/// <summary>How shoppers read amounts: sign, place and separators by language and country, as Unicode CLDR has them through the
/// platform's ICU.</summary>
public sealed class PriceForm
{
    /// <summary>The form of a shop that has not said anything else.</summary>
    public const string UsualLocale = "en-IE";

    private static readonly ConcurrentDictionary<(string Locale, string Currency), PriceForm> Known = new();

    private readonly Currency _currency;
    private readonly NumberFormatInfo _format;

    private PriceForm(CultureInfo culture, Currency currency)
    {
        _currency = currency;
        _format = (NumberFormatInfo)culture.NumberFormat.Clone();
        _format.CurrencyDecimalDigits = currency.MinorUnits;
        if (new RegionInfo(culture.Name).ISOCurrencySymbol == currency.Code)
            return;
        _format.CurrencySymbol = SignOf(currency);
        // Letters stand apart from figures.
        if (char.IsAsciiLetter(_format.CurrencySymbol[^1]) && _format.CurrencyPositivePattern == 0)
            (_format.CurrencyPositivePattern, _format.CurrencyNegativePattern) = (2, 12);
    }

    /// <summary>The form for a language and country.</summary>
    /// <param name="locale">Such as en-IE (BCP 47).</param>
    /// <param name="currency">In which amounts are.</param>
    /// <returns>Null where the platform knows no such language and country.</returns>
    public static PriceForm? Of(string locale, Currency currency)
    {
        if (Known.TryGetValue((locale, currency.Code), out var known))
            return known;
        var culture = CultureInfo
            .GetCultures(CultureTypes.SpecificCultures)
            .FirstOrDefault(c => string.Equals(c.Name, locale, StringComparison.OrdinalIgnoreCase));
        return culture is null ? null : Known.GetOrAdd((locale, currency.Code), _ => new PriceForm(culture, currency));
    }

    /// <summary>“€1,340.50” in Ireland, “1.340,50 €” in Germany.</summary>
    /// <exception cref="InvalidOperationException">The amount is in another currency.</exception>
    public string Text(Money amount) =>
        amount.Currency == _currency
            ? amount.Amount.ToString("C", _format)
            : throw new InvalidOperationException($"This is the form of {_currency}, not of {amount.Currency}.");

    /// <summary>The sign that everybody reads for one currency; otherwise its code.</summary>
    private static string SignOf(Currency currency) =>
        currency.Code switch
        {
            "EUR" => "€",
            "GBP" => "£",
            var code => code,
        };
}
