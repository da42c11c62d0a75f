using System.Collections.Immutable;

namespace Unicus.CoreTests;

/// <summary>One destination with one tax of 20 %, included in prices, for tests of price rules.</summary>
internal static class RuleTerms
{
    public static readonly TradeTerms Terms = new(
        Currency.Euro,
        true,
        [new TaxClass(Key.Of("standard"), "Standard")],
        [new Destination("IE", "Ireland", ImmutableSortedDictionary<string, decimal>.Empty.Add("standard", 20), [])]
    );

    public static RunTerms Under(IEnumerable<PriceRule> rules, params string[] coupons) =>
        new(Terms, Terms.Destinations[0])
        {
            Buying = RuleContext.Anyone(DateTimeOffset.UnixEpoch, TimeZoneInfo.Utc, new PriceBook(rules, [])) with
            {
                Coupons = [.. coupons.Select(c => new NamedCoupon(c))],
            },
        };
}
