using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using Npgsql;

namespace Unicus.Store;

/// <summary>The stock that an order takes, held till the end of its transaction.</summary>
/// <param name="Skus">The numbers of SKUs by their codes, former codes too; what there is none of is missing.</param>
/// <param name="Locations">In the order in which they are drawn from.</param>
/// <param name="Levels">Of what is counted, by SKU and location.</param>
internal sealed record HeldStock(
    Dictionary<Sku, int> Skus,
    IReadOnlyList<int> Locations,
    Dictionary<(int Sku, int Location), StockLevel> Levels
)
{
    /// <summary>Looks everything up and locks it in one going to the database: others wait for the same stock.</summary>
    /// <param name="all">Every SKU that the order names.</param>
    /// <param name="counted">Those of them whose levels it takes from.</param>
    public static async Task<HeldStock> Lock(UnicusContext db, IReadOnlyCollection<Sku> all, IReadOnlyCollection<Sku> counted)
    {
        var held = await Read(db, all, counted);
        var ids = counted.Where(held.Skus.ContainsKey).Select(s => held.Skus[s]).Distinct().ToList();
        return ids.TrueForAll(sku => held.Locations.All(place => held.Levels.ContainsKey((sku, place))))
            ? held
            : held with
            {
                Levels = (await new StockLedger(db).Lock(ids, held.Locations)).ToDictionary(l => l.Key, l => l.Value.Level),
            };
    }

    private static async Task<HeldStock> Read(UnicusContext db, IReadOnlyCollection<Sku> all, IReadOnlyCollection<Sku> counted)
    {
        await using var command = db.Database.GetDbConnection().CreateCommand();
        command.Transaction = db.Database.CurrentTransaction!.GetDbTransaction();
        command.CommandText = """
            select w.code, coalesce(s.id, a.sku_id) from unnest(@all) w(code)
              left join skus s on s.code_key = w.code left join sku_aliases a on a.code_key = w.code
              where coalesce(s.id, a.sku_id) is not null;
            select id from locations order by position;
            select l.sku_id, l.location_id, l.on_hand, l.allocated, l.on_hold, l.on_order from levels l
              where l.sku_id = any(array(select coalesce(s.id, a.sku_id) from unnest(@counted) w(code)
                left join skus s on s.code_key = w.code left join sku_aliases a on a.code_key = w.code))
              order by l.sku_id, l.location_id for update
            """;
        string[] Keys(IEnumerable<Sku> skus) => [.. skus.Select(s => s.Text.ToUpperInvariant()).Distinct()];
        command.Parameters.Add(new NpgsqlParameter<string[]>("all", Keys(all)));
        command.Parameters.Add(new NpgsqlParameter<string[]>("counted", Keys(counted)));
        await using var reader = await command.ExecuteReaderAsync();
        var byKey = new Dictionary<string, int>();
        while (await reader.ReadAsync())
            byKey[reader.GetString(0)] = reader.GetInt32(1);
        await reader.NextResultAsync();
        var locations = new List<int>();
        while (await reader.ReadAsync())
            locations.Add(reader.GetInt32(0));
        await reader.NextResultAsync();
        var levels = new Dictionary<(int, int), StockLevel>();
        while (await reader.ReadAsync())
            levels[(reader.GetInt32(0), reader.GetInt32(1))] = new StockLevel(
                reader.GetInt32(2),
                reader.GetInt32(3),
                reader.GetInt32(4),
                reader.GetInt32(5)
            );
        var skus = new Dictionary<Sku, int>();
        foreach (var sku in all)
            if (byKey.TryGetValue(sku.Text.ToUpperInvariant(), out var id))
                skus[sku] = id;
        return new HeldStock(skus, locations, levels);
    }
}
