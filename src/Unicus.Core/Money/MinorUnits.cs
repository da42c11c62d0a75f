namespace Unicus.Core.Money;

/// <summary>Amounts as whole numbers of the currency's smallest unit, in which prices are reckoned inside.</summary>
public static class MinorUnits
{
    /// <summary>An amount as a whole number of smallest units: 205.50 EUR is 20550.</summary>
    public static long Of(Money money)
    {
        var amount = money.Amount;
        for (var i = 0; i < money.Currency.MinorUnits; i++)
            amount *= 10;
        return (long)amount;
    }

    /// <summary>The amount of so many smallest units.</summary>
    public static Money ToMoney(long minor, Currency currency)
    {
        // The digits of the number with the point set, which takes no division.
        var size = (ulong)Math.Abs(minor);
        return Money.Whole(new decimal((int)size, (int)(size >> 32), 0, minor < 0, (byte)currency.MinorUnits), currency);
    }
}
