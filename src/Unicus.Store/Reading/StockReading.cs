using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>A stock location of the shop.</summary>
/// <param name="Key">By which addresses and documents name it.</param>
public sealed record StockLocation(int Id, string Key, string Name)
{
    internal static StockLocation Of(LocationRow row) => new(row.Id, row.Key, row.Name);
}

/// <summary>A SKU with the product that it is of.</summary>
public sealed record StockedSku(int Id, string Code, string ProductCode, string ProductName);

/// <summary>The level of a SKU at a location.</summary>
public sealed record PlacedLevel(StockLocation Location, StockLevel Level);

/// <summary>A line of a SKU's ledger.</summary>
/// <param name="OnHand">Units that came (above 0) or went.</param>
/// <param name="Allocated">Units set aside (above 0) or given free.</param>
/// <param name="OnHold">Units put on hold (above 0) or taken off it.</param>
/// <param name="Order">The order it is for; null for none.</param>
public sealed record LedgerLine(
    DateTimeOffset At,
    MovementKind Kind,
    int OnHand,
    int Allocated,
    int OnHold,
    string Location,
    string By,
    string? Reason,
    int? Order
);

/// <summary>Reads levels and ledgers for pages and documents.</summary>
public sealed class StockReading(UnicusContext db)
{
    /// <summary>The locations in their order.</summary>
    public async Task<IReadOnlyList<StockLocation>> Locations() =>
        await db.Locations.OrderBy(l => l.Position).Select(l => new StockLocation(l.Id, l.Key, l.Name)).ToListAsync();

    /// <summary>The SKU with this code or former code; null where there is none.</summary>
    public async Task<StockedSku?> Find(string code)
    {
        if (await SkuLookup.Find(db, code) is not { } sku)
            return null;
        return await db
            .Products.Where(p => p.Id == sku.ProductId)
            .Select(p => new StockedSku(sku.Id, sku.Code, p.Code, p.Name))
            .SingleAsync();
    }

    /// <summary>The levels of a SKU where it has any, in the order of the locations.</summary>
    public async Task<IReadOnlyList<PlacedLevel>> Levels(StockedSku sku)
    {
        var found = await (
            from l in db.Levels.AsNoTracking()
            join p in db.Locations on l.LocationId equals p.Id
            where l.SkuId == sku.Id
            orderby p.Position
            select new { Place = p, Row = l }
        ).ToListAsync();
        return [.. found.Select(f => new PlacedLevel(StockLocation.Of(f.Place), f.Row.Level))];
    }

    /// <summary>How many lines its ledger has.</summary>
    public Task<int> CountMovements(StockedSku sku) => db.Movements.CountAsync(m => m.SkuId == sku.Id);

    /// <summary>The newest lines of its ledger.</summary>
    public async Task<IReadOnlyList<LedgerLine>> Ledger(StockedSku sku, int most) =>
        await (
            from m in db.Movements
            join p in db.Locations on m.LocationId equals p.Id
            where m.SkuId == sku.Id
            orderby m.Id descending
            select new LedgerLine(m.At, m.Kind, m.OnHand, m.Allocated, m.OnHold, p.Name, m.By, m.Reason, m.OrderNumber)
        )
            .Take(most)
            .ToListAsync();

    /// <summary>SKUs of other products, for boxes that ask for one.</summary>
    /// <param name="product">The product whose own are left out.</param>
    public async Task<IReadOnlyList<string>> OtherSkus(int product, int most) =>
        await db.Skus.Where(s => s.ProductId != product).OrderBy(s => s.Code).Select(s => s.Code).Take(most).ToListAsync();
}
