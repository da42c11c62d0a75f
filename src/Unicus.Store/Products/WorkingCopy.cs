using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>A product as it is being worked on: definition, variants and stock, loaded together.</summary>
public sealed class WorkingCopy
{
    public required ProductRow Row { get; init; }
    public required Product Product { get; init; }
    public required VariantMatrix Matrix { get; init; }
    public required ShopSettings Shop { get; init; }

    /// <summary>Every variant row, the retired ones whose values are gone too.</summary>
    public required IReadOnlyList<VariantRow> Rows { get; init; }

    public required IReadOnlyDictionary<Sku, StockLevel> Stock { get; init; }

    public ImmutableArray<ProductCheck> Checks => ProductChecks.Look(Product, Matrix, Shop.Terms, Stock);

    /// <summary>Loads a working copy; with <paramref name="forChange"/> its product is locked till the end of the transaction.</summary>
    public static async Task<WorkingCopy?> Load(UnicusContext db, string code, bool forChange = false)
    {
        var wanted = code.ToUpperInvariant();
        var row = forChange
            ? await db.Products.FromSql($"select * from products where code = {wanted} for update").SingleOrDefaultAsync()
            : await db.Products.AsNoTracking().SingleOrDefaultAsync(p => p.Code == wanted);
        if (row is null) return null;
        if (forChange) await db.Entry(row).ReloadAsync();
        var query = db.Variants.Include(v => v.Sku).Where(v => v.ProductId == row.Id);
        var rows = await (forChange ? query : query.AsNoTrackingWithIdentityResolution()).OrderBy(v => v.Id).ToListAsync();
        var shop = await ShopSettings.Load(db);
        var product = Read(row.Definition, shop.Currency);
        product = product with { Variants = [.. rows.Where(r => Fits(product, r)).Select(r => FromRow(r, shop.Currency))] };
        return new WorkingCopy { Row = row, Product = product, Matrix = product.Matrix(), Shop = shop, Rows = rows, Stock = await SkuLookup.Stock(db, [row.Id]) };
    }

    /// <summary>Reads a stored document, which was written by this program.</summary>
    /// <exception cref="InvalidOperationException">The stored document is damaged.</exception>
    public static Product Read(string document, Currency currency)
    {
        using var json = JsonDocument.Parse(document);
        var (product, _, faults) = DocumentReader.Read(json.RootElement, currency);
        return product ?? throw new InvalidOperationException($"A stored document cannot be read: {faults[0].Where} {faults[0].What}");
    }

    /// <summary>What each variant has to lose, for <see cref="OptionChange"/>.</summary>
    public async Task<IReadOnlyList<VariantStake>> Stakes(UnicusContext db)
    {
        var moved = await (from v in db.Variants where v.ProductId == Row.Id && db.Movements.Any(m => m.SkuId == v.SkuId) select v.Id).ToListAsync();
        var ordered = await (from v in db.Variants where v.ProductId == Row.Id && db.OrderLines.Any(l => l.SkuId == v.SkuId) select v.Id).ToListAsync();
        var history = moved.Concat(ordered).ToHashSet();
        var bare = (Product with { Variants = [] }).Matrix();
        return [.. Rows.Select(r =>
        {
            var variant = FromRow(r, Shop.Currency);
            var byPattern = bare.Find(variant.Values)?.Sku == variant.Sku;
            return new VariantStake(byPattern ? variant with { Sku = null } : variant, Stock.GetValueOrDefault(variant.Sku!.Value).OnHand, history.Contains(r.Id));
        })];
    }

    public VariantRow? RowOf(Combination values) => Rows.FirstOrDefault(r => r.Values == values.Text);

    public static Variant FromRow(VariantRow r, Currency currency) => new(Combination.Parse(r.Values))
    {
        Sku = Sku.Of(r.Sku!.Code),
        Own = new Figures
        {
            Price = Amount(r.Price, currency),
            Rrp = Amount(r.Rrp, currency),
            Cost = Amount(r.Cost, currency),
            WeightGrams = r.WeightGrams,
            SizeMm = r.LengthMm is { } l ? new SizeMm(l, r.WidthMm ?? 0, r.HeightMm ?? 0) : null,
            TaxClass = r.TaxClass,
            LeadTimeDays = r.LeadTimeDays,
            LowLevel = r.LowLevel,
        },
        Selling = r.Selling is null ? Selling.Inherited : SellingText.Read(r.Selling),
        Retired = r.Retired,
        Note = r.Note,
    };

    public static void ToRow(Variant variant, VariantRow row)
    {
        (row.Price, row.Rrp, row.Cost) = (variant.Own.Price?.Amount, variant.Own.Rrp?.Amount, variant.Own.Cost?.Amount);
        (row.LengthMm, row.WidthMm, row.HeightMm) = (variant.Own.SizeMm?.Length, variant.Own.SizeMm?.Width, variant.Own.SizeMm?.Height);
        (row.WeightGrams, row.TaxClass, row.LeadTimeDays, row.LowLevel) = (variant.Own.WeightGrams, variant.Own.TaxClass, variant.Own.LeadTimeDays, variant.Own.LowLevel);
        var selling = SellingText.Write(variant.Selling);
        if (row.Selling is null || selling is null || SellingText.Read(row.Selling) != variant.Selling) row.Selling = selling;
        (row.Retired, row.Note) = (variant.Retired, variant.Note);
    }

    private static bool Fits(Product product, VariantRow row)
    {
        var values = Combination.Parse(row.Values);
        return values.Pairs.Length == product.Options.Length && product.Options.All(o => values[o.Key] is { } v && o.Find(v) is not null);
    }

    private static Money? Amount(decimal? amount, Currency currency) => amount is { } a ? new Money(a, currency) : null;
}

/// <summary>A variant's terms of selling in its column: the same JSON as in documents.</summary>
public static class SellingText
{
    private static readonly ProductCode AnyCode = ProductCode.Of("X");

    public static string? Write(Selling selling) =>
        DocumentWriter.Write(new Product(AnyCode, "x") { Selling = selling }, ListedVariants.None)["selling"]?.ToJsonString();

    public static Selling Read(string json) =>
        WorkingCopy.Read($$"""{"format":"{{DocumentReader.Format}}","code":"X","name":"x","selling":{{json}}}""", Currency.Euro).Selling;
}
