namespace Unicus.Core.Pricing;

using Unicus.Core.Money;

/// <summary>What a margin is of: a price net of tax at one rate, which is named.</summary>
/// <param name="Rate">In per cent; 0 or more.</param>
/// <param name="Included">Whether prices contain the tax.</param>
/// <remarks>There are two in a shop: <see cref="AtHome"/>, by which the merchant sets prices, and <see cref="Dearest"/>, by which rules
/// are held, so that no destination brings less than is promised.</remarks>
public readonly record struct MarginBasis(Percentage Rate, bool Included)
{
    /// <summary>With the rate of the shop's first destination: what lists, the matrix and sheets show.</summary>
    /// <param name="terms">By what it is reckoned.</param>
    /// <param name="taxClass">Null for the class of goods that name none.</param>
    public static MarginBasis AtHome(TradeTerms terms, string? taxClass) =>
        new(terms.Find(null)?.RateOf(terms.InForce(taxClass)) ?? default, terms.PricesIncludeTax);

    /// <summary>With the highest rate of any destination: what floors, lowest margins and trials reckon with.</summary>
    /// <inheritdoc cref="AtHome"/>
    public static MarginBasis Dearest(TradeTerms terms, string? taxClass) =>
        new(
            new Percentage(terms.Destinations.Select(d => d.RateOf(terms.InForce(taxClass)).Value).DefaultIfEmpty(0).Max()),
            terms.PricesIncludeTax
        );

    /// <summary>What prices contain in per cent of what is net of it; 0 where they contain no tax.</summary>
    public decimal Contained => Included ? Rate.Value : 0;

    /// <summary>What is left of an amount without its tax, not rounded.</summary>
    public decimal Net(decimal amount) => amount * 100 / (100 + Contained);

    /// <summary>What is left of an amount in minor units without its tax, which is rounded as it is charged.</summary>
    public long NetCharged(long amount, Currency currency) =>
        Included ? amount - MinorUnits.Of(Rate.ContainedIn(MinorUnits.ToMoney(amount, currency))) : amount;

    /// <summary>What is left of a price.</summary>
    public Profit Of(Money price, Money cost) => Profit.Of(price, cost, Rate, Included);

    /// <summary>The lowest price that leaves at least a margin.</summary>
    /// <inheritdoc cref="Profit.PriceFor"/>
    public Money PriceFor(Money cost, decimal margin) => Profit.PriceFor(cost, margin, Rate, Included);

    /// <summary>The margin of an amount net of tax, in per cent; null where nothing is paid net of tax.</summary>
    public static decimal? Of(decimal net, decimal cost) => net <= 0 ? null : (net - cost) * 100 / net;
}
