using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>What is on sale, in which stock, and by what it is priced: for pages and replies of one request.</summary>
public sealed class ShopReading(UnicusContext db, Catalogue catalogue, PriceHistory history, TimeProvider clock)
{
    /// <summary>The shop's settings as they are kept in memory.</summary>
    public Task<ShopSettings> Settings() => catalogue.Terms.Settings(db);

    /// <summary>The name of the shop as it was last read, for pages that come without a database; null before that.</summary>
    public string? LastShopName => catalogue.Terms.LastShopName;

    /// <summary>The shop's settings from the database, for whoever changes them.</summary>
    public Task<ShopSettings> SettingsAfresh() => ShopSettings.Load(db);

    /// <summary>The shared sets of extras.</summary>
    public Task<IReadOnlyList<ExtraSet>> SharedSets() => catalogue.Terms.Sets(db);

    /// <summary>The price rules and customer groups.</summary>
    public Task<PriceBook> Prices() => catalogue.Terms.Prices(db);

    /// <summary>What prices go by for anyone now.</summary>
    public Task<RunTerms> PublicTerms() => catalogue.Terms.PublicTerms(db, clock.GetUtcNow());

    /// <summary>The key for the HTTP interface with this hash; null where none is in force.</summary>
    public Task<ActiveKey?> KeyWith(string hash) => catalogue.Terms.KeyWith(db, hash);

    /// <summary>The newest edition of a product; null where it is not on sale.</summary>
    public Task<Edition?> Latest(string code) => catalogue.Editions.Latest(db, code);

    /// <summary>The same by its number.</summary>
    public Task<Edition?> Latest(int product) => catalogue.Editions.Latest(db, product);

    /// <summary>The newest edition of the product at an address of the shop.</summary>
    public Task<Edition?> AtAddress(string address) => catalogue.Editions.AtAddress(db, address);

    /// <summary>The variant on sale with a SKU.</summary>
    public Task<VariantOnSale?> OfSku(string code) => catalogue.Editions.OfSku(db, code);

    /// <summary>What an address led to before its product became part of another: that product, and the values picked there.</summary>
    public async Task<(Edition Edition, Combination Values)?> Formerly(string address)
    {
        if (await db.AddressAliases.AsNoTracking().FirstOrDefaultAsync(a => a.Address == address) is not { } alias)
            return null;
        return await Latest(alias.ProductId) is { } edition ? (edition, Combination.Parse(alias.Values)) : null;
    }

    /// <summary>A working copy, compiled; null where there is no such product.</summary>
    /// <param name="loaded">The working copy, where it is at hand.</param>
    public Task<CompiledCopy?> Working(string code, WorkingCopy? loaded = null) => catalogue.Editions.Working(db, code, loaded);

    /// <summary>A product with its slots filled from the range.</summary>
    public Task<Product> Filled(Product product) => catalogue.Editions.Filled(db, product);

    /// <summary>The products that may be parts of an edition.</summary>
    public Task<PublishedRange> Range(Edition edition) => catalogue.Editions.Range(db, edition);

    /// <summary>The levels of all that an edition may take.</summary>
    public Task<ShownStock> Stock(Edition edition, PublishedRange range) => catalogue.Board.Stock(db, edition, range);

    /// <summary>The levels of some goods.</summary>
    public Task<ShownStock> Stock(IEnumerable<LeafNeed> needs) => catalogue.Board.Stock(db, needs);

    /// <summary>What there is of all that an edition may take.</summary>
    /// <param name="today">The shop's calendar day.</param>
    public async Task<StockOutlook> Outlook(Edition edition, PublishedRange range, DateOnly today) =>
        new((await Stock(edition, range)).Of, today);

    /// <summary>What an edition is priced and counted by on a page.</summary>
    /// <param name="today">The shop's calendar day.</param>
    public async Task<ConfigurationTerms> TermsOf(Edition edition, DateOnly today, RunTerms terms)
    {
        var range = await Range(edition);
        return new ConfigurationTerms(range, await Outlook(edition, range, today), terms);
    }

    /// <summary>The lowest price of a variant before the reduction of now; null where nothing is to be said.</summary>
    public Task<Money?> PriorPrice(Edition edition, MatrixVariant variant, RunTerms terms) => history.Prior(db, edition, variant, terms);
}
