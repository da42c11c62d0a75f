namespace Unicus.Core.Products;

using Unicus.Core.Money;

/// <summary>The lowest and the highest of some prices.</summary>
public sealed record PriceSpan(Money Lowest, Money Highest)
{
    /// <summary>Null where there is no price.</summary>
    public static PriceSpan? Of(IEnumerable<Money?> prices)
    {
        PriceSpan? span = null;
        foreach (var price in prices)
            if (price is { } p)
                span = span is null
                    ? new PriceSpan(p, p)
                    : new PriceSpan(p < span.Lowest ? p : span.Lowest, p > span.Highest ? p : span.Highest);
        return span;
    }

    /// <summary>“9.50 to 12.00”, or one price.</summary>
    public string ForPeople() => Lowest == Highest ? Lowest.ForPeople() : $"{Lowest.ForPeople()} to {Highest.ForPeople()}";
}
