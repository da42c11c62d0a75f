using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Unicus.Store;

/// <summary>A working copy that was compiled to be asked, not changed.</summary>
/// <param name="Version">Of the working copy.</param>
/// <param name="Draft">The product as it would be published, with the shared sets that reach it.</param>
/// <param name="Currency">The shop's.</param>
public sealed record CompiledCopy(int Version, Edition Draft, Currency Currency);

/// <summary>Stock levels of a product as they are.</summary>
/// <param name="Stamp">Another one whenever they were read anew, so that what was made from them can be kept under it.</param>
/// <param name="Levels">By SKU, former codes too.</param>
public sealed record ProductStock(Guid Stamp, IReadOnlyDictionary<Sku, StockLevel> Levels);

/// <summary>The stock that a product's page shows: of its variants and of the parts that its extras name.</summary>
/// <param name="Products">Its own first.</param>
public sealed record ShownStock(IReadOnlyList<ProductStock> Products)
{
    /// <summary>Changes whenever any of it changes.</summary>
    public string Stamp => string.Join('-', Products.Select(p => p.Stamp));

    /// <summary>The level of a SKU; the default where there is none.</summary>
    public StockLevel Of(Sku sku)
    {
        foreach (var product in Products)
            if (product.Levels.TryGetValue(sku, out var level))
                return level;
        return default;
    }
}

/// <summary>What is on sale, kept in memory by weight and told of every change: the one source of the shop's pages, baskets, orders
/// and the
/// HTTP interface.</summary>
/// <remarks>
/// An edition never changes, so a compiled one cannot be stale; which edition is the newest, stock, settings and shared sets are kept
/// until
/// <see cref="Telling"/> says that they changed. Codes, addresses and SKUs are only hints at a product: the product's own stamp says
/// whether
/// they still hold.
/// </remarks>
public sealed class Catalogue : IDisposable
{
    private const long MostOfEditions = 120L * 1024 * 1024;
    private const long MostOfStock = 64L * 1024 * 1024;
    private const int ReadAtOnce = 300;
    private const long MostOfHints = 24L * 1024 * 1024;

    private readonly Telling _telling;
    private readonly MemoryCache _compiled = new(new MemoryCacheOptions { SizeLimit = MostOfEditions });
    private readonly ToldCache<int, ShopSettings> _shop;
    private readonly ToldCache<int, KeptSets> _sets;
    private readonly ToldCache<int, KeptKeys> _keys;
    private readonly ToldCache<int, PriceBook> _prices;
    private readonly ToldCache<int, Stamp> _stamps;
    private readonly ToldCache<string, Hint> _hints;
    private readonly ToldCache<(long Names, string Code), SkuNames> _skus;
    private readonly ToldCache<int, ProductStock> _stock;
    private readonly ToldCache<CompilingKey, object> _compiling;
    private readonly ToldCache<FillKey, KeptFill> _fills;
    private long _skuNames;
    private long _lists;
    private long _products;

    /// <summary>Makes a catalogue that hears of changes.</summary>
    public Catalogue(Telling telling)
    {
        _telling = telling;
        _shop = new ToldCache<int, ShopSettings>(telling, 10, _ => 1);
        _sets = new ToldCache<int, KeptSets>(telling, 10, _ => 1);
        _keys = new ToldCache<int, KeptKeys>(telling, 10, _ => 1);
        _prices = new ToldCache<int, PriceBook>(telling, 10, _ => 1);
        _stamps = new ToldCache<int, Stamp>(telling, MostOfHints, _ => 200);
        _hints = new ToldCache<string, Hint>(telling, MostOfHints, _ => 200);
        _skus = new ToldCache<(long, string), SkuNames>(telling, MostOfHints, s => 200 + 80 * s.Names.Count);
        _stock = new ToldCache<int, ProductStock>(telling, MostOfStock, s => 400 + 120L * s.Levels.Count);
        _compiling = new ToldCache<CompilingKey, object>(telling, 1, _ => 2);
        _fills = new ToldCache<FillKey, KeptFill>(telling, MostOfHints, f => 400 + 300L * f.Slots.Sum(s => s.Candidates.Length));
        telling.Heard += Hear;
    }

    /// <summary>What may fill slots hangs on any product that may be in a category, and on the categories.</summary>
    private readonly record struct FillKey(int ProductId, int Number, string Products, string Lists);

    private sealed record KeptFill(System.Collections.Immutable.ImmutableArray<FilledSlot> Slots, string Text);

    private sealed record KeptKeys(IReadOnlyDictionary<string, ActiveKey> ByHash);

    private sealed record KeptSets(IReadOnlyList<ExtraSet> Sets);

    /// <summary>Where a product stands.</summary>
    private sealed record Stamp(int Id, string Code, int Version, int? Edition, string? Address);

    private sealed record Hint(int ProductId);

    /// <summary>The present code of a SKU, its former ones, and the product that has it.</summary>
    private sealed record SkuNames(int ProductId, IReadOnlyList<string> Names);

    private readonly record struct CompilingKey(int ProductId, int Number, IReadOnlyList<ExtraSet> Sets, Currency Currency);

    /// <summary>A compiled edition with what it was made for.</summary>
    private sealed record KeptEdition(CompilingKey Key, Edition Edition);

    private sealed record KeptCopy(CompilingKey Key, CompiledCopy Copy);

    /// <summary>The name of the shop when it was last looked up, for what is said while the database is away; null before
    /// that.</summary>
    public string? LastShopName { get; private set; }

    /// <summary>Another number whenever lists may show something else.</summary>
    public string ListsStamp => $"{_telling.Generation}.{Interlocked.Read(ref _lists)}";

    /// <summary>Another number whenever any product or the range of SKUs may be another.</summary>
    public string ProductsStamp => $"{_telling.Generation}.{Interlocked.Read(ref _products)}";

    /// <summary>Whether the stamps can be relied on, since every change is heard of.</summary>
    public bool IsTold => _telling.IsHearing;

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

    /// <summary>What prices go by for anyone at a moment.</summary>
    public async Task<RunTerms> PublicTerms(UnicusContext db, DateTimeOffset at)
    {
        var shop = await Settings(db);
        return new RunTerms(shop.Terms, shop.Terms.Find(null)) { Buying = Buying.Anyone(at, shop.TimeZone, await Prices(db)) };
    }

    /// <summary>The newest edition of a product; null if it was never published.</summary>
    /// <param name="code">In any letter case.</param>
    public async Task<Edition?> Latest(UnicusContext db, string code) =>
        await StampOf(db, code) is { Edition: { } number } stamp ? await Compiled(db, stamp.Id, number) : null;

    /// <summary>The newest edition of a product by its number; null if it was never published.</summary>
    public async Task<Edition?> Latest(UnicusContext db, int product) =>
        await StampOf(db, product) is { Edition: { } number } ? await Compiled(db, product, number) : null;

    /// <summary>An edition by its number, on sale or not; null if there is none.</summary>
    public Task<Edition?> Numbered(UnicusContext db, int product, int number) => Compiled(db, product, number);

    /// <summary>The newest editions of many products, in their order, read by the hundred. Their rules over answers are compiled only if
    /// they are asked for; those that are not kept already are not kept either.</summary>
    public async IAsyncEnumerable<Edition> Many(UnicusContext db, IReadOnlyList<int> products)
    {
        var (sets, currency) = (await Sets(db), (await Settings(db)).Currency);
        foreach (var some in products.Chunk(ReadAtOnce))
        {
            var numbers = await db
                .Products.AsNoTracking()
                .Where(p => some.Contains(p.Id) && p.Edition != null)
                .Select(p => new { p.Id, Number = p.Edition!.Value })
                .ToListAsync();
            var editions = new Dictionary<int, Edition>();
            CompilingKey KeyOf(int product, int number) => new(product, number, sets, currency);
            foreach (var at in numbers)
                if (_compiled.TryGetValue(at.Id, out KeptEdition? kept) && kept!.Key == KeyOf(at.Id, at.Number))
                    editions[at.Id] = kept.Edition;
            // Documents are read only of those that are not kept.
            int[] others = [.. numbers.Select(n => n.Id).Where(p => !editions.ContainsKey(p))];
            var rows = await (
                from p in db.Products.AsNoTracking()
                where others.Contains(p.Id)
                join e in db.Editions on new { Id = p.Id, Number = p.Edition } equals new { Id = e.ProductId, Number = (int?)e.Number }
                select e
            ).ToListAsync();
            foreach (var edition in rows.AsParallel().Select(row => Parsed(row, KeyOf(row.ProductId, row.Number))).ToList())
                editions[edition.ProductId] = edition;
            foreach (var product in some)
                if (editions.TryGetValue(product, out var edition))
                    yield return edition.Product.Parts is null ? edition : await Filled(db, edition, edition.Number);
        }
    }

    /// <summary>The product whose newest edition has this address; null if none has.</summary>
    public async Task<Edition?> AtAddress(UnicusContext db, string address)
    {
        for (var attempt = 0; attempt < 2; attempt++)
        {
            var hint = await _hints.Get("/" + address, () => FindAddress(db, address));
            if (hint is null)
                return null;
            if (await StampOf(db, hint.ProductId) is { Edition: { } number } stamp && stamp.Address == address)
                return await Compiled(db, stamp.Id, number);
            _hints.Forget("/" + address);
        }
        return null;
    }

    /// <summary>The working copy of a product as it is now; null if there is no such product.</summary>
    /// <remarks>Kept under its version, which every change raises.</remarks>
    /// <param name="loaded">The copy, where it was loaded just now; what it compiled is kept.</param>
    public async Task<CompiledCopy?> Working(UnicusContext db, string code, WorkingCopy? loaded = null)
    {
        if (await StampOf(db, code) is not { } stamp)
            return null;
        var key = new CompilingKey(stamp.Id, -stamp.Version, await Sets(db), (await Settings(db)).Currency);
        var copy =
            _compiled.TryGetValue(-stamp.Id, out KeptCopy? kept) && kept!.Key == key
                ? kept.Copy
                : (CompiledCopy?)await _compiling.Get(key, async () => await CompileCopy(db, stamp, key, loaded));
        if (copy?.Draft.Product.Parts is null)
            return copy;
        var draft = await Filled(db, copy.Draft, key.Number);
        if (draft == copy.Draft)
            return copy;
        copy = copy with { Draft = draft };
        Keep(-stamp.Id, new KeptCopy(key, copy), draft);
        return copy;
    }

    /// <summary>A product of any state with its slots filled from the range.</summary>
    public async Task<Product> Filled(UnicusContext db, Product product) =>
        product.Parts is null ? product : product with { Filled = await Filling(db).Fill(product) };

    /// <summary>The published range as far as some products and SKUs need it, with the parts of their extras.</summary>
    /// <param name="codes">Product codes.</param>
    /// <param name="skus">SKUs, present or former.</param>
    public async Task<PublishedRange> Range(UnicusContext db, IEnumerable<string> codes, IEnumerable<string> skus)
    {
        var loading = new Loading(this, db);
        foreach (var code in codes.Distinct(StringComparer.OrdinalIgnoreCase))
            if (await Latest(db, code) is { } edition)
                await loading.Add(edition);
        foreach (var sku in skus.Distinct(StringComparer.OrdinalIgnoreCase))
            await loading.Add(sku);
        return loading.View;
    }

    /// <summary>The published range as far as one product needs it; it need not be published itself.</summary>
    public async Task<PublishedRange> Range(UnicusContext db, Edition edition)
    {
        var loading = new Loading(this, db);
        await loading.Add(edition);
        return loading.View;
    }

    /// <summary>The variant with this SKU, or former SKU, in the newest edition of its product; null if it is in none.</summary>
    public async Task<VariantOnSale?> OfSku(UnicusContext db, string code)
    {
        var key = code.Trim().ToUpperInvariant();
        var names = await _skus.Get((Interlocked.Read(ref _skuNames), key), () => FindSku(db, key));
        if (names is null || await Latest(db, names.ProductId) is not { } edition)
            return null;
        return Named(edition, names);
    }

    private static VariantOnSale? Named(Edition edition, SkuNames names)
    {
        var variants = names.Names.Select(n => edition.Matrix.Find(Sku.Of(n))).OfType<MatrixVariant>().ToList();
        var found = variants.Find(v => !v.Variant.Retired) ?? variants.FirstOrDefault();
        return found is null ? null : new VariantOnSale(edition, found);
    }

    /// <summary>The stock of a product and of the parts that its extras name.</summary>
    public async Task<ShownStock> Stock(UnicusContext db, Edition edition, PublishedRange range)
    {
        var stock = new List<ProductStock> { await StockOf(db, edition.ProductId) };
        foreach (var product in PartsOf(edition, range))
            stock.Add(await StockOf(db, product));
        return new ShownStock(stock);
    }

    /// <summary>The stock of everything that lines take.</summary>
    public async Task<ShownStock> Stock(UnicusContext db, IEnumerable<LeafNeed> needs)
    {
        var stock = new List<ProductStock>();
        foreach (var product in needs.Select(n => n.Goods.Edition.ProductId).Distinct())
            stock.Add(await StockOf(db, product));
        return new ShownStock(stock);
    }

    /// <summary>The products that a product may take parts of, at any depth, itself left out.</summary>
    internal static IReadOnlyCollection<int> PartsOf(Edition edition, PublishedRange range) =>
        [.. EditionsIn(edition, range).Select(e => e.ProductId).Order()];

    /// <inheritdoc cref="PartsOf"/>
    internal static IReadOnlyList<Edition> EditionsIn(Edition edition, PublishedRange range)
    {
        var found = new List<Edition>();
        var seen = new HashSet<int> { edition.ProductId };
        void Look(Edition at)
        {
            var parts = PartSkus(at.Product)
                .Select(range.Sku)
                .Select(v => v?.Edition)
                .Concat(
                    at.Product.SlotsInRange.SelectMany(s => s.Candidates)
                        .Select(c => c.Sku is { } sku ? range.Sku(sku)?.Edition : range.Product(c.Product!))
                );
            foreach (var part in parts.OfType<Edition>().Where(p => seen.Add(p.ProductId)))
            {
                found.Add(part);
                Look(part);
            }
        }
        Look(edition);
        return found;
    }

    /// <summary>The SKUs of the parts that a product's extras name.</summary>
    internal static IEnumerable<string> PartSkus(Product product) =>
        product.Extras.SelectMany(e => e.Values).Select(v => v.Part?.Sku).OfType<string>().Distinct(StringComparer.OrdinalIgnoreCase);

    /// <inheritdoc/>
    public void Dispose()
    {
        _telling.Heard -= Hear;
        _compiled.Dispose();
        _shop.Dispose();
        _sets.Dispose();
        _prices.Dispose();
        _stamps.Dispose();
        _hints.Dispose();
        _skus.Dispose();
        _stock.Dispose();
        _compiling.Dispose();
        _fills.Dispose();
    }

    private void Hear(News news)
    {
        switch (news.Kind)
        {
            case NewsKind.Product:
                _stamps.Forget(news.Product);
                Interlocked.Increment(ref _products);
                break;
            case NewsKind.Stock:
                _stock.Forget(news.Product);
                break;
            case NewsKind.Shop:
                _shop.Forget(0);
                _prices.Forget(0);
                Interlocked.Increment(ref _lists);
                break;
            case NewsKind.Sets:
                _sets.Forget(0);
                break;
            case NewsKind.Keys:
                _keys.Forget(0);
                break;
            case NewsKind.Skus:
                Interlocked.Increment(ref _skuNames);
                _prices.Forget(0);
                break;
            case NewsKind.Prices:
                _prices.Forget(0);
                Interlocked.Increment(ref _lists);
                break;
            case NewsKind.Names:
                _prices.Forget(0);
                Interlocked.Increment(ref _lists);
                break;
            case NewsKind.Lists:
                Interlocked.Increment(ref _lists);
                break;
        }
    }

    internal async Task<ProductStock> StockOf(UnicusContext db, int product) =>
        (await _stock.Get(product, async () => new ProductStock(Guid.NewGuid(), await SkuLookup.Stock(db, [product]))))!;

    private async Task<Stamp?> StampOf(UnicusContext db, string code)
    {
        var key = code.Trim().ToUpperInvariant();
        for (var attempt = 0; attempt < 2; attempt++)
        {
            var hint = await _hints.Get(key, () => FindCode(db, key));
            if (hint is null)
                return null;
            if (await StampOf(db, hint.ProductId) is { } stamp && stamp.Code == key)
                return stamp;
            _hints.Forget(key);
        }
        return null;
    }

    private async Task<Stamp?> StampOf(UnicusContext db, int product) =>
        await _stamps.Get(product, async () =>
            await (
                from p in db.Products
                where p.Id == product
                join e in db.RangeEntries on p.Id equals e.ProductId into entries
                from e in entries.DefaultIfEmpty()
                select new Stamp(p.Id, p.Code, p.Version, p.Edition, e.Address)
            ).FirstOrDefaultAsync()
        );

    private static async Task<Hint?> FindCode(UnicusContext db, string code) =>
        await db.Products.Where(p => p.Code == code).Select(p => new Hint(p.Id)).FirstOrDefaultAsync();

    private static async Task<Hint?> FindAddress(UnicusContext db, string address) =>
        await db.RangeEntries.Where(e => e.Address == address).Select(e => new Hint(e.ProductId)).FirstOrDefaultAsync();

    private static async Task<SkuNames?> FindSku(UnicusContext db, string code)
    {
        if (await SkuLookup.Find(db, code) is not { } row)
            return null;
        var former = await db.SkuAliases.Where(a => a.SkuId == row.Id).Select(a => a.Code).ToListAsync();
        return new SkuNames(row.ProductId, [row.Code, .. former]);
    }

    /// <summary>An edition together with the shared sets that reach it as they are now: editing a set reaches what is
    /// published.</summary>
    /// <returns>Null where it was deleted meanwhile.</returns>
    private async Task<Edition?> Compiled(UnicusContext db, int product, int number)
    {
        var key = new CompilingKey(product, number, await Sets(db), (await Settings(db)).Currency);
        var edition =
            _compiled.TryGetValue(product, out KeptEdition? kept) && kept!.Key == key
                ? kept.Edition
                : (Edition?)await _compiling.Get(key, async () => await Compile(db, key));
        if (edition?.Product.Parts is null)
            return edition;
        var filled = await Filled(db, edition, number);
        if (filled != edition)
            Keep(product, new KeptEdition(key, filled), filled);
        return filled;
    }

    /// <summary>An edition with its slots filled as the range is now; the very same where nothing else fills them.</summary>
    private async Task<Edition> Filled(UnicusContext db, Edition edition, int number)
    {
        var key = new FillKey(edition.ProductId, number, ProductsStamp, ListsStamp);
        var fill = (await _fills.Get(key, async () => await Fill(db, edition.Product)))!;
        if (!edition.Product.Filled.IsDefault && TextOf(edition.Product.Filled) == fill.Text)
            return edition;
        return new Edition(
            edition.ProductId,
            edition.Number,
            edition.PublishedAt,
            edition.Product with
            {
                Filled = fill.Slots,
            },
            edition.Matrix
        )
        {
            Sets = edition.Sets,
        };
    }

    private async Task<KeptFill> Fill(UnicusContext db, Product product)
    {
        var slots = await Filling(db).Fill(product);
        return new KeptFill(slots, TextOf(slots));
    }

    private static string TextOf(System.Collections.Immutable.ImmutableArray<FilledSlot> slots) =>
        string.Join(
            '\n',
            slots.SelectMany(s =>
                s.Candidates.Select(c => $"{s.Slot.Key} {c.Key} {c.Label} {c.Product} {string.Join(' ', (c.Counterparts ?? []).Order())}")
            )
        );

    private SlotFilling Filling(UnicusContext db) =>
        new(
            db,
            async code => await StampOf(db, code) is { Edition: { } number } stamp ? await Bare(db, stamp.Id, number) : null,
            async sku =>
            {
                var names = await _skus.Get((Interlocked.Read(ref _skuNames), sku), () => FindSku(db, sku));
                if (names is null || await StampOf(db, names.ProductId) is not { Edition: { } number })
                    return null;
                return await Bare(db, names.ProductId, number) is { } edition ? Named(edition, names) : null;
            }
        );

    /// <summary>An edition whose own slots are left as they are, so that looking into sets never goes round in a circle.</summary>
    private async Task<Edition?> Bare(UnicusContext db, int product, int number)
    {
        var key = new CompilingKey(product, number, await Sets(db), (await Settings(db)).Currency);
        return _compiled.TryGetValue(product, out KeptEdition? kept) && kept!.Key == key
            ? kept.Edition
            : (Edition?)await _compiling.Get(key, async () => await Compile(db, key));
    }

    private async Task<Edition?> Compile(UnicusContext db, CompilingKey key)
    {
        var editions = db.Editions.AsNoTracking().Where(e => e.ProductId == key.ProductId && e.Number == key.Number);
        if (await editions.SingleOrDefaultAsync() is not { } row)
            return null;
        var edition = Parsed(row, key);
        _ = edition.Configurator.Rules;
        Keep(key.ProductId, new KeptEdition(key, edition), edition);
        return edition;
    }

    private static Edition Parsed(EditionRow row, CompilingKey key)
    {
        var product = WorkingCopy.Read(row.Document, key.Currency).Taking(key.Sets);
        return new Edition(key.ProductId, key.Number, row.PublishedAt, product, product.Matrix()) { Sets = key.Sets };
    }

    private async Task<CompiledCopy?> CompileCopy(UnicusContext db, Stamp stamp, CompilingKey key, WorkingCopy? loaded)
    {
        var isFresh = loaded is { IsWhole: true } && loaded.Row.Version == stamp.Version && loaded.Sets == key.Sets;
        if ((isFresh ? loaded : await WorkingCopy.Load(db, stamp.Code)) is not { } copy)
            return null;
        var draft = copy.Draft;
        _ = draft.Configurator.Rules;
        var compiled = new CompiledCopy(copy.Row.Version, draft, copy.Shop.Currency);
        Keep(-stamp.Id, new KeptCopy(key, compiled), draft);
        return compiled;
    }

    private void Keep(int slot, object kept, Edition edition) =>
        _compiled.Set(slot, kept, new MemoryCacheEntryOptions { Size = edition.Bytes });

    /// <summary>Reads what a question needs, each product and SKU once.</summary>
    private sealed class Loading(Catalogue catalogue, UnicusContext db)
    {
        private readonly Dictionary<string, Edition> _editions = [];
        private readonly Dictionary<string, VariantOnSale> _skus = [];

        public RangeView View => new(_editions, _skus);

        public async Task Add(Edition edition)
        {
            if (!_editions.TryAdd(edition.Product.Code.Text, edition))
                return;
            foreach (var sku in PartSkus(edition.Product))
                await Add(sku);
            foreach (var candidate in edition.Product.SlotsInRange.SelectMany(s => s.Candidates))
                if (candidate.Sku is { } sku)
                    await Add(sku);
                else if (await catalogue.Latest(db, candidate.Product!) is { } part)
                    await Add(part);
        }

        public async Task Add(string sku)
        {
            var key = sku.Trim().ToUpperInvariant();
            if (_skus.ContainsKey(key) || await catalogue.OfSku(db, sku) is not { } found)
                return;
            _skus[key] = found;
            await Add(found.Edition);
        }
    }
}
