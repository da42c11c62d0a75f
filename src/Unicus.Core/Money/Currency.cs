namespace Unicus.Core.Money;

using System.Collections.Frozen;

/// <summary>A currency of ISO 4217: its code and how many decimals its smallest unit has.</summary>
/// <remarks>The list is ISO 4217's; a test compares it with the published data.</remarks>
public sealed record Currency
{
    private static readonly FrozenDictionary<string, Currency> All = Build(
        (0, "BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX UYI VND VUV XAF XAG XAU XBA XBB XBC XBD XDR XOF XPD XPF XPT XSU XTS XUA XXX"),
        (
            2,
            "AED AFN ALL AMD ANG AOA ARS AUD AWG AZN BAM BBD BDT BGN BMD BND BOB BOV BRL BSD BTN BWP BYN BZD CAD CDF CHE CHF CHW CNY "
                + "COP COU CRC CUC CUP CVE CZK DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GTQ GYD HKD HNL HTG HUF IDR "
                + "ILS INR IRR JMD KES KGS KHR KPW KYD KZT LAK LBP LKR LRD LSL MAD MDL MGA MKD MMK MNT MOP MRU MUR MVR MWK MXN MXV "
                + "MYR MZN NAD NGN NIO NOK NPR NZD PAB PEN PGK PHP PKR PLN QAR RON RSD RUB SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD "
                + "SSP STN SVC SYP SZL THB TJS TMT TOP TRY TTD TWD TZS UAH USD USN UYU UZS VED VES WST XCD YER ZAR ZMW ZWG"
        ),
        (3, "BHD IQD JOD KWD LYD OMR TND"),
        (4, "CLF UYW")
    );

    private Currency(string code, int minorUnits) => (Code, MinorUnits) = (code, minorUnits);

    /// <summary>The three-letter code, such as EUR.</summary>
    public string Code { get; }

    /// <summary>Decimals of the smallest unit: EUR 2, JPY 0, BHD 3.</summary>
    public int MinorUnits { get; }

    /// <summary>The smallest amount, such as 0.01.</summary>
    public decimal SmallestUnit => new(1, 0, 0, false, (byte)MinorUnits);

    /// <summary>The euro.</summary>
    public static Currency Euro { get; } = Of("EUR");

    /// <summary>Every currency of the list, by code.</summary>
    public static IEnumerable<Currency> Every => All.Values.OrderBy(c => c.Code, StringComparer.Ordinal);

    /// <summary>The currency with this code, or null if ISO 4217 has none.</summary>
    public static Currency? Find(string code) => All.GetValueOrDefault(code.Trim().ToUpperInvariant());

    /// <summary>The currency with this code.</summary>
    /// <exception cref="ArgumentException">ISO 4217 has no such code.</exception>
    public static Currency Of(string code) => Find(code) ?? throw new ArgumentException($"{code} is not a currency code of ISO 4217.");

    /// <summary>The sign that people type before or after an amount, or the code where there is none of its own.</summary>
    public string Sign =>
        Code switch
        {
            "EUR" => "€",
            "GBP" => "£",
            "USD" => "$",
            "JPY" => "¥",
            _ => Code,
        };

    /// <inheritdoc/>
    public override string ToString() => Code;

    private static FrozenDictionary<string, Currency> Build(params (int MinorUnits, string Codes)[] groups) =>
        groups
            .SelectMany(g => g.Codes.Split(' ').Select(code => new Currency(code, g.MinorUnits)))
            .ToFrozenDictionary(c => c.Code, StringComparer.Ordinal);
}
