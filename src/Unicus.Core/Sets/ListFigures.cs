using System.Collections.Immutable;

namespace Unicus.Core;

/// <summary>What lists show of a product's price.</summary>
/// <param name="From">The lowest price of a unit over what can be bought now; null where nothing can.</param>
/// <param name="Varies">Whether what is still to be decided can make a unit dearer; extras that may be left out do not count.</param>
/// <param name="Once">What needed answers add once for a line at least; null where they add nothing.</param>
public sealed record ListFigures(Money? From, bool Varies, Money? Once)
{
    /// <summary>The rules that bring the price down: of the cheapest variant, or, with extras, those for all variants alike.</summary>
    public ImmutableArray<PriceRule> Acting { get; init; } = [];

    /// <summary>Finds them. Of a product without extras and rules over answers the variants are looked at, and nothing is
    /// compiled.</summary>
    public static ListFigures Of(Edition edition, StandingTerms terms)
    {
        if (edition.Product.IsGroup)
            return OfGroup(edition, terms);
        terms = terms with { Quantity = edition.Product.Selling.Least };
        return edition.Product is { Extras.IsEmpty: true, Rules.IsEmpty: true, IsSet: false }
            ? OfPlain(edition, terms)
            : OfAny(edition, terms);
    }

    /// <summary>A group is as cheap as its cheapest piece.</summary>
    private static ListFigures OfGroup(Edition edition, StandingTerms terms)
    {
        var pieces = edition
            .Product.SlotsInRange.SelectMany(s => s.Candidates)
            .Select(c => PartOnSale.Of(c, terms.Range))
            .OfType<PartOnSale>()
            .Where(p => !p.Edition.Product.IsGroup)
            .Select(p => p.Only is { } only ? OfVariant(p.Edition, only, terms) : Of(p.Edition, terms))
            .Where(f => f.From is not null)
            .ToList();
        var from = pieces.MinBy(f => f.From!.Value.Amount)?.From;
        return new ListFigures(from, pieces.Exists(f => f.Varies || f.From > from), null);
    }

    private static ListFigures OfVariant(Edition edition, MatrixVariant variant, StandingTerms terms)
    {
        var given = Configuration.Of(variant.Values);
        return new ListFigures(Standing.From(edition, given, terms with { Quantity = variant.Selling.Least }), false, null);
    }

    private static ListFigures OfPlain(Edition edition, StandingTerms terms)
    {
        var prices = terms.PricesOf(edition);
        var (lowest, highest) = ((long?)null, (long?)null);
        MatrixVariant? cheapest = null;
        foreach (var variant in edition.Matrix.Offered)
        {
            if (variant.Price.Figure is not { } list)
                continue;
            var before = MinorUnits.Of(list);
            var price = prices?.Of(variant, before) ?? before;
            highest = Math.Max(highest ?? price, price);
            if ((lowest is null || price < lowest) && terms.Stock.Sells(variant))
                (lowest, cheapest) = (price, variant);
        }
        if (lowest is not { } from || cheapest?.Price.Figure is not { } basis)
            return new ListFigures(null, false, null);
        return new ListFigures(MinorUnits.ToMoney(from, basis.Currency), highest > from, null)
        {
            Acting = [.. prices?.ActingOn(cheapest, MinorUnits.Of(basis)) ?? []],
        };
    }

    private static ListFigures OfAny(Edition edition, StandingTerms terms)
    {
        if (Standing.From(edition, Configuration.Empty, terms) is not { } from)
            return new ListFigures(null, false, null);
        var reply = edition.Configurator.Answer(Configuration.Empty);
        var once = edition.Configurator.NeededOnce(reply, from.Currency);
        var varies = Standing.CanBeDearer(edition, Configuration.Empty, reply, from, terms);
        var acting =
            terms.PricesOf(edition) is { } prices && edition.Matrix.Offered.FirstOrDefault(v => v.Price.Figure is not null) is { } any
                ? prices.ActingOn(any, MinorUnits.Of(any.Price.Figure!.Value)).Where(r => r.Scope is { Where: null, Skus.IsEmpty: true })
                : [];
        return new ListFigures(from, varies, once.Amount > 0 ? once : null) { Acting = [.. acting] };
    }
}
