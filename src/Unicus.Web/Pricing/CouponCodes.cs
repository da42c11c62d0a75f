using System.Security.Cryptography;

namespace Unicus.Web.Pricing;

/// <summary>Makes codes that nobody guesses.</summary>
public static class CouponCodes
{
    /// <summary>Letters and digits that are not taken for each other when read aloud or copied by hand.</summary>
    private const string Signs = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789";

    private const int Length = 10;

    /// <summary>A code of ten signs: 32^10, about 10^15, are possible.</summary>
    public static string Make() => RandomNumberGenerator.GetString(Signs, Length);
}
