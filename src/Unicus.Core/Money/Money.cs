namespace Unicus.Core.Money;

using System.Globalization;

/// <summary>An exact amount of one currency, always a whole number of its smallest units.</summary>
/// <remarks>
/// Whatever is computed is rounded half away from zero at the moment it is computed
/// (Regulation (EC) No 1103/97, Article 5, rounds a half cent up).
/// </remarks>
public readonly record struct Money : IComparable<Money>
{
    /// <summary>The largest amount that anything may cost, in units of the currency.</summary>
    public const decimal Most = 999_999_999_999m;

    /// <summary>Rounds <paramref name="amount"/> to the currency's minor unit, half away from zero.</summary>
    public Money(decimal amount, Currency currency)
    {
        Currency = currency;
        Amount = Math.Round(amount, currency.MinorUnits, MidpointRounding.AwayFromZero);
    }

    /// <summary>An amount that is a whole number of smallest units already.</summary>
    private Money(Currency currency, decimal whole) => (Currency, Amount) = (currency, whole);

    /// <summary>The amount in units of the currency (86.50 is eighty-six and a half euros).</summary>
    public decimal Amount { get; }

    /// <summary>The currency.</summary>
    public Currency Currency { get; }

    /// <summary>Whether the amount is 0.</summary>
    public bool IsZero => Amount == 0;

    /// <summary>An amount that is known to be a whole number of smallest units, so that nothing is rounded.</summary>
    internal static Money Whole(decimal amount, Currency currency) => new(currency, amount);

    /// <summary>Nothing of a currency.</summary>
    public static Money Zero(Currency currency) => new(0, currency);

    /// <summary>The sum of two amounts of one currency.</summary>
    public static Money operator +(Money a, Money b) => new(Same(a, b), a.Amount + b.Amount);

    /// <summary>The difference of two amounts of one currency.</summary>
    public static Money operator -(Money a, Money b) => new(Same(a, b), a.Amount - b.Amount);

    /// <summary>The amount with the other sign.</summary>
    public static Money operator -(Money a) => new(a.Currency, -a.Amount);

    /// <summary>So many times the amount.</summary>
    public static Money operator *(Money a, int units) => new(a.Currency, a.Amount * units);

    /// <summary>Whether the left amount is the lower.</summary>
    public static bool operator <(Money a, Money b) => a.CompareTo(b) < 0;

    /// <summary>Whether the left amount is the higher.</summary>
    public static bool operator >(Money a, Money b) => a.CompareTo(b) > 0;

    /// <summary>Whether the left amount is not the higher.</summary>
    public static bool operator <=(Money a, Money b) => a.CompareTo(b) <= 0;

    /// <summary>Whether the left amount is not the lower.</summary>
    public static bool operator >=(Money a, Money b) => a.CompareTo(b) >= 0;

    /// <summary>Compares amounts.</summary>
    /// <exception cref="InvalidOperationException">The currencies differ.</exception>
    public int CompareTo(Money other)
    {
        Same(this, other);
        return Amount.CompareTo(other.Amount);
    }

    /// <summary>The amount with exactly the currency's decimals and a point: 205.50. This is the form of documents.</summary>
    public override string ToString() => Amount.ToString("F" + Currency.MinorUnits, CultureInfo.InvariantCulture);

    /// <summary>The amount for people, with thousands set apart: 1,340.50.</summary>
    public string ForPeople() => Amount.ToString("N" + Currency.MinorUnits, CultureInfo.InvariantCulture);

    private static Currency Same(Money a, Money b) =>
        ReferenceEquals(a.Currency, b.Currency) || a.Currency == b.Currency
            ? a.Currency
            : throw new InvalidOperationException($"{a.Currency} and {b.Currency} cannot be reckoned together.");
}

/// <summary>Sums of money.</summary>
public static class MoneySums
{
    /// <summary>The sum of all amounts; zero for none.</summary>
    public static Money Sum(this IEnumerable<Money> amounts, Currency currency) =>
        amounts.Aggregate(Money.Zero(currency), (sum, amount) => sum + amount);
}
