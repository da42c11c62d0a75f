namespace Unicus.Core.Pricing;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;

/// <summary>A kind of goods for tax, such as standard or reduced.</summary>
/// <param name="Key">Unique in the shop.</param>
/// <param name="Label">What people read.</param>
public sealed record TaxClass(Key Key, string Label);

/// <summary>Where goods go: a country, with its tax rates by class and the ways of delivery.</summary>
/// <param name="Code">A short code, such as the country's of ISO 3166-1: IE.</param>
/// <param name="Label">What people read.</param>
/// <param name="Rates">Per cent by the key of a tax class; a class without a rate is not taxed.</param>
/// <param name="Services">The usual one first; none where delivery costs nothing and takes everything.</param>
public sealed record Destination(
    string Code,
    string Label,
    ImmutableSortedDictionary<string, decimal> Rates,
    ImmutableArray<DeliveryService> Services
)
{
    /// <summary>The rate of a tax class; 0 % for none and for one without a rate.</summary>
    public Percentage RateOf(string? taxClass) => new(taxClass is not null && Rates.TryGetValue(taxClass, out var rate) ? rate : 0);
}

/// <summary>How a shop reckons: currency, tax mode, classes and destinations.</summary>
/// <param name="Currency">In which amounts are.</param>
/// <param name="PricesIncludeTax">Whether prices are entered and shown with tax.</param>
/// <param name="TaxClasses">The usual one first.</param>
/// <param name="Destinations">The usual one first.</param>
public sealed record TradeTerms(
    Currency Currency,
    bool PricesIncludeTax,
    ImmutableArray<TaxClass> TaxClasses,
    ImmutableArray<Destination> Destinations
)
{
    /// <summary>The least margin that rules may leave, in per cent of the price net of tax; 0: never below cost; null: no
    /// floor.</summary>
    public Percentage? Floor { get; init; }

    /// <summary>Counts of stock are shown to shoppers only below this number; null: always.</summary>
    public int? CountShownBelow { get; init; }

    /// <summary>The class of goods that name none: the first.</summary>
    public string? FirstTaxClass => TaxClasses.IsEmpty ? null : TaxClasses[0].Key.Text;

    /// <summary>The class in force of goods that name this one, or none.</summary>
    public string? InForce(string? taxClass) => taxClass ?? FirstTaxClass;

    /// <summary>The destination with this code, or the first where none is named; null where there is none.</summary>
    public Destination? Find(string? code) =>
        code is null
            ? Destinations.FirstOrDefault()
            : Destinations.FirstOrDefault(d => string.Equals(d.Code, code, StringComparison.OrdinalIgnoreCase));
}

/// <summary>An amount of one tax class.</summary>
/// <param name="Amount">What is paid for goods of the class.</param>
/// <param name="TaxClass">The class that they name; null for the shop's first.</param>
public readonly record struct TaxableAmount(Money Amount, string? TaxClass);

/// <summary>Stage 8: tax by class and destination.</summary>
public static class Taxation
{
    /// <summary>The tax of a line: of what is allocated to its leaves, rounded for each class.</summary>
    /// <param name="amounts">One a leaf.</param>
    /// <param name="terms">The shop's.</param>
    /// <param name="destination">Null: no tax.</param>
    /// <remarks>Where prices include tax, it is the tax contained; where they do not, it is what is added. Rounded half away from
    /// zero.</remarks>
    public static Money Of(IEnumerable<TaxableAmount> amounts, TradeTerms terms, Destination? destination) =>
        destination is null
            ? Money.Zero(terms.Currency)
            : amounts
                .GroupBy(a => terms.InForce(a.TaxClass))
                .Select(g => Of(g.Select(a => a.Amount).Sum(terms.Currency), destination.RateOf(g.Key), terms.PricesIncludeTax))
                .Sum(terms.Currency);

    /// <summary>The tax of one amount.</summary>
    /// <param name="amount">What is taxed.</param>
    /// <param name="rate">In per cent.</param>
    /// <param name="included">Whether the amount contains it.</param>
    public static Money Of(Money amount, Percentage rate, bool included) => included ? rate.ContainedIn(amount) : rate.Of(amount);
}

/// <summary>The tax of an amount of one class, on whole minor units.</summary>
/// <remarks>Where prices include tax, the tax contained, x·p/(100+p); else what is added, x·p/100; half away from zero.</remarks>
internal readonly struct TaxRate
{
    private readonly long _part;
    private readonly long _of;

    /// <param name="rate">In per cent, 0 or more, with at most 12 decimal places.</param>
    /// <param name="included">Whether amounts contain the tax.</param>
    public TaxRate(Percentage rate, bool included)
    {
        var (part, of) = (rate.Value, 100m);
        while (part != decimal.Truncate(part))
            (part, of) = (part * 10, of * 10);
        (_part, _of) = ((long)part, (long)of + (included ? (long)part : 0));
    }

    /// <summary>The tax of an amount.</summary>
    public long Of(long amount)
    {
        var twice = (Int128)Math.Abs(amount) * _part * 2;
        var tax = (long)((twice + _of) / (2 * (Int128)_of));
        return amount < 0 ? -tax : tax;
    }
}
