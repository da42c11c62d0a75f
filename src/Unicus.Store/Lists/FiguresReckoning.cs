using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Works out what lists show of published products now: from what was kept, or from documents and stock.</summary>
internal sealed class FiguresReckoning(UnicusContext db, Catalogue catalogue, TimeProvider clock)
{
    /// <summary>Of products with more variants nothing is kept beside their documents.</summary>
    private const int MostVariantsKept = 1_000;

    /// <summary>What lists show of some published products that hangs on prices, stock and day.</summary>
    /// <param name="moved">Those of which more than rules of prices changed.</param>
    public async Task<IReadOnlyList<ShownFigures>> Of(int[] products, HashSet<int> moved)
    {
        var now = clock.GetUtcNow();
        var terms = await catalogue.Terms.PublicTerms(db, now);
        var shown = await new KeptBases(db, terms, now).FiguresOf([.. products.Where(p => !moved.Contains(p))]);
        int[] others = [.. products.Except(shown.Select(s => s.Product))];
        if (others.Length > 0)
            shown.AddRange(await WorkOut(others, terms, now));
        return shown;
    }

    /// <summary>The same from documents and stock. What takes no parts is worked out by the hundred, from its own stock alone.</summary>
    private async Task<IReadOnlyList<ShownFigures>> WorkOut(int[] products, RunTerms terms, DateTimeOffset now)
    {
        var shop = await catalogue.Terms.Settings(db);
        int[] sets =
        [
            .. await db
                .RangeEntries.Where(e => products.Contains(e.ProductId) && e.PartProducts.Length > 0)
                .Select(e => e.ProductId)
                .ToListAsync(),
        ];
        int[] plain = [.. products.Except(sets)];
        var levels = await SkuLookup.Stock(db, plain);
        var stock = new StockOutlook(sku => levels.GetValueOrDefault(sku), shop.DayAt(now));
        var editions = new List<Edition>();
        await foreach (var edition in catalogue.Editions.Many(db, plain))
            editions.Add(edition);
        var status = new ConfigurationTerms(PublishedRange.Empty, stock, terms);
        var shown = editions.AsParallel().Select(e => Shown(e, status)).ToList();
        foreach (var set in sets)
            if (await catalogue.Editions.Latest(db, set) is { } edition)
                shown.Add(await Of(edition, await catalogue.Editions.Range(db, edition)));
        return shown;
    }

    /// <summary>What lists show of a published product.</summary>
    /// <param name="range">What it may take as parts.</param>
    public async Task<ShownFigures> Of(Edition edition, PublishedRange range)
    {
        var (shop, now) = (await catalogue.Terms.Settings(db), clock.GetUtcNow());
        var levels = await catalogue.Board.Stock(db, edition, range);
        var stock = new StockOutlook(levels.Of, shop.DayAt(now));
        return Shown(edition, new ConfigurationTerms(range, stock, await catalogue.Terms.PublicTerms(db, now)));
    }

    /// <summary>What lists show of a product now.</summary>
    private static ShownFigures Shown(Edition edition, ConfigurationTerms terms)
    {
        var (stock, buying) = (terms.Stock, terms.Run.Buying);
        var figures = ListFigures.Of(edition, terms);
        var none = figures.From is null ? edition.Matrix.Offered.Select(v => stock.Of(v).Words).FirstOrDefault() ?? "" : "";
        var returns = edition.Matrix.Offered.Select(v => v.Selling.OffForNow?.Back).Where(d => d > stock.Today).Min();
        var shelf = edition.Product.Shelf;
        var rules = buying.Book.NextChange(edition, buying.At, buying.Zone);
        var day = new[] { returns, shelf.NextChange(stock.Today) }.Where(d => d is not null).Min();
        var changes = day is { } next ? PriceBook.StartOfDay(next.ToDateTime(TimeOnly.MinValue), buying.Zone) : (DateTimeOffset?)null;
        var offers = Offers(edition).Select(o => o.Any(stock.Sells)).ToArray();
        var shown = new ShownFigures(edition.ProductId, figures, none, KeptBases.Earlier(rules, changes), offers)
        {
            Badge = PriceRuleWords.Badges(figures.Acting, buying.Zone),
            IsListed = shelf.IsListed(stock.Today),
            IsFound = shelf.IsFound(stock.Today),
            IsFeatured = shelf.Featured?.Holds(stock.Today) == true,
        };
        if (edition.Matrix.Made.Count > MostVariantsKept || ListBasis.Of(edition, terms)?.Kept() is not { } basis)
            return shown;
        return shown with { Basis = new KeptBasis(basis, changes, none, shown.IsListed, shown.IsFound, shown.IsFeatured) };
    }

    /// <summary>The variants on offer by what they have of the library's options.</summary>
    public static IEnumerable<IGrouping<string, MatrixVariant>> Offers(Edition edition)
    {
        var options = edition.Matrix.Options.Where(o => o.Library is not null).ToImmutableArray();
        if (options.IsEmpty)
            return [];
        return edition
            .Matrix.Offered.GroupBy(v => string.Join('\n', options.Select(o => $"{o.Library}={v.Values[o.Key]}")))
            .OrderBy(g => g.Key, StringComparer.Ordinal);
    }
}
