using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>A published product, compiled once and never changed.</summary>
public sealed record CompiledEdition(int ProductId, int Number, DateTimeOffset PublishedAt, Product Product, VariantMatrix Matrix);

/// <summary>Compiled editions by product and number: since an edition never changes, what is kept here cannot be stale.</summary>
public sealed class Catalogue
{
    private const int MostKept = 500;
    private readonly ConcurrentDictionary<(int Product, int Number), CompiledEdition> _kept = new();

    /// <summary>The newest edition of a product; null if it was never published.</summary>
    public async Task<CompiledEdition?> Latest(UnicusContext db, string code)
    {
        var key = code.ToUpperInvariant();
        var row = await db.Products.Where(p => p.Code == key && p.Edition != null).Select(p => new { p.Id, p.Edition }).FirstOrDefaultAsync();
        return row is null ? null : await Get(db, row.Id, row.Edition!.Value);
    }

    /// <summary>The newest editions of all published products, by name.</summary>
    public async Task<IReadOnlyList<CompiledEdition>> All(UnicusContext db)
    {
        var rows = await db.Products.Where(p => p.Edition != null).Select(p => new { p.Id, p.Edition }).ToListAsync();
        var editions = new List<CompiledEdition>(rows.Count);
        foreach (var row in rows) editions.Add(await Get(db, row.Id, row.Edition!.Value));
        return [.. editions.OrderBy(e => e.Product.Name, StringComparer.OrdinalIgnoreCase)];
    }

    /// <summary>The product whose newest edition has this address; null if none has.</summary>
    public async Task<CompiledEdition?> AtAddress(UnicusContext db, string address)
    {
        // The working copy usually has the same address; only where it was changed since are the others looked at.
        var row = await db.Products.Where(p => p.Address == address && p.Edition != null).Select(p => new { p.Id, p.Edition }).FirstOrDefaultAsync();
        var edition = row is null ? null : await Get(db, row.Id, row.Edition!.Value);
        return edition?.Product.Address == address ? edition : (await All(db)).FirstOrDefault(e => e.Product.Address == address);
    }

    private async Task<CompiledEdition> Get(UnicusContext db, int product, int number)
    {
        if (_kept.TryGetValue((product, number), out var kept)) return kept;
        var row = await db.Editions.AsNoTracking().SingleAsync(e => e.ProductId == product && e.Number == number);
        var read = WorkingCopy.Read(row.Document, (await ShopSettings.Load(db)).Currency);
        var edition = new CompiledEdition(product, number, row.PublishedAt, read, read.Matrix());
        if (_kept.Count >= MostKept) _kept.Clear();
        return _kept.GetOrAdd((product, number), edition);
    }
}
