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

    /// <summary>Finds them. Of a product without rules over answers whose extras add what they add whatever else is picked, the
    /// variants are looked at, and nothing is compiled.</summary>
    public static ListFigures Of(Edition edition, StandingTerms terms)
    {
        if (edition.Product.IsGroup)
            return OfGroup(edition, terms);
        terms = terms with { Quantity = edition.Product.Selling.Least };
        return IsPlain(edition.Product) ? OfPlain(edition, terms) : OfAny(edition, terms);
    }

    /// <summary>Whether each variant's lowest price is its list price with the cheapest value of each needed question.</summary>
    private static bool IsPlain(Product product) =>
        product is { Rules.IsEmpty: true, IsSet: false }
        && product.Extras.All(q =>
            IsAdding(q.Surcharge)
            && q.Values.All(v => v.Part is null && IsAdding(v.Surcharge))
            && (!q.Required || q is { Ask: Ask.One, Surcharge: null, Values.IsEmpty: false })
        );

    private static bool IsAdding(Surcharge? surcharge) =>
        surcharge switch
        {
            Surcharge.PerUnit s => s.Amount.Amount >= 0,
            Surcharge.Once s => s.Amount.Amount >= 0,
            Surcharge.Percent s => s.Rate.Value >= 0,
            _ => true,
        };

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
        ImmutableArray<Option> needed = [.. edition.Product.Extras.Where(q => q.Required)];
        foreach (var variant in edition.Matrix.Offered)
        {
            if (variant.Price.Figure is not { } figure)
                continue;
            var list = MinorUnits.Of(figure);
            var (low, high) = (list, list);
            foreach (var question in needed)
            {
                low += question.Values.Min(v => Adds(v.Surcharge, list));
                high += question.Values.Max(v => Adds(v.Surcharge, list));
            }
            var price = prices?.Of(variant, low) ?? low;
            highest = Math.Max(highest ?? price, high == low ? price : prices?.Of(variant, high) ?? high);
            if ((lowest is null || price < lowest) && terms.Stock.Sells(variant))
                (lowest, cheapest) = (price, variant);
        }
        if (lowest is not { } from || cheapest?.Price.Figure is not { } basis)
            return new ListFigures(null, false, null);
        var once = needed.Sum(q => q.Values.Min(v => v.Surcharge is Surcharge.Once o ? MinorUnits.Of(o.Amount) : 0));
        return new ListFigures(
            MinorUnits.ToMoney(from, basis.Currency),
            highest > from,
            once > 0 ? MinorUnits.ToMoney(once, basis.Currency) : null
        )
        {
            Acting = edition.Product.Extras.IsEmpty
                ? [.. prices?.ActingOn(cheapest, MinorUnits.Of(basis)) ?? []]
                : ActingOnAll(edition, prices),
        };
    }

    private static long Adds(Surcharge? surcharge, long list) =>
        surcharge switch
        {
            Surcharge.PerUnit s => MinorUnits.Of(s.Amount),
            Surcharge.Percent s => ConfigurationCost.Share(list, s.Rate),
            _ => 0,
        };

    /// <summary>The rules that bring any variant's price down alike.</summary>
    private static ImmutableArray<PriceRule> ActingOnAll(Edition edition, EditionPrices? prices) =>
        prices is not null && edition.Matrix.Offered.FirstOrDefault(v => v.Price.Figure is not null) is { } any
            ? [.. prices.ActingOn(any, MinorUnits.Of(any.Price.Figure!.Value)).Where(r => r.Scope is { Where: null, Skus.IsEmpty: true })]
            : [];

    /// <summary>What is found by compiling rules and prices, for any product but a group.</summary>
    internal static ListFigures OfAny(Edition edition, StandingTerms terms)
    {
        if (Standing.From(edition, Configuration.Empty, terms) is not { } from)
            return new ListFigures(null, false, null);
        var reply = edition.Configurator.Answer(Configuration.Empty);
        var once = edition.Configurator.NeededOnce(reply, from.Currency);
        var varies = Standing.CanBeDearer(edition, Configuration.Empty, reply, from, terms);
        return new ListFigures(from, varies, once.Amount > 0 ? once : null) { Acting = ActingOnAll(edition, terms.PricesOf(edition)) };
    }
}
