using System.Collections.Concurrent;
using System.Data.Common;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>A published product, compiled once and never changed.</summary>
public sealed record CompiledEdition(int ProductId, int Number, DateTimeOffset PublishedAt, Product Product, VariantMatrix Matrix)
{
    private readonly Lazy<Configurator> _configurator = new(() => new Configurator(Product, Matrix));

    /// <summary>The shared sets that it was put together with.</summary>
    public required IReadOnlyList<ExtraSet> Sets { get; init; }

    /// <summary>Compiled when it is first asked for.</summary>
    public Configurator Configurator => _configurator.Value;
}

/// <summary>A working copy that was compiled to be asked, not changed.</summary>
/// <param name="Product">With the shared sets that reach it.</param>
public sealed record CompiledCopy(
    int ProductId,
    int Version,
    Product Product,
    VariantMatrix Matrix,
    Configurator Configurator,
    Currency Currency
)
{
    /// <summary>The shared sets that it was put together with.</summary>
    public required IReadOnlyList<ExtraSet> Sets { get; init; }
}

/// <summary>A variant that is on sale and comes as a part of something else.</summary>
public sealed record PartOnSale(CompiledEdition Edition, MatrixVariant Variant)
{
    public PartFigures Figures { get; } =
        new(Variant.Price.Figure, Variant.Cost.Figure, PriceCalculator.Title(Edition.Product.Name, Variant.Values, Edition.Matrix.Options));
}

/// <summary>Stock levels as they were a moment ago.</summary>
/// <param name="Version">Another one whenever they were read anew, so that what was made from them can be kept under it.</param>
/// <param name="Levels">Of the product's variants and of the parts that its extras name.</param>
/// <param name="Parts">Those parts as they are on sale.</param>
public sealed record ShownStock(
    DateTimeOffset Until,
    Guid Version,
    IReadOnlyDictionary<Sku, StockLevel> Levels,
    Func<string, PartOnSale?> Parts
);

/// <summary>Lets the catalogue forget what is newest whenever this process commits a transaction.</summary>
public sealed class ForgetOnCommit(Catalogue catalogue) : DbTransactionInterceptor
{
    public override void TransactionCommitted(DbTransaction transaction, TransactionEndEventData eventData) => catalogue.Forget();

    public override Task TransactionCommittedAsync(
        DbTransaction transaction,
        TransactionEndEventData eventData,
        CancellationToken cancellationToken = default
    )
    {
        catalogue.Forget();
        return Task.CompletedTask;
    }
}

/// <summary>Compiled editions by product and number: since an edition never changes, what is kept here cannot be stale.</summary>
/// <remarks>
/// For the shop's pages the list of newest editions, the settings and the stock levels are kept for a second as well, so that another
/// process shows an older edition or count for that long at most; any transaction here drops them at once (<see cref="ForgetOnCommit"/>),
/// and
/// orders never use them.
/// </remarks>
public sealed class Catalogue(TimeProvider clock) : IDisposable
{
    private static readonly TimeSpan Moment = TimeSpan.FromSeconds(1);
    private readonly SemaphoreSlim _looking = new(1);
    private volatile Shown? _shown;
    private ConcurrentDictionary<int, ShownStock> _stock = new();

    private sealed record Shown(
        DateTimeOffset Until,
        ShopSettings Shop,
        IReadOnlyList<CompiledEdition> Editions,
        Dictionary<string, CompiledEdition> ByAddress
    );

    private const int MostKept = 500;
    private const int MostCopiesKept = 16;
    private const int MostVariantsKept = 300_000;
    private readonly ConcurrentDictionary<(int Product, int Number), CompiledEdition> _kept = new();
    private readonly ConcurrentDictionary<int, CompiledCopy> _copies = new();
    private readonly ConcurrentDictionary<(int Product, int Number, IReadOnlyList<ExtraSet> Sets), Lazy<Task<CompiledEdition>>> _reading =
        new();

    /// <summary>The newest edition of a product; null if it was never published.</summary>
    public async Task<CompiledEdition?> Latest(UnicusContext db, string code)
    {
        var key = code.ToUpperInvariant();
        var row = await db
            .Products.Where(p => p.Code == key && p.Edition != null)
            .Select(p => new { p.Id, p.Edition })
            .FirstOrDefaultAsync();
        return row is null ? null : await Get(db, row.Id, row.Edition!.Value, await ExtraSets.Load(db));
    }

    /// <summary>The working copy of a product as it is now; null if there is no such product.</summary>
    /// <remarks>Kept under its version, which every change raises.</remarks>
    public async Task<CompiledCopy?> Working(UnicusContext db, string code)
    {
        var key = code.ToUpperInvariant();
        if (await db.Products.Where(p => p.Code == key).Select(p => new { p.Id, p.Version }).FirstOrDefaultAsync() is not { } row)
            return null;
        var (sets, currency) = (await ExtraSets.Load(db), (await ShopSettings.Load(db)).Currency);
        if (
            _copies.TryGetValue(row.Id, out var kept)
            && kept.Version == row.Version
            && ReferenceEquals(kept.Sets, sets)
            && kept.Currency == currency
        )
            return kept;
        if (await WorkingCopy.Load(db, key) is not { } copy)
            return null;
        if (_copies.Count >= MostCopiesKept || _copies.Values.Sum(c => c.Product.Variants.Length) > MostVariantsKept)
            _copies.Clear();
        return _copies[row.Id] = new CompiledCopy(
            copy.Row.Id,
            copy.Row.Version,
            copy.Whole,
            copy.Matrix,
            copy.Configurator,
            copy.Shop.Currency
        )
        {
            Sets = copy.Sets,
        };
    }

    /// <summary>The variant with this SKU, or former SKU, in the newest edition of its product; null if it is in none.</summary>
    /// <param name="withRetired">Whether one that is no longer offered is found too.</param>
    public async Task<PartOnSale?> OfSku(UnicusContext db, string code, bool withRetired = false)
    {
        if (await SkuLookup.Find(db, code) is not { } row)
            return null;
        var product = await db.Products.Where(p => p.Id == row.ProductId).Select(p => p.Code).FirstOrDefaultAsync();
        if (product is null || await Latest(db, product) is not { } edition)
            return null;
        var names = await db.SkuAliases.Where(a => a.SkuId == row.Id).Select(a => a.Code).ToListAsync();
        var variants = names.Prepend(row.Code).Select(n => edition.Matrix.Find(Sku.Of(n))).OfType<MatrixVariant>().ToList();
        var found = variants.Find(v => !v.Variant.Retired) ?? (withRetired ? variants.FirstOrDefault() : null);
        return found is null ? null : new PartOnSale(edition, found);
    }

    /// <summary>The parts that a product's extras name, as they are on sale now.</summary>
    public async Task<Func<string, PartOnSale?>> Parts(UnicusContext db, Product product)
    {
        var found = new Dictionary<string, PartOnSale?>();
        foreach (var sku in product.Extras.SelectMany(e => e.Values).Select(v => v.Part?.Sku).OfType<string>().Distinct())
            found[sku] = await OfSku(db, sku);
        return found.GetValueOrDefault;
    }

    /// <summary>The name of the shop when it was last looked up, for what is said while the database is away; null before that.</summary>
    public string? LastShopName { get; private set; }

    /// <summary>The settings that the shop's pages show by.</summary>
    public async Task<ShopSettings> Settings(UnicusContext db) => (await Look(db)).Shop;

    /// <summary>The newest editions of all published products, by name; the same list as long as nothing was looked up anew.</summary>
    public async Task<IReadOnlyList<CompiledEdition>> All(UnicusContext db) => (await Look(db)).Editions;

    /// <summary>The product whose newest edition has this address; null if none has.</summary>
    public async Task<CompiledEdition?> AtAddress(UnicusContext db, string address) =>
        (await Look(db)).ByAddress.GetValueOrDefault(address);

    /// <summary>The stock that the shop's page of a product shows.</summary>
    public async Task<ShownStock> Stock(UnicusContext db, CompiledEdition edition)
    {
        var now = clock.GetUtcNow();
        if (_stock.TryGetValue(edition.ProductId, out var kept) && kept.Until > now)
            return kept;
        var parts = await Parts(db, edition.Product);
        var levels = await PartStock.With(db, await SkuLookup.Stock(db, [edition.ProductId]), edition.Product, parts);
        return _stock[edition.ProductId] = new ShownStock(now + Moment, Guid.NewGuid(), levels, parts);
    }

    /// <summary>Forgets what is newest, after a change.</summary>
    public void Forget()
    {
        _shown = null;
        _stock = new ConcurrentDictionary<int, ShownStock>();
    }

    public void Dispose() => _looking.Dispose();

    private async Task<Shown> Look(UnicusContext db)
    {
        if (_shown is { } kept && kept.Until > clock.GetUtcNow())
            return kept;
        // Of many who ask at the same time one looks, and the others take what it found.
        await _looking.WaitAsync();
        try
        {
            return _shown is { } found && found.Until > clock.GetUtcNow() ? found : await LookAnew(db);
        }
        finally
        {
            _looking.Release();
        }
    }

    private async Task<Shown> LookAnew(UnicusContext db)
    {
        var shop = await ShopSettings.Load(db);
        LastShopName = shop.Name;
        var editions = await Newest(db);
        var byAddress = new Dictionary<string, CompiledEdition>();
        foreach (var edition in editions)
            byAddress.TryAdd(edition.Product.Address, edition);
        return _shown = new Shown(clock.GetUtcNow() + Moment, shop, editions, byAddress);
    }

    private async Task<IReadOnlyList<CompiledEdition>> Newest(UnicusContext db)
    {
        var rows = await db.Products.Where(p => p.Edition != null).Select(p => new { p.Id, p.Edition }).ToListAsync();
        var editions = new List<CompiledEdition>(rows.Count);
        var sets = await ExtraSets.Load(db);
        foreach (var row in rows)
            editions.Add(await Get(db, row.Id, row.Edition!.Value, sets));
        return [.. editions.OrderBy(e => e.Product.Name, StringComparer.OrdinalIgnoreCase)];
    }

    /// <summary>An edition together with the shared sets that reach it as they are now: editing a set reaches what is published.</summary>
    private async Task<CompiledEdition> Get(UnicusContext db, int product, int number, IReadOnlyList<ExtraSet> sets)
    {
        if (_kept.TryGetValue((product, number), out var kept) && ReferenceEquals(kept.Sets, sets))
            return kept;
        // Of many who ask for it at the same time one reads it; the others wait for that.
        var reading = _reading.GetOrAdd(
            (product, number, sets),
            _ => new Lazy<Task<CompiledEdition>>(() => Read(db, product, number, sets, kept))
        );
        try
        {
            return await reading.Value;
        }
        finally
        {
            _reading.TryRemove(new((product, number, sets), reading));
        }
    }

    private async Task<CompiledEdition> Read(UnicusContext db, int product, int number, IReadOnlyList<ExtraSet> sets, CompiledEdition? kept)
    {
        var row = await db.Editions.AsNoTracking().SingleAsync(e => e.ProductId == product && e.Number == number);
        var read = WorkingCopy.Read(row.Document, (await ShopSettings.Load(db)).Currency).Taking(sets);
        if (_kept.Count >= MostKept)
            _kept.Clear();
        return _kept[(product, number)] = new CompiledEdition(product, number, row.PublishedAt, read, kept?.Matrix ?? read.Matrix())
        {
            Sets = sets,
        };
    }
}
