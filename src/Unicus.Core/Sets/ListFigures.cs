namespace Unicus.Core;

/// <summary>What lists show of a product's price.</summary>
/// <param name="From">The lowest price of a unit over what can be bought now; null where nothing can.</param>
/// <param name="Varies">Whether what is still to be decided can make a unit dearer; extras that may be left out do not count.</param>
/// <param name="Once">What needed answers add once for a line at least; null where they add nothing.</param>
public sealed record ListFigures(Money? From, bool Varies, Money? Once)
{
    /// <summary>Finds them. Of a product without extras and rules over answers the variants are looked at, and nothing is
    /// compiled.</summary>
    public static ListFigures Of(Edition edition, StandingTerms terms) =>
        edition.Product.Extras.IsEmpty && edition.Product.Rules.IsEmpty ? OfPlain(edition, terms) : OfAny(edition, terms);

    private static ListFigures OfPlain(Edition edition, StandingTerms terms)
    {
        var prices = terms.PricesOf(edition);
        var (lowest, highest) = ((long?)null, (long?)null);
        Currency? currency = null;
        foreach (var variant in edition.Matrix.Offered)
        {
            if (variant.Price.Figure is not { } list)
                continue;
            currency = list.Currency;
            var before = MinorUnits.Of(list);
            var price = prices?.Of(variant, before) ?? before;
            highest = Math.Max(highest ?? price, price);
            if ((lowest is null || price < lowest) && terms.Stock.Of(variant).CanSell(1))
                lowest = price;
        }
        return lowest is { } from
            ? new ListFigures(MinorUnits.ToMoney(from, currency!), highest > from, null)
            : new ListFigures(null, false, null);
    }

    private static ListFigures OfAny(Edition edition, StandingTerms terms)
    {
        if (Standing.From(edition, Configuration.Empty, terms) is not { } from)
            return new ListFigures(null, false, null);
        var reply = edition.Configurator.Answer(Configuration.Empty);
        var once = edition.Configurator.NeededOnce(reply, from.Currency);
        var varies = Standing.CanBeDearer(edition, Configuration.Empty, reply, from, terms);
        return new ListFigures(from, varies, once.Amount > 0 ? once : null);
    }
}
