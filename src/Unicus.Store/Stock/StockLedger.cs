using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using Npgsql;

namespace Unicus.Store;

/// <summary>Writes movements. Levels are locked in the order of their keys, so that two writers never wait for each other in a
/// circle.</summary>
public sealed class StockLedger(UnicusContext db)
{
    /// <summary>Locks the levels of these SKUs at all locations till the end of the transaction.</summary>
    internal async Task<Dictionary<(int Sku, int Location), LevelRow>> Lock(IEnumerable<int> skus, IReadOnlyList<int> locations)
    {
        var ids = skus.Distinct().Order().ToArray();
        var places = locations.Order().ToArray();
        // What this context knew of them before may have changed since.
        foreach (var known in db.ChangeTracker.Entries<LevelRow>().Where(e => e.State == EntityState.Unchanged).ToList())
            known.State = EntityState.Detached;
        var rows = await LockThose(ids);
        // Most have held something before; the others are made, in their place in the order of keys again.
        if (ids.Any(sku => places.Any(place => !rows.ContainsKey((sku, place)))))
        {
            await MakeMissing(ids, places);
            rows = await LockThose(ids);
        }
        return rows;
    }

    private Task<Dictionary<(int Sku, int Location), LevelRow>> LockThose(int[] skus) =>
        db
            .Levels.FromSql($"select * from levels where sku_id = any({skus}) order by sku_id, location_id for update")
            .ToDictionaryAsync(r => (r.SkuId, r.LocationId));

    /// <summary>Draws the numbers of a new order and of its lines and writes, in one going to the database, what was allocated to it:
    /// others wait for these levels.</summary>
    internal async Task SaveAllocations(OrderRow order, IReadOnlyList<OrderMovement> moves, Actor by, DateTimeOffset at)
    {
        await using var command = db.Database.GetDbConnection().CreateCommand();
        command.Transaction = db.Database.CurrentTransaction?.GetDbTransaction();
        command.CommandText = """
            select nextval('order_numbers')::int,
              array(select nextval(pg_get_serial_sequence('order_lines', 'id'))::int from generate_series(1, @lines));
            update levels l set allocated = l.allocated + m.units
            from (select sku, location, sum(units)::int units from unnest(@sku, @location, @units) m(sku, location, units)
              group by sku, location) m
            where l.sku_id = m.sku and l.location_id = m.location;
            insert into movements (sku_id, location_id, kind, on_hand, allocated, on_hold, on_order, at, by, order_number)
            select m.sku, m.location, @kind, 0, m.units, 0, 0, @at, @by, currval('order_numbers')
            from unnest(@sku, @location, @units) m(sku, location, units)
            """;
        void Add<T>(string name, T value) => command.Parameters.Add(new NpgsqlParameter<T>(name, value));
        Add("lines", order.Lines.Count);
        Add<int[]>("sku", [.. moves.Select(m => m.Sku)]);
        Add<int[]>("location", [.. moves.Select(m => m.Location)]);
        Add<int[]>("units", [.. moves.Select(m => m.Units)]);
        Add("kind", (int)MovementKind.Allocation);
        Add("at", at);
        Add("by", by.Name);
        await using (var drawn = await command.ExecuteReaderAsync())
        {
            await drawn.ReadAsync();
            order.Number = drawn.GetInt32(0);
            foreach (var (line, id) in order.Lines.Zip(await drawn.GetFieldValueAsync<int[]>(1)))
                line.Id = id;
        }
        // What this context knew of these levels is no longer so.
        foreach (var written in db.ChangeTracker.Entries<LevelRow>().ToList())
            written.State = EntityState.Detached;
    }

    /// <summary>Writes what an event of an order moves, to locked levels.</summary>
    /// <returns>Why a level refuses it; null where none does. Then nothing is to be committed.</returns>
    internal string? WriteAll(
        IEnumerable<OrderMovement> movements,
        Dictionary<(int Sku, int Location), LevelRow> levels,
        Order order,
        Actor by,
        DateTimeOffset at
    )
    {
        foreach (var (sku, location, kind, units) in movements)
        {
            var written = Write(levels[(sku, location)], kind, units, by, at, null, order.Number);
            if (!written.Ok)
                return $"{order.Leaves.First(l => l.SkuId == sku).Sku} cannot leave: {written.Problem} Receive the goods first.";
        }
        return null;
    }

    /// <summary>Locks the levels of very many SKUs at one location till the end of the transaction; those that were not there are
    /// made.</summary>
    public async Task<Dictionary<int, StockLevel>> LockAll(IEnumerable<int> skus, int location)
    {
        var ids = skus.Distinct().Order().ToArray();
        await MakeMissing(ids, [location]);
        return await LockExisting(ids, location);
    }

    /// <summary>Locks those of very many levels that are there already; the others have never held anything.</summary>
    public async Task<Dictionary<int, StockLevel>> LockExisting(IEnumerable<int> skus, int location)
    {
        var ids = skus.Distinct().Order().ToArray();
        return await db
            .Levels.FromSql($"select * from levels where sku_id = any({ids}) and location_id = {location} order by sku_id for update")
            .AsNoTracking()
            .ToDictionaryAsync(r => r.SkuId, r => r.Level);
    }

    /// <summary>Writes one movement for each of very many SKUs, as two or three statements; levels that are there must be locked.</summary>
    public async Task WriteAll(IReadOnlyCollection<BulkMove> moves, int location, Actor by, DateTimeOffset at, string reason)
    {
        int[] skus = [.. moves.Select(m => m.SkuId)];
        int[] kinds = [.. moves.Select(m => (int)m.Kind)];
        int[] units = [.. moves.Select(m => m.OnHand)];
        await db.Database.ExecuteSqlAsync(
            $"""
            insert into levels (sku_id, location_id, product_id, on_hand, allocated, on_hold, on_order)
            select s.id, {location}, s.product_id, m.units, 0, 0, 0
            from unnest({skus}, {units}) m(sku, units) join skus s on s.id = m.sku where m.units >= 0 order by s.id
            on conflict (sku_id, location_id) do update set on_hand = levels.on_hand + excluded.on_hand
            """
        );
        // What is taken away must be there; a row that would be inserted could not hold it.
        if (Array.Exists(units, u => u < 0))
            await db.Database.ExecuteSqlAsync(
                $"""
                update levels l set on_hand = l.on_hand + m.units from unnest({skus}, {units}) m(sku, units)
                where l.sku_id = m.sku and l.location_id = {location} and m.units < 0
                """
            );
        await db.Database.ExecuteSqlAsync(
            $"""
            insert into movements (sku_id, location_id, kind, on_hand, allocated, on_hold, on_order, at, by, reason)
            select m.sku, {location}, m.kind, m.units, 0, 0, 0, {at}, {by.Name}, {reason}
            from unnest({skus}, {kinds}, {units}) m(sku, kind, units) order by m.sku
            """
        );
    }

    /// <summary>Applies one movement to a locked level.</summary>
    internal Read<StockDelta> Write(
        LevelRow level,
        MovementKind kind,
        int quantity,
        Actor by,
        DateTimeOffset at,
        string? reason,
        int? order = null
    )
    {
        var effect = Movements.Effect(kind, quantity, level.Level);
        if (!effect.Ok)
            return effect;
        Apply(level, kind, effect.Value, by, at, reason, order);
        return effect;
    }

    /// <summary>Writes the receiving side of a transfer.</summary>
    internal void Take(LevelRow level, int quantity, Actor by, DateTimeOffset at, string? reason) =>
        Apply(level, MovementKind.Transfer, new StockDelta(OnHand: quantity), by, at, reason, null);

    /// <summary>Moves what is on hand of a set or of its parts; the caller has looked whether there is enough.</summary>
    /// <param name="onHand">By how much; negative takes away.</param>
    internal void Shift(LevelRow level, MovementKind kind, int onHand, Actor by, DateTimeOffset at, string? reason) =>
        Apply(level, kind, new StockDelta(OnHand: onHand), by, at, reason, null);

    private Task<int> MakeMissing(int[] skus, int[] locations) =>
        db.Database.ExecuteSqlAsync(
            $"""
            insert into levels (sku_id, location_id, product_id, on_hand, allocated, on_hold, on_order)
            select s.id, l, s.product_id, 0, 0, 0, 0 from skus s cross join unnest({locations}) l
            where s.id = any({skus}) order by s.id, l on conflict do nothing
            """
        );

    private void Apply(LevelRow level, MovementKind kind, StockDelta delta, Actor by, DateTimeOffset at, string? reason, int? order)
    {
        var after = level.Level.After(delta);
        (level.OnHand, level.Allocated, level.OnHold, level.OnOrder) = (after.OnHand, after.Allocated, after.OnHold, after.OnOrder);
        db.Movements.Add(
            new MovementRow
            {
                SkuId = level.SkuId,
                LocationId = level.LocationId,
                Kind = kind,
                OnHand = delta.OnHand,
                Allocated = delta.Allocated,
                OnHold = delta.OnHold,
                OnOrder = delta.OnOrder,
                At = at,
                By = by.Name,
                Reason = string.IsNullOrWhiteSpace(reason) ? null : reason.Trim(),
                OrderNumber = order,
            }
        );
    }
}

/// <summary>One of very many movements that change only what is on hand.</summary>
/// <param name="OnHand">By how much; negative takes away.</param>
public sealed record BulkMove(int SkuId, MovementKind Kind, int OnHand);
