using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Which variants of a working copy are loaded with it. The others look as the definition alone makes them.</summary>
/// <param name="Values">Null: all.</param>
public sealed record VariantScope(IReadOnlyCollection<string>? Values)
{
    public static VariantScope All { get; } = new((IReadOnlyCollection<string>?)null);
    public static VariantScope None { get; } = new([]);

    public static VariantScope Of(IEnumerable<Combination> values) => new(values.Select(v => v.Text).ToHashSet());
}

/// <summary>What stands around every product of the shop.</summary>
/// <param name="Sets">The shared sets of extras.</param>
public sealed record Surroundings(ShopSettings Shop, IReadOnlyList<ExtraSet> Sets);

/// <summary>A product as it is being worked on: definition, variants and stock, loaded together.</summary>
public sealed class WorkingCopy
{
    /// <summary>Up to so many combinations a product is loaded whole wherever that is simpler.</summary>
    public const int SmallEnough = 3000;

    private ImmutableArray<ProductCheck>? _checks;
    private Dictionary<string, VariantRow>? _byValues;
    private Edition? _draft;
    private Product? _whole;

    internal ProductRow Row { get; init; } = null!;

    /// <summary>Its number.</summary>
    public int Id => Row.Id;

    /// <summary>As addresses and documents name it.</summary>
    public string Code => Row.Code;

    /// <summary>Counts up with every change.</summary>
    public int Version => Row.Version;

    /// <summary>The number of its newest edition; null where it is not on sale.</summary>
    public int? Edition => Row.Edition;

    /// <summary>Since when that is on sale.</summary>
    public DateTimeOffset? PublishedAt => Row.PublishedAt;

    /// <summary>The version that was published last.</summary>
    public int? PublishedVersion => Row.PublishedVersion;

    /// <summary>When it was last changed.</summary>
    public DateTimeOffset ChangedAt => Row.ChangedAt;

    /// <summary>Since when it is put away; null where it is not.</summary>
    public DateTimeOffset? PutAwayAt => Row.PutAwayAt;

    /// <summary>Who put it away.</summary>
    public string? PutAwayBy => Row.PutAwayBy;

    /// <summary>How many variants it has; 0 without options.</summary>
    public int VariantCount => Row.VariantCount;

    /// <summary>With the variants that are loaded.</summary>
    public required Product Product { get; init; }

    public required VariantMatrix Matrix { get; init; }
    public required ShopSettings Shop { get; init; }

    /// <summary>What it would be on sale.</summary>
    public Edition Draft => _draft ??= new Edition(Row.Id, 0, Row.ChangedAt, Whole, Matrix) { Sets = Sets };

    /// <summary>Compiled when it is first asked for.</summary>
    public Configurator Configurator => Draft.Configurator;

    /// <summary>The shared sets of extras of the shop.</summary>
    public required IReadOnlyList<ExtraSet> Sets { get; init; }

    /// <summary>The product together with the shared sets that reach it.</summary>
    public Product Whole => _whole ??= Product.Taking(Sets);

    /// <summary>Takes what may fill its slots now by category or tag; before it is compiled.</summary>
    /// <param name="filled"><see cref="Whole"/> with its slots filled from the range.</param>
    public void FillSlots(Product filled) => _whole = filled;

    /// <summary>Every loaded variant row; when all are loaded, the retired ones whose values are gone too.</summary>
    internal IReadOnlyList<VariantRow> Rows { get; init; } = [];

    /// <summary>The stock of the loaded variants.</summary>
    public required IReadOnlyDictionary<Sku, StockLevel> Stock { get; init; }

    /// <summary>The stock of all variants together.</summary>
    public required StockLevel WholeStock { get; init; }

    public bool IsWhole { get; init; }

    /// <summary>Everything to mend. Only for a copy that is whole.</summary>
    public ImmutableArray<ProductCheck> Checks =>
        _checks ??= IsWhole
            ? ProductChecks.Look(Whole, Matrix, Shop.Terms, Stock, Configurator)
            : throw new InvalidOperationException("Checks need the whole product.");

    /// <summary>How many checks stop and how many doubt: counted, or as the summary has it.</summary>
    public (int Stops, int Doubts) CheckCounts =>
        IsWhole ? (Checks.Count(c => c.Stops), Checks.Count(c => !c.Stops)) : (Row.StopCount, Row.DoubtCount);

    /// <summary>Loads a working copy; with <paramref name="forChange"/> its product is locked till the end of the
    /// transaction.</summary>
    /// <param name="scope">Which variants, given the definition; null: all of them.</param>
    /// <param name="around">Settings and shared sets where they are at hand; null: they are read.</param>
    public static async Task<WorkingCopy?> Load(
        UnicusContext db,
        string code,
        bool forChange = false,
        Func<Product, VariantScope>? scope = null,
        Surroundings? around = null
    )
    {
        var wanted = code.ToUpperInvariant();
        var isKnown = db.ChangeTracker.Entries<ProductRow>().Any(e => e.Entity.Code == wanted);
        var row = forChange
            ? await db.Products.FromSql($"select * from products where code = {wanted} for update").SingleOrDefaultAsync()
            : await db.Products.AsNoTracking().SingleOrDefaultAsync(p => p.Code == wanted);
        if (row is null)
            return null;
        // What this context knew of it before it was locked may have changed since.
        if (forChange && isKnown)
            await db.Entry(row).ReloadAsync();
        var shop = around?.Shop ?? await ShopSettings.Load(db);
        var product = Read(row.Definition, shop.Currency);
        var asked = scope is null ? VariantScope.All : scope(product);
        var rows = await new VariantTable(db).Load(row.Id, asked.Values);
        var fitting = new MadeSet(product.Options, []);
        product = product with
        {
            Variants =
            [
                .. rows.Select(r =>
                        fitting.NumberOf(r.Values) is { } number ? FromRow(r, shop.Currency, fitting.At(number, r.Values)) : null
                    )
                    .OfType<Variant>(),
            ],
        };
        var stock = asked.Values is null
            ? await SkuLookup.Stock(db, [row.Id])
            : await SkuLookup.StockOfSkus(db, [.. rows.Select(r => r.SkuId)]);
        return new WorkingCopy
        {
            Row = row,
            Product = product,
            Matrix = product.Matrix(),
            Shop = shop,
            Sets = around?.Sets ?? await ExtraSets.Load(db),
            Rows = rows,
            Stock = stock,
            WholeStock = await SkuLookup.SumOfProduct(db, row.Id),
            IsWhole = asked.Values is null,
        };
    }

    /// <summary>All of a small product, of a large one what <paramref name="large"/> asks for.</summary>
    public static Func<Product, VariantScope> WholeIfSmall(Func<Product, VariantScope>? large = null) =>
        p => MadeSet.Size(p.Options) <= SmallEnough ? VariantScope.All : large?.Invoke(p) ?? VariantScope.None;

    /// <summary>Reads a stored document, which was written by this program.</summary>
    /// <exception cref="InvalidOperationException">The stored document is damaged.</exception>
    public static Product Read(string document, Currency currency)
    {
        using var json = JsonDocument.Parse(document);
        var (product, _, faults) = DocumentReader.Read(json.RootElement, currency, stored: true);
        return product ?? throw new InvalidOperationException($"A stored document cannot be read: {faults[0].Where} {faults[0].What}");
    }

    /// <summary>Why a definition could not be read again, in a sentence; null where it could.</summary>
    public static string? WhatIsUnreadable(string definition, Currency currency)
    {
        using var json = JsonDocument.Parse(definition);
        var (_, _, faults) = DocumentReader.Read(json.RootElement, currency, stored: true);
        return faults.Count == 0 ? null : $"{faults[0].Where.TrimStart('#', '/')}: {faults[0].What}";
    }

    /// <summary>What each loaded variant has to lose, for <see cref="OptionChange"/>.</summary>
    public async Task<IReadOnlyList<VariantStake>> Stakes(UnicusContext db)
    {
        var skus = Rows.Select(r => r.SkuId).Distinct().ToArray();
        var history = (await db.Movements.Where(m => skus.Contains(m.SkuId)).Select(m => m.SkuId).Distinct().ToListAsync()).ToHashSet();
        history.UnionWith(await db.OrderLeaves.Where(l => skus.Contains(l.SkuId)).Select(l => l.SkuId).Distinct().ToListAsync());
        var bare = (Product with { Variants = [] }).Matrix();
        return
        [
            .. Rows.Select(r =>
            {
                var variant = FromRow(r, Shop.Currency);
                var byPattern = bare.Find(variant.Values)?.Sku == variant.Sku;
                return new VariantStake(
                    byPattern ? variant with { Sku = null } : variant,
                    Stock.GetValueOrDefault(variant.Sku!.Value).OnHand,
                    history.Contains(r.SkuId)
                );
            }),
        ];
    }

    /// <summary>The number of the stock of a loaded variant; null where it has none.</summary>
    public int? StockIdOf(Combination values) => RowOf(values)?.SkuId;

    /// <summary>The loaded variants that are no longer made and whose values are gone, with their SKUs.</summary>
    public IEnumerable<(Combination Values, Sku Sku)> Gone =>
        Rows.Where(r => r.Retired)
            .Select(r => (Values: Combination.Parse(r.Values), Sku: Sku.Of(r.SkuCode)))
            .Where(g => Matrix.Find(g.Values) is null);

    internal VariantRow? RowOf(Combination values) => (_byValues ??= Rows.ToDictionary(r => r.Values)).GetValueOrDefault(values.Text);

    /// <param name="values">The row's values if they are at hand; else they are read from it.</param>
    internal static Variant FromRow(VariantRow r, Currency currency, Combination? values = null)
    {
        var blank =
            (r.Price, r.Rrp, r.Cost, r.WeightGrams, r.LengthMm, r.TaxClass, r.LeadTimeDays) == default
            && (r.LowLevel, r.NetQuantity, r.CustomsCode, r.Origin) == default;
        return new Variant(values ?? Combination.Parse(r.Values))
        {
            Sku = Sku.Of(r.SkuCode),
            Gtin = r.Gtin is null ? null : Gtin.Of(r.Gtin),
            Own = blank
                ? Figures.None
                : new Figures
                {
                    Price = Amount(r.Price, currency),
                    Rrp = Amount(r.Rrp, currency),
                    Cost = Amount(r.Cost, currency),
                    WeightGrams = r.WeightGrams,
                    SizeMm = r.LengthMm is { } l ? new SizeMm(l, r.WidthMm ?? 0, r.HeightMm ?? 0) : null,
                    TaxClass = r.TaxClass,
                    LeadTimeDays = r.LeadTimeDays,
                    LowLevel = r.LowLevel,
                    NetContent = r.NetQuantity is { } q && r.NetUnit is { } unit ? new NetContent(q, unit) : null,
                    CustomsCode = r.CustomsCode,
                    Origin = r.Origin,
                },
            Selling = r.Selling is null ? Selling.Inherited : SellingDocument.ReadStored(r.Selling),
            Retired = r.Retired,
            Note = r.Note,
            Picture = r.Picture,
            Former = r.Former,
        };
    }

    /// <summary>Writes what is a variant's own into a row; its values and SKU are the caller's to set.</summary>
    internal static void ToRow(Variant variant, VariantRow row)
    {
        (row.Price, row.Rrp, row.Cost) = (variant.Own.Price?.Amount, variant.Own.Rrp?.Amount, variant.Own.Cost?.Amount);
        (row.LengthMm, row.WidthMm, row.HeightMm) = (variant.Own.SizeMm?.Length, variant.Own.SizeMm?.Width, variant.Own.SizeMm?.Height);
        (row.WeightGrams, row.TaxClass, row.LeadTimeDays, row.LowLevel) = (
            variant.Own.WeightGrams,
            variant.Own.TaxClass,
            variant.Own.LeadTimeDays,
            variant.Own.LowLevel
        );
        (row.NetQuantity, row.NetUnit) = (variant.Own.NetContent?.Quantity, variant.Own.NetContent?.Unit);
        (row.CustomsCode, row.Origin) = (variant.Own.CustomsCode, variant.Own.Origin);
        var selling = variant.Selling == Selling.Inherited ? null : SellingDocument.Write(variant.Selling)?.ToJsonString();
        if (row.Selling is null || selling is null || SellingDocument.ReadStored(row.Selling) != variant.Selling)
            row.Selling = selling;
        (row.Retired, row.Note, row.Picture, row.Gtin, row.Former) = (
            variant.Retired,
            variant.Note,
            variant.Picture,
            variant.Gtin?.Text,
            variant.Former
        );
    }

    private static Money? Amount(decimal? amount, Currency currency) => amount is { } a ? new Money(a, currency) : null;
}
