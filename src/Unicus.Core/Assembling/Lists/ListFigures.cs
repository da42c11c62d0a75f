namespace Unicus.Core.Assembling.Lists;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Products;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

// Together with ListBasis: what lists show is found from a whole edition, or from the basis that is kept of it, by one way of reckoning.
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
    public static ListFigures Of(Edition edition, ConfigurationTerms terms)
    {
        if (edition.Product.IsGroup)
            return OfGroup(edition, terms);
        terms = terms with { Quantity = edition.Product.Selling.Least };
        return IsPlain(edition.Product) ? OfPlain(edition, terms) : OfAny(edition, terms);
    }

    /// <summary>Whether each variant's lowest price is its list price with the cheapest value of each needed question.</summary>
    internal static bool IsPlain(Product product) =>
        product is { Rules.IsEmpty: true, IsSet: false }
        && product.Extras.All(q =>
            IsAdding(q.Surcharge, q.Number.Min)
            && q.Values.All(v => v.Part is null && IsAdding(v.Surcharge, null))
            && (!q.Required || q is { Ask: Ask.One, Surcharge: null, Values.IsEmpty: false })
        );

    /// <param name="surcharge">What it adds; null for nothing.</param>
    /// <param name="least">The least number that may be answered; null where it has no limit.</param>
    private static bool IsAdding(Surcharge? surcharge, decimal? least) =>
        surcharge switch
        {
            Surcharge.PerCharacter s => s.Rate.Amount >= 0,
            Surcharge.PerMeasure s => s.Rate.Amount >= 0 && least >= 0,
            Surcharge.Table s => s.Rows.All(r => r.Columns.All(c => c.Amount.Amount >= 0)),
            Surcharge.PerUnit s => s.Amount.Amount >= 0,
            Surcharge.Once s => s.Amount.Amount >= 0,
            Surcharge.Percent s => s.Rate.Value >= 0,
            _ => true,
        };

    /// <summary>A group is as cheap as its cheapest piece.</summary>
    private static ListFigures OfGroup(Edition edition, ConfigurationTerms terms)
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

    private static ListFigures OfVariant(Edition edition, MatrixVariant variant, ConfigurationTerms terms)
    {
        var given = Configuration.Of(variant.Values);
        return new ListFigures(ConfigurationStatus.From(edition, given, terms with { Quantity = variant.Selling.Least }), false, null);
    }

    private static ListFigures OfPlain(Edition edition, ConfigurationTerms terms)
    {
        var prices = terms.PricesOf(edition);
        var priced = Priced(edition, terms).ToList();
        return Of(
            [.. priced.Select(p => p.Row)],
            NeededOnce(edition.Product),
            terms.Run.Trade.Currency,
            (at, before) => prices is null ? before : PriceOf(priced[at].Variant, priced[at].Row, before),
            at =>
                !edition.Product.Extras.IsEmpty ? ActingOnAll(edition, prices)
                : prices is null ? []
                : prices.ActingOn(priced[at].Variant, priced[at].Row.List)
        );

        long PriceOf(MatrixVariant variant, ListBasis.Row row, long before) => prices.Of(variant, row.List, before - row.List, row.Floor);
    }

    /// <summary>The variants of a plain product that have a price, with what they come to before rules.</summary>
    internal static IEnumerable<(MatrixVariant Variant, ListBasis.Row Row)> Priced(Edition edition, ConfigurationTerms terms)
    {
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
            var floor = EditionPrices.FloorOf(edition, variant, terms.Run.Trade);
            yield return (variant, new ListBasis.Row(list, low, high, floor, terms.Stock.Sells(variant)));
        }
    }

    /// <summary>What the needed answers of a plain product add once at least, in minor units.</summary>
    internal static long NeededOnce(Product product) =>
        product.Extras.Where(q => q.Required).Sum(q => q.Values.Min(v => v.Surcharge is Surcharge.Once o ? MinorUnits.Of(o.Amount) : 0));

    /// <summary>What is shown of variants.</summary>
    /// <param name="rows">Its variants that have a price.</param>
    /// <param name="once">What needed answers add once, in minor units.</param>
    /// <param name="currency">In which amounts are.</param>
    /// <param name="price">What rules make of a unit of the row at a place, in minor units.</param>
    /// <param name="acting">The rules that bring the price of the row at a place down.</param>
    internal static ListFigures Of(
        ImmutableArray<ListBasis.Row> rows,
        long once,
        Currency currency,
        Func<int, long, long> price,
        Func<int, IEnumerable<PriceRule>> acting
    )
    {
        var (lowest, highest, cheapest) = ((long?)null, 0L, 0);
        for (var at = 0; at < rows.Length; at++)
        {
            var row = rows[at];
            var low = price(at, row.Low);
            highest = Math.Max(highest, row.High == row.Low ? low : price(at, row.High));
            if (row.Sells && (lowest is null || low < lowest))
                (lowest, cheapest) = (low, at);
        }
        if (lowest is not { } from)
            return new ListFigures(null, false, null);
        return new ListFigures(MinorUnits.ToMoney(from, currency), highest > from, once > 0 ? MinorUnits.ToMoney(once, currency) : null)
        {
            Acting = [.. acting(cheapest)],
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
    internal static ListFigures OfAny(Edition edition, ConfigurationTerms terms)
    {
        if (ConfigurationStatus.From(edition, Configuration.Empty, terms) is not { } from)
            return new ListFigures(null, false, null);
        var reply = edition.Configurator.Answer(Configuration.Empty);
        var once = edition.Configurator.NeededOnce(reply, from.Currency);
        var varies = ConfigurationStatus.CanBeDearer(edition, Configuration.Empty, reply, from, terms);
        return new ListFigures(from, varies, once.Amount > 0 ? once : null) { Acting = ActingOnAll(edition, terms.PricesOf(edition)) };
    }
}
