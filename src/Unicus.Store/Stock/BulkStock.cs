using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Sets, adds, subtracts or splits what is on hand of many variants at once; the ledger keeps a movement of each.</summary>
internal sealed class BulkStock(UnicusContext db, TimeProvider clock)
{
    /// <summary>Characters of a reason at most.</summary>
    public const int LongestReason = 300;

    /// <summary>What can be done to stock: it is counted in whole units and belongs to nothing that it could be inherited from.</summary>
    private static readonly BulkOperation[] Possible = [BulkOperation.Set, BulkOperation.Add, BulkOperation.Subtract, BulkOperation.Split];

    /// <summary>Old and new of each variant.</summary>
    /// <param name="onHand">What is on hand of a variant now.</param>
    /// <param name="count">How many variants are meant in all, among whom a total is split.</param>
    public static Read<ImmutableArray<BulkRow>> Rows(
        WorkingCopy copy,
        BulkRequest request,
        List<int> numbers,
        int count,
        Func<MatrixVariant, int> onHand
    )
    {
        if (!Possible.Contains(request.Operation))
            return Read<ImmutableArray<BulkRow>>.No("What is on hand is set, added, subtracted or split.");
        if (request.Reason?.Length > LongestReason)
            return Read<ImmutableArray<BulkRow>>.No($"A reason has at most {LongestReason} characters.");
        var units = TypedNumbers.Whole(request.Amount, 0, Movements.MostUnits);
        if (!units.Ok)
            return Read<ImmutableArray<BulkRow>>.No(units.Problem!);
        if (units.Value is not { } typed)
            return Read<ImmutableArray<BulkRow>>.Of([]);
        var arithmetic = new BulkArithmetic(request.Operation, typed, null, Decimals: 0);
        ImmutableArray<decimal> shares = request.Operation == BulkOperation.Split ? arithmetic.Shares(count) : [];
        var rows = ImmutableArray.CreateBuilder<BulkRow>(numbers.Count);
        foreach (var (i, number) in numbers.Index())
        {
            var variant = copy.Matrix.At(number);
            var old = onHand(variant);
            if (arithmetic.Of(old, null, shares.IsEmpty ? 0 : shares[i]) is not (>= 0 and <= Movements.MostOfLevel and var after))
                return Read<ImmutableArray<BulkRow>>.No($"{variant.Values.Name(copy.Product.Options)} has {old:N0} on hand.");
            rows.Add(new BulkRow(variant, old, after));
        }
        return Read<ImmutableArray<BulkRow>>.Of(rows.ToImmutable());
    }

    /// <summary>Writes it in one transaction, at the shop's first location.</summary>
    /// <param name="copy">With the variants that are meant.</param>
    public async Task<Outcome<int>> Apply(WorkingCopy copy, BulkRequest request, List<int> numbers, Actor by)
    {
        await using var transaction = db.Database.CurrentTransaction is null ? await db.Database.BeginTransactionAsync() : null;
        // Variants that share a SKU share its stock: each SKU is moved once.
        var skuOf = new Dictionary<int, int>();
        foreach (var number in numbers)
            if (copy.RowOf(copy.Matrix.At(number).Values) is { } row && !skuOf.ContainsValue(row.SkuId))
                skuOf[number] = row.SkuId;
        int[] skus = [.. skuOf.Values.Order()];
        var first = await db.Locations.OrderBy(l => l.Position).FirstAsync();
        var levels = (
            await db
                .Levels.FromSql($"select * from levels where sku_id = any({skus}) order by sku_id, location_id for update")
                .AsNoTracking()
                .ToListAsync()
        ).ToLookup(l => l.SkuId);
        var moved = skuOf.Keys.ToList();
        var rows = Rows(copy, request, moved, moved.Count, v => levels[copy.RowOf(v.Values)!.SkuId].Sum(l => l.OnHand));
        if (!rows.Ok)
            return Outcome<int>.No("", rows.Problem!);
        var moves = new List<BulkMove>();
        foreach (var row in rows.Value)
        {
            var (sku, delta) = (copy.RowOf(row.Variant.Values)!.SkuId, (int)(row.New!.Value - row.Old!.Value));
            if (delta == 0)
                continue;
            var here = levels[sku].FirstOrDefault(l => l.LocationId == first.Id)?.OnHand ?? 0;
            if (here + delta < 0)
                return Outcome<int>.No(
                    "",
                    $"{row.Variant.Sku}: only {here:N0} of {row.Old:N0} lie at {first.Name}. Move or count the others in Stock."
                );
            moves.Add(new BulkMove(sku, KindOf(request.Operation), delta));
        }
        if (moves.Count > 0)
            await new StockLedger(db).WriteAll(moves, first.Id, by, clock.GetUtcNow(), Reason(request));
        if (transaction is not null)
            await transaction.CommitAsync();
        return Outcome<int>.Of(moves.Count);
    }

    private static string Reason(BulkRequest request) =>
        string.IsNullOrWhiteSpace(request.Reason) ? "Changed in bulk" : request.Reason.Trim();

    private static MovementKind KindOf(BulkOperation operation) =>
        operation switch
        {
            BulkOperation.Add => MovementKind.Receipt,
            BulkOperation.Subtract => MovementKind.WriteOff,
            _ => MovementKind.Count,
        };
}
