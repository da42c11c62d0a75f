using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using Npgsql;

namespace Unicus.Store;

/// <summary>What a person or a program asks to be moved.</summary>
/// <param name="Kind">A name of <see cref="Movements.ByHand"/>.</param>
/// <param name="Location">A location's key; null means the first.</param>
/// <param name="To">Where a transfer goes.</param>
public sealed record MovementRequest(string Sku, string Kind, int Quantity, string? Location, string? To, string? Reason);

/// <summary>Writes one movement by hand.</summary>
public sealed class MoveStock(UnicusContext db, TimeProvider clock, MakeUpSets? sets = null)
{
    public async Task<Outcome> Run(MovementRequest request, Actor by)
    {
        var faults = new List<Fault>();
        var known = sets is null ? Movements.ByHand : [.. Movements.ByHand, .. Movements.OfSets];
        var kinds = known.Where(k => k.Name == request.Kind).Select(k => (MovementKind?)k.Kind).FirstOrDefault();
        if (kinds is null)
        {
            var names = string.Join(", ", known.Select(k => k.Name));
            faults.Add(new Fault("#/kind", $"“{request.Kind}” is not a kind of movement: {names}."));
        }
        var sku = await SkuLookup.Find(db, request.Sku);
        if (sku is null)
            faults.Add(new Fault("#/sku", $"There is no SKU {request.Sku}."));
        var locations = await db.Locations.OrderBy(l => l.Position).ToListAsync();
        var from = request.Location is null ? locations[0] : locations.Find(l => l.Key == request.Location);
        if (from is null)
            faults.Add(new Fault("#/location", $"There is no location {request.Location}."));
        var to = locations.Find(l => l.Key == request.To);
        if (kinds == MovementKind.Transfer && (to is null || to == from))
            faults.Add(new Fault("#/to", "A transfer goes to another location."));
        if (kinds != MovementKind.Transfer && request.To is not null)
            faults.Add(new Fault("#/to", "Only a transfer goes to another location."));
        if (request.Reason?.Length > 300)
            faults.Add(new Fault("#/reason", "A reason has at most 300 characters."));
        if (faults.Count > 0)
            return new Outcome(faults);
        if (kinds is MovementKind.MakeUp or MovementKind.TakeApart)
        {
            var recipe = await sets!.Recipe(sku!.Code);
            return recipe.Ok
                ? await sets.Run(recipe.Value!, kinds.Value, request.Quantity, StockLocation.Of(from!), by, request.Reason)
                : Outcome.No("#/sku", recipe.Problem!);
        }

        await using var transaction = db.Database.CurrentTransaction is null ? await db.Database.BeginTransactionAsync() : null;
        var ledger = new StockLedger(db);
        var levels = await ledger.Lock([sku!.Id], kinds == MovementKind.Transfer ? [from!.Id, to!.Id] : [from!.Id]);
        var effect = ledger.Write(levels[(sku.Id, from.Id)], kinds!.Value, request.Quantity, by, clock.GetUtcNow(), request.Reason);
        if (!effect.Ok)
            return Outcome.No("#/quantity", effect.Problem!);
        if (kinds == MovementKind.Transfer)
            ledger.Take(levels[(sku.Id, to!.Id)], request.Quantity, by, clock.GetUtcNow(), request.Reason);
        await db.SaveChangesAsync();
        if (transaction is not null)
            await transaction.CommitAsync();
        return Outcome.Ok;
    }
}

/// <summary>Finds SKUs and their stock.</summary>
public static class SkuLookup
{
    private const string Summed = """
        select s.id, s.code, sum(l.on_hand)::int on_hand, sum(l.allocated)::int allocated,
          sum(l.on_hold)::int on_hold, sum(l.on_order)::int on_order
        from skus s join levels l on l.sku_id = s.id
        """;

    /// <summary>Present codes first, then former ones.</summary>
    private const string StockOfProducts = $"""
        with summed as ({Summed} where l.product_id = any($1) group by s.id, s.code)
        select code, on_hand, allocated, on_hold, on_order, false as former from summed
        union all select a.code, on_hand, allocated, on_hold, on_order, true from summed s join sku_aliases a on a.sku_id = s.id
        order by former
        """;

    private const string StockOfIds =
        $"with summed as ({Summed} where s.id = any($1) group by s.id, s.code) "
        + "select code, on_hand, allocated, on_hold, on_order from summed";

    /// <summary>The SKU with this code, or with this former code; null if there is none.</summary>
    internal static async Task<SkuRow?> Find(UnicusContext db, string code)
    {
        var key = code.Trim().ToUpperInvariant();
        return await db.Skus.FirstOrDefaultAsync(s => s.CodeKey == key)
            ?? await db.SkuAliases.Where(a => a.CodeKey == key).Join(db.Skus, a => a.SkuId, s => s.Id, (_, s) => s).FirstOrDefaultAsync();
    }

    /// <summary>The SKUs with these codes, or former codes, by the code that was asked for; what there is none of is missing.</summary>
    public static async Task<Dictionary<Sku, int>> FindAll(UnicusContext db, IReadOnlyCollection<Sku> codes)
    {
        var keys = codes.ToLookup(c => c.Text.ToUpperInvariant());
        var wanted = keys.Select(k => k.Key).ToArray();
        var found = await db
            .Skus.Where(s => wanted.Contains(s.CodeKey))
            .Select(s => new { s.CodeKey, s.Id })
            .ToDictionaryAsync(s => s.CodeKey, s => s.Id);
        var former = wanted.Where(k => !found.ContainsKey(k)).ToArray();
        if (former.Length > 0)
            foreach (var alias in await db.SkuAliases.AsNoTracking().Where(a => former.Contains(a.CodeKey)).ToListAsync())
                found[alias.CodeKey] = alias.SkuId;
        return keys.Where(k => found.ContainsKey(k.Key))
            .SelectMany(k => k.Select(c => (Code: c, Id: found[k.Key])))
            .DistinctBy(c => c.Code)
            .ToDictionary(c => c.Code, c => c.Id);
    }

    /// <summary>The stock of some products over all locations, by SKU code; former codes too. SKUs that never moved are
    /// missing.</summary>
    public static Task<Dictionary<Sku, StockLevel>> Stock(UnicusContext db, IReadOnlyCollection<int> products) =>
        Read(db, StockOfProducts, products);

    /// <summary>The stock of some SKUs over all locations.</summary>
    public static Task<Dictionary<Sku, StockLevel>> StockOfSkus(UnicusContext db, IReadOnlyCollection<int> skus) =>
        skus.Count == 0 ? Task.FromResult(new Dictionary<Sku, StockLevel>()) : Read(db, StockOfIds, skus);

    /// <summary>The stock of all SKUs of a product together.</summary>
    public static async Task<StockLevel> SumOfProduct(UnicusContext db, int product)
    {
        var sum = await db
            .Levels.Where(l => l.ProductId == product)
            .GroupBy(l => 1)
            .Select(g => new
            {
                OnHand = g.Sum(l => (long)l.OnHand),
                Allocated = g.Sum(l => (long)l.Allocated),
                OnHold = g.Sum(l => (long)l.OnHold),
                OnOrder = g.Sum(l => (long)l.OnOrder),
            })
            .SingleOrDefaultAsync();
        static int Fit(long units) => (int)Math.Clamp(units, int.MinValue, int.MaxValue);
        return sum is null ? default : new StockLevel(Fit(sum.OnHand), Fit(sum.Allocated), Fit(sum.OnHold), Fit(sum.OnOrder));
    }

    private static async Task<Dictionary<Sku, StockLevel>> Read(UnicusContext db, string sql, IReadOnlyCollection<int> ids)
    {
        // One plain statement, prepared once per connection: this stands on the way of every page of the shop.
        await db.Database.OpenConnectionAsync();
        await using var command = new NpgsqlCommand(
            sql,
            (NpgsqlConnection)db.Database.GetDbConnection(),
            (NpgsqlTransaction?)db.Database.CurrentTransaction?.GetDbTransaction()
        );
        command.Parameters.Add(new NpgsqlParameter<int[]> { TypedValue = [.. ids] });
        var stock = new Dictionary<Sku, StockLevel>();
        await using (var reader = await command.ExecuteReaderAsync())
            while (await reader.ReadAsync())
                stock.TryAdd(
                    Sku.Of(reader.GetString(0)),
                    new StockLevel(reader.GetInt32(1), reader.GetInt32(2), reader.GetInt32(3), reader.GetInt32(4))
                );
        await db.Database.CloseConnectionAsync();
        return stock;
    }
}
