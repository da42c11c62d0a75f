using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Unicus.Store;

/// <summary>A working copy that was compiled to be asked, not changed.</summary>
/// <param name="Version">Of the working copy.</param>
/// <param name="Draft">The product as it would be published, with the shared sets that reach it.</param>
/// <param name="Currency">The shop's.</param>
public sealed record CompiledCopy(int Version, Edition Draft, Currency Currency);

/// <summary>Compiled editions and working copies, kept by weight.</summary>
/// <remarks>An edition never changes, so a compiled one cannot be stale; which edition is the newest is kept until <see cref="Telling"/>
/// says that it changed. Codes, addresses and SKUs are only hints at a product: the product's own stamp says whether they still
/// hold.</remarks>
public sealed class Editions : IDisposable
{
    private const long MostOfEditions = 120L * 1024 * 1024;
    private const int ReadAtOnce = 300;
    private const long MostOfHints = 24L * 1024 * 1024;

    private readonly ShopTerms _terms;
    private readonly RangeStamps _rangeStamps;
    private readonly SlotFills _fills;
    private readonly MemoryCache _compiled = new(new MemoryCacheOptions { SizeLimit = MostOfEditions });
    private readonly ToldCache<int, Stamp> _stamps;
    private readonly ToldCache<string, Hint> _hints;
    private readonly ToldCache<(long Names, string Code), SkuNames> _skus;
    private readonly ToldCache<CompilingKey, object> _compiling;

    internal Editions(Telling telling, ShopTerms terms, RangeStamps stamps, SlotFills fills)
    {
        (_terms, _rangeStamps, _fills) = (terms, stamps, fills);
        _stamps = new ToldCache<int, Stamp>(telling, "which edition is the newest", MostOfHints, _ => 200).ForgetBy(
            n => n.Product,
            NewsKind.Product
        );
        _hints = new ToldCache<string, Hint>(telling, "codes and addresses (hints)", MostOfHints, _ => 200);
        _skus = new ToldCache<(long, string), SkuNames>(telling, "SKUs and their former codes (under the stamp of names)", MostOfHints, s =>
            200 + 80 * s.Names.Count
        );
        _compiling = new ToldCache<CompilingKey, object>(telling, "editions that are being compiled", 1, _ => 2);
    }

    internal IEnumerable<IKept> Kept => [new Compilations(), _stamps, _hints, _skus, _compiling];

    /// <summary>What was compiled: it is kept under edition or version, shared sets and currency, and needs no news.</summary>
    private sealed class Compilations : IKept
    {
        public string What => "compiled editions and working copies (under edition or version, shared sets and currency)";
        public long MostBytes => MostOfEditions;
        public IReadOnlyCollection<NewsKind> ForgottenBy => [];
    }

    /// <summary>Where a product stands.</summary>
    private sealed record Stamp(int Id, string Code, int Version, int? Edition, string? Address);

    private sealed record Hint(int ProductId);

    /// <summary>The present code of a SKU, its former ones, and the product that has it.</summary>
    private sealed record SkuNames(int ProductId, IReadOnlyList<string> Names);

    private readonly record struct CompilingKey(int ProductId, int Number, IReadOnlyList<ExtraSet> Sets, Currency Currency);

    /// <summary>A compiled edition with what it was made for.</summary>
    private sealed record KeptEdition(CompilingKey Key, Edition Edition);

    private sealed record KeptCopy(CompilingKey Key, CompiledCopy Copy);

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
        var (sets, currency) = (await _terms.Sets(db), (await _terms.Settings(db)).Currency);
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
        var key = new CompilingKey(stamp.Id, -stamp.Version, await _terms.Sets(db), (await _terms.Settings(db)).Currency);
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
        var loading = new RangeLoading(this, db);
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
        var loading = new RangeLoading(this, db);
        await loading.Add(edition);
        return loading.View;
    }

    /// <summary>The variant with this SKU, or former SKU, in the newest edition of its product; null if it is in none.</summary>
    public async Task<VariantOnSale?> OfSku(UnicusContext db, string code)
    {
        var key = code.Trim().ToUpperInvariant();
        var names = await _skus.Get((_rangeStamps.SkuNames, key), () => FindSku(db, key));
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

    /// <inheritdoc/>
    public void Dispose()
    {
        _compiled.Dispose();
        _stamps.Dispose();
        _hints.Dispose();
        _skus.Dispose();
        _compiling.Dispose();
    }

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
        var key = new CompilingKey(product, number, await _terms.Sets(db), (await _terms.Settings(db)).Currency);
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

    private Task<Edition> Filled(UnicusContext db, Edition edition, int number) => _fills.Fill(edition, number, Filling(db));

    private SlotFilling Filling(UnicusContext db) =>
        new(
            db,
            async code => await StampOf(db, code) is { Edition: { } number } stamp ? await Bare(db, stamp.Id, number) : null,
            async sku =>
            {
                var names = await _skus.Get((_rangeStamps.SkuNames, sku), () => FindSku(db, sku));
                if (names is null || await StampOf(db, names.ProductId) is not { Edition: { } number })
                    return null;
                return await Bare(db, names.ProductId, number) is { } edition ? Named(edition, names) : null;
            }
        );

    /// <summary>An edition whose own slots are left as they are, so that looking into sets never goes round in a circle.</summary>
    private async Task<Edition?> Bare(UnicusContext db, int product, int number)
    {
        var key = new CompilingKey(product, number, await _terms.Sets(db), (await _terms.Settings(db)).Currency);
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
}
