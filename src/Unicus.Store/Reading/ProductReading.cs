using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>A product by code and name.</summary>
/// <param name="Picture">The file of its leading picture; null for none.</param>
/// <param name="IsAway">Whether it was put away.</param>
public sealed record NamedProduct(int Id, string Code, string Name, string? Picture, bool IsAway);

/// <summary>A product as the HTTP interface lists it.</summary>
/// <param name="Edition">The newest one; null where it is not on sale.</param>
/// <param name="Variants">How many it has; 0 where it has no options.</param>
public sealed record ListedCopy(string Code, string Name, int Version, int? Edition, int Variants);

/// <summary>A change that waits to be published.</summary>
public sealed record UnpublishedChange(string Sentence, string By, DateTimeOffset At);

/// <summary>Reads products, and working copies, for pages and documents.</summary>
public sealed class ProductReading(UnicusContext db)
{
    /// <summary>A working copy as it is now; null where there is no such product.</summary>
    /// <param name="scope">Which variants, given the definition; null: all of them.</param>
    /// <param name="around">Settings and shared sets where they are at hand; null: they are read.</param>
    public Task<WorkingCopy?> Copy(string code, Func<Product, VariantScope>? scope = null, Surroundings? around = null) =>
        WorkingCopy.Load(db, code, scope: scope, around: around);

    /// <summary>Makes the summary of a product that lists show, where it is older than the product.</summary>
    public Task RefreshSummary(string code) => Summaries.Refresh(db, code.ToUpperInvariant());

    /// <summary>How many there are.</summary>
    public Task<int> Count() => db.Products.CountAsync();

    /// <summary>A piece of all products, by code.</summary>
    public async Task<IReadOnlyList<ListedCopy>> ByCode(int skip, int take) =>
        await db
            .Products.OrderBy(p => p.Code)
            .Skip(skip)
            .Take(take)
            .Select(p => new ListedCopy(p.Code, p.Name, p.Version, p.Edition, p.VariantCount))
            .ToListAsync();

    /// <summary>Whether there is a product with this code, in any letter case.</summary>
    public Task<bool> Exists(string code) => db.Products.AnyAsync(p => p.Code == code.ToUpper());

    /// <summary>The name of a product by its code, in capitals; null where there is none.</summary>
    public Task<string?> NameOf(string code) => db.Products.Where(p => p.Code == code).Select(p => p.Name).FirstOrDefaultAsync();

    /// <summary>Those of some products that there are, by their numbers.</summary>
    public Task<Dictionary<int, NamedProduct>> Named(IReadOnlyCollection<int> ids) =>
        Named(db.Products.Where(p => ids.Contains(p.Id))).ToDictionaryAsync(p => p.Id);

    /// <summary>The same by their codes, in capitals.</summary>
    public Task<Dictionary<string, NamedProduct>> Named(IReadOnlyCollection<string> codes) =>
        Named(db.Products.Where(p => codes.Contains(p.Code))).ToDictionaryAsync(p => p.Code);

    /// <summary>The codes of other products with the same name that were not put away.</summary>
    public async Task<IReadOnlyList<string>> NamedAlike(WorkingCopy copy, int most)
    {
        var (id, name) = (copy.Id, copy.Product.Name.Trim().ToLowerInvariant());
        return await db
            .Products.Where(p => p.Id != id && p.PutAwayAt == null && p.Name.Trim().ToLower() == name)
            .OrderBy(p => p.Code)
            .Select(p => p.Code)
            .Take(most)
            .ToListAsync();
    }

    /// <summary>Codes of other products, those on sale first, for boxes that ask for one.</summary>
    /// <param name="product">The product that is left out.</param>
    public async Task<IReadOnlyList<string>> Others(int product, int most) =>
        await db
            .Products.Where(p => p.Id != product)
            .OrderByDescending(p => p.Edition != null)
            .ThenBy(p => p.Code)
            .Select(p => p.Code)
            .Take(most)
            .ToListAsync();

    /// <summary>Every tag that any product has.</summary>
    public async Task<IReadOnlyList<string>> Tags() => await db.Products.SelectMany(p => p.Tags).Distinct().ToListAsync();

    /// <summary>A product or SKU by its code, or a product by its name where just one has it; null where nothing is called so.</summary>
    public async Task<PartEntry?> Part(string typed)
    {
        var code = typed.Trim().ToUpperInvariant();
        if (await db.Products.AnyAsync(p => p.Code == code))
            return new PartEntry.OfProduct(code);
        if (await db.Skus.Where(s => s.Code.ToUpper() == code).Select(s => s.Code).FirstOrDefaultAsync() is { } sku)
            return new PartEntry.OfSku(sku);
        var wanted = typed.Trim().ToLowerInvariant();
        var named = await db.Products.Where(p => p.Name.ToLower() == wanted).Select(p => p.Code).Take(2).ToListAsync();
        return named is [var only] ? new PartEntry.OfProduct(only) : null;
    }

    /// <summary>What waits to be published of a product, the newest first.</summary>
    public async Task<IReadOnlyList<UnpublishedChange>> Unpublished(WorkingCopy copy, int most) =>
        await db
            .ProductChanges.Where(c => c.ProductId == copy.Id && !c.Undone && !c.AtOnce && c.Version > (copy.PublishedVersion ?? 0))
            .OrderByDescending(c => c.Id)
            .Take(most)
            .Select(c => new UnpublishedChange(c.Sentence, c.By, c.At))
            .ToListAsync();

    private static IQueryable<NamedProduct> Named(IQueryable<ProductRow> products) =>
        products.Select(p => new NamedProduct(p.Id, p.Code, p.Name, p.Picture, p.PutAwayAt != null));
}
