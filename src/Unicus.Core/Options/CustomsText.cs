namespace Unicus.Core.Options;

/// <summary>What customs ask of goods, as texts.</summary>
public static class CustomsText
{
    /// <summary>The shape of a commodity code, in a sentence.</summary>
    public const string CodeShape = "A customs code has 4 to 12 digits, with points or gaps if wished: 4415 20 20.";

    /// <summary>The shape of a country, in a sentence.</summary>
    public const string CountryShape = "A country is two capital letters of ISO 3166-1, such as IE.";

    /// <summary>Whether a text can be a commodity code.</summary>
    public static bool IsCode(string text) =>
        text.Length <= 20 && text.Count(char.IsAsciiDigit) is >= 4 and <= 12 && text.All(c => char.IsAsciiDigit(c) || c is ' ' or '.');

    /// <summary>Whether a text can be a country.</summary>
    public static bool IsCountry(string text) => text.Length == 2 && text.All(char.IsAsciiLetterUpper);
}
