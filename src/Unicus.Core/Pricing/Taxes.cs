using System.Collections.Immutable;

namespace Unicus.Core;

/// <summary>A kind of goods for tax, such as standard or reduced.</summary>
public sealed record TaxClass(Key Key, string Label);

/// <summary>Where goods go: a country, with its tax rates by class and one flat delivery charge.</summary>
/// <param name="Code">A short code, such as the country's of ISO 3166-1: IE.</param>
/// <param name="Rates">Per cent by the key of a tax class; a class without a rate is not taxed.</param>
public sealed record Destination(
    string Code,
    string Label,
    ImmutableSortedDictionary<string, decimal> Rates,
    Money Delivery,
    string DeliveryTaxClass
)
{
    public Percentage RateOf(string? taxClass) => new(taxClass is not null && Rates.TryGetValue(taxClass, out var rate) ? rate : 0);
}

/// <summary>How a shop reckons: currency, tax mode, classes and destinations.</summary>
public sealed record TradeTerms(
    Currency Currency,
    bool PricesIncludeTax,
    ImmutableArray<TaxClass> TaxClasses,
    ImmutableArray<Destination> Destinations
)
{
    /// <summary>The class of goods that name none: the first.</summary>
    public string? FirstTaxClass => TaxClasses.IsEmpty ? null : TaxClasses[0].Key.Text;

    /// <summary>The destination with this code, or the first where none is named; null where there is none.</summary>
    public Destination? Find(string? code) =>
        code is null
            ? Destinations.FirstOrDefault()
            : Destinations.FirstOrDefault(d => string.Equals(d.Code, code, StringComparison.OrdinalIgnoreCase));
}

/// <summary>A line of a basket before tax: its total after stage 5 and its share of basket reductions.</summary>
public sealed record TaxableLine(Money Total, Money Reduction, string? TaxClass);

/// <summary>The reckoning of a whole basket.</summary>
/// <param name="LineTax">One a line, in order.</param>
/// <param name="Subtotal">Σ line totals.</param>
/// <param name="Tax">Of lines and delivery.</param>
/// <param name="Total">What is paid.</param>
public sealed record BasketTotals(ImmutableArray<Money> LineTax, Money Subtotal, Money Delivery, Money Tax, Money Total);

/// <summary>Stage 8: tax by class and destination, rounded per line; delivery by its own class.</summary>
public static class Taxation
{
    /// <summary>Adds up a basket.</summary>
    /// <param name="destination">Null: no tax and no delivery charge.</param>
    /// <remarks>Where prices include tax, tax is what they contain; where they do not, it is added to the total. An empty basket costs
    /// nothing.</remarks>
    public static BasketTotals AddUp(IReadOnlyList<TaxableLine> lines, TradeTerms terms, Destination? destination)
    {
        var currency = terms.Currency;
        var lineTax = lines
            .Select(l => Tax(l.Total + l.Reduction, destination?.RateOf(l.TaxClass ?? terms.FirstTaxClass), terms.PricesIncludeTax))
            .ToImmutableArray();
        var subtotal = lines.Select(l => l.Total).Sum(currency);
        var delivery = lines.Count == 0 || destination is null ? Money.Zero(currency) : destination.Delivery;
        var tax = lineTax.Sum(currency) + Tax(delivery, destination?.RateOf(destination.DeliveryTaxClass), terms.PricesIncludeTax);
        var total = subtotal + lines.Select(l => l.Reduction).Sum(currency) + delivery;
        return new BasketTotals(lineTax, subtotal, delivery, tax, terms.PricesIncludeTax ? total : total + tax);
    }

    private static Money Tax(Money amount, Percentage? rate, bool included) =>
        rate is not { } r ? Money.Zero(amount.Currency)
        : included ? r.ContainedIn(amount)
        : r.Of(amount);
}
