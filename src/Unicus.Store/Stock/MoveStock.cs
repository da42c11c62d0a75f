using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>What a person or a program asks to be moved.</summary>
/// <param name="Kind">A name of <see cref="Movements.ByHand"/>.</param>
/// <param name="Location">A location's key; null means the first.</param>
/// <param name="To">Where a transfer goes.</param>
public sealed record MovementRequest(string Sku, string Kind, int Quantity, string? Location, string? To, string? Reason);

/// <summary>Writes one movement by hand.</summary>
public sealed class MoveStock(UnicusContext db, TimeProvider clock)
{
    public async Task<Outcome> Run(MovementRequest request, Actor by)
    {
        var faults = new List<Fault>();
        var kinds = Movements.ByHand.Where(k => k.Name == request.Kind).Select(k => (MovementKind?)k.Kind).FirstOrDefault();
        if (kinds is null) faults.Add(new Fault("#/kind", $"“{request.Kind}” is not a kind of movement: {string.Join(", ", Movements.ByHand.Select(k => k.Name))}."));
        var sku = await SkuLookup.Find(db, request.Sku);
        if (sku is null) faults.Add(new Fault("#/sku", $"There is no SKU {request.Sku}."));
        var locations = await db.Locations.OrderBy(l => l.Position).ToListAsync();
        var from = request.Location is null ? locations[0] : locations.Find(l => l.Key == request.Location);
        if (from is null) faults.Add(new Fault("#/location", $"There is no location {request.Location}."));
        var to = locations.Find(l => l.Key == request.To);
        if (kinds == MovementKind.Transfer && (to is null || to == from)) faults.Add(new Fault("#/to", "A transfer goes to another location."));
        if (kinds != MovementKind.Transfer && request.To is not null) faults.Add(new Fault("#/to", "Only a transfer goes to another location."));
        if (request.Reason?.Length > 300) faults.Add(new Fault("#/reason", "A reason has at most 300 characters."));
        if (faults.Count > 0) return new Outcome(faults);

        await using var transaction = db.Database.CurrentTransaction is null ? await db.Database.BeginTransactionAsync() : null;
        var ledger = new StockLedger(db);
        var levels = await ledger.Lock([sku!.Id], kinds == MovementKind.Transfer ? [from!.Id, to!.Id] : [from!.Id]);
        var effect = ledger.Write(levels[(sku.Id, from.Id)], kinds!.Value, request.Quantity, by, clock.GetUtcNow(), request.Reason);
        if (!effect.Ok) return Outcome.No("#/quantity", effect.Problem!);
        if (kinds == MovementKind.Transfer) ledger.Take(levels[(sku.Id, to!.Id)], request.Quantity, by, clock.GetUtcNow(), request.Reason);
        await db.SaveChangesAsync();
        if (transaction is not null) await transaction.CommitAsync();
        return Outcome.Ok;
    }
}

/// <summary>Finds SKUs and their stock.</summary>
public static class SkuLookup
{
    /// <summary>The SKU with this code, or with this former code; null if there is none.</summary>
    public static async Task<SkuRow?> Find(UnicusContext db, string code)
    {
        var key = code.Trim().ToUpperInvariant();
        return await db.Skus.FirstOrDefaultAsync(s => s.CodeKey == key)
            ?? await db.SkuAliases.Where(a => a.CodeKey == key).Join(db.Skus, a => a.SkuId, s => s.Id, (_, s) => s).FirstOrDefaultAsync();
    }

    /// <summary>The stock of some products over all locations, by SKU code; former codes too. SKUs that never moved are missing.</summary>
    public static async Task<Dictionary<Sku, StockLevel>> Stock(UnicusContext db, IReadOnlyCollection<int> products)
    {
        var rows = await (from s in db.Skus
                          where products.Contains(s.ProductId)
                          join l in db.Levels on s.Id equals l.SkuId
                          group l by new { s.Id, s.Code } into g
                          select new { g.Key.Id, g.Key.Code, OnHand = g.Sum(l => l.OnHand), Allocated = g.Sum(l => l.Allocated), OnHold = g.Sum(l => l.OnHold), OnOrder = g.Sum(l => l.OnOrder) })
            .AsNoTracking().ToListAsync();
        var stock = rows.ToDictionary(r => Sku.Of(r.Code), r => new StockLevel(r.OnHand, r.Allocated, r.OnHold, r.OnOrder));
        var ids = rows.ToDictionary(r => r.Id, r => Sku.Of(r.Code));
        var former = await db.SkuAliases.Where(a => ids.Keys.Contains(a.SkuId)).AsNoTracking().ToListAsync();
        foreach (var alias in former) stock.TryAdd(Sku.Of(alias.Code), stock[ids[alias.SkuId]]);
        return stock;
    }
}
