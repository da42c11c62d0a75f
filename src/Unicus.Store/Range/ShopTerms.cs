namespace Unicus.Store;

/// <summary>What holds for the whole shop, kept until it changes: settings, keys, shared sets of extras, price rules.</summary>
public sealed class ShopTerms : IDisposable
{
    private readonly ToldCache<int, ShopSettings> _shop;
    private readonly ToldCache<int, KeptSets> _sets;
    private readonly ToldCache<int, KeptKeys> _keys;
    private readonly ToldCache<int, PriceBook> _prices;
    private readonly ToldCache<int, KeptRules> _rules;

    internal ShopTerms(Telling telling)
    {
        ToldCache<int, T> Of<T>(string what, params NewsKind[] forgottenBy)
            where T : class => new ToldCache<int, T>(telling, what, 10, _ => 1).ForgetBy(_ => 0, forgottenBy);
        _shop = Of<ShopSettings>("the shop's settings", NewsKind.Shop);
        _sets = Of<KeptSets>("shared sets of extras", NewsKind.Sets);
        _keys = Of<KeptKeys>("keys of the HTTP interface", NewsKind.Keys);
        // Names of categories and SKUs stand in rules.
        _prices = Of<PriceBook>("price rules and groups", NewsKind.Shop, NewsKind.Skus, NewsKind.Prices, NewsKind.Names);
        _rules = Of<KeptRules>("price rules as they are stored", NewsKind.Shop, NewsKind.Prices);
    }

    private sealed record KeptRules(IReadOnlyList<StoredRule> Rules);

    private sealed record KeptKeys(IReadOnlyDictionary<string, ActiveKey> ByHash);

    private sealed record KeptSets(IReadOnlyList<ExtraSet> Sets);

    internal IEnumerable<IKept> Kept => [_shop, _sets, _keys, _prices, _rules];

    /// <summary>The name of the shop when it was last looked up, for what is said while the database is away; null before
    /// that.</summary>
    public string? LastShopName { get; private set; }

    /// <summary>The settings in force.</summary>
    public async Task<ShopSettings> Settings(UnicusContext db)
    {
        var shop = (await _shop.Get(0, async () => await ShopSettings.Load(db)))!;
        LastShopName = shop.Name;
        return shop;
    }

    /// <summary>The key of the HTTP interface with this hash; null where none is in force.</summary>
    public async Task<ActiveKey?> KeyWith(UnicusContext db, string hash) =>
        (await _keys.Get(0, async () => new KeptKeys(await ApiKeys.InForce(db))))!.ByHash.GetValueOrDefault(hash);

    /// <summary>The shared sets of extras in force; the same list as long as none changes.</summary>
    public async Task<IReadOnlyList<ExtraSet>> Sets(UnicusContext db) =>
        (await _sets.Get(0, async () => new KeptSets(await ExtraSets.Load(db))))!.Sets;

    /// <summary>The price rules in force and to come; the same book as long as none changes.</summary>
    public async Task<PriceBook> Prices(UnicusContext db) =>
        (await _prices.Get(0, async () => await PriceBooks.Load(db, (await Settings(db)).Currency)))!;

    /// <summary>The price rules as they are stored, those kept aside among them.</summary>
    public async Task<IReadOnlyList<StoredRule>> StoredRules(UnicusContext db) =>
        (await _rules.Get(0, async () => new KeptRules(await PriceBooks.Stored(db, (await Settings(db)).Currency))))!.Rules;

    /// <summary>What prices go by for anyone at a moment.</summary>
    public async Task<RunTerms> PublicTerms(UnicusContext db, DateTimeOffset at)
    {
        var shop = await Settings(db);
        return new RunTerms(shop.Terms, shop.Terms.Find(null)) { Buying = RuleContext.Anyone(at, shop.TimeZone, await Prices(db)) };
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _shop.Dispose();
        _sets.Dispose();
        _keys.Dispose();
        _prices.Dispose();
        _rules.Dispose();
    }
}
