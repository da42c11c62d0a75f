using System.Data;
using System.Globalization;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using Npgsql;
using NpgsqlTypes;

namespace Unicus.Store;

/// <summary>A column of the table of variants that a change may touch.</summary>
internal abstract record VariantColumn(string Name, NpgsqlDbType Type)
{
    public abstract bool Same(VariantRow a, VariantRow b);

    public abstract void Copy(VariantRow from, VariantRow to);

    public abstract string? Text(VariantRow row);

    public abstract void Set(VariantRow row, string? text);

    public abstract NpgsqlParameter Array(IReadOnlyList<VariantRow> rows);

    public abstract Task Write(NpgsqlBinaryImporter import, VariantRow row);
}

/// <inheritdoc cref="VariantColumn"/>
internal sealed record VariantColumn<T>(string Name, NpgsqlDbType Type, Func<VariantRow, T> Get, Action<VariantRow, T> Put)
    : VariantColumn(Name, Type)
{
    public override bool Same(VariantRow a, VariantRow b) => EqualityComparer<T>.Default.Equals(Get(a), Get(b));

    public override void Copy(VariantRow from, VariantRow to) => Put(to, Get(from));

    public override string? Text(VariantRow row) => Get(row) is { } value ? Convert.ToString(value, CultureInfo.InvariantCulture) : null;

    public override void Set(VariantRow row, string? text) =>
        Put(
            row,
            text is null
                ? default!
                : (T)Convert.ChangeType(text, Nullable.GetUnderlyingType(typeof(T)) ?? typeof(T), CultureInfo.InvariantCulture)
        );

    public override NpgsqlParameter Array(IReadOnlyList<VariantRow> rows)
    {
        var values = new T[rows.Count];
        for (var i = 0; i < values.Length; i++)
            values[i] = Get(rows[i]);
        return VariantTable.Parameter(NpgsqlDbType.Array | (Type == NpgsqlDbType.Jsonb ? NpgsqlDbType.Text : Type), values);
    }

    public override Task Write(NpgsqlBinaryImporter import, VariantRow row) =>
        Get(row) is { } value ? import.WriteAsync(value, Type) : import.WriteNullAsync();
}

/// <summary>Reads and writes variants by the thousand: plain readers, binary COPY and one set-based statement for any number of
/// rows.</summary>
internal sealed class VariantTable(UnicusContext db)
{
    public static IReadOnlyList<VariantColumn> Columns { get; } =
    [
        new VariantColumn<string>("values", NpgsqlDbType.Text, r => r.Values, (r, v) => r.Values = v),
        new VariantColumn<int>("sku_id", NpgsqlDbType.Integer, r => r.SkuId, (r, v) => r.SkuId = v),
        new VariantColumn<string?>("gtin", NpgsqlDbType.Text, r => r.Gtin, (r, v) => r.Gtin = v),
        new VariantColumn<decimal?>("price", NpgsqlDbType.Numeric, r => r.Price, (r, v) => r.Price = v),
        new VariantColumn<decimal?>("rrp", NpgsqlDbType.Numeric, r => r.Rrp, (r, v) => r.Rrp = v),
        new VariantColumn<decimal?>("cost", NpgsqlDbType.Numeric, r => r.Cost, (r, v) => r.Cost = v),
        new VariantColumn<int?>("weight_grams", NpgsqlDbType.Integer, r => r.WeightGrams, (r, v) => r.WeightGrams = v),
        new VariantColumn<int?>("length_mm", NpgsqlDbType.Integer, r => r.LengthMm, (r, v) => r.LengthMm = v),
        new VariantColumn<int?>("width_mm", NpgsqlDbType.Integer, r => r.WidthMm, (r, v) => r.WidthMm = v),
        new VariantColumn<int?>("height_mm", NpgsqlDbType.Integer, r => r.HeightMm, (r, v) => r.HeightMm = v),
        new VariantColumn<string?>("tax_class", NpgsqlDbType.Text, r => r.TaxClass, (r, v) => r.TaxClass = v),
        new VariantColumn<int?>("lead_time_days", NpgsqlDbType.Integer, r => r.LeadTimeDays, (r, v) => r.LeadTimeDays = v),
        new VariantColumn<int?>("low_level", NpgsqlDbType.Integer, r => r.LowLevel, (r, v) => r.LowLevel = v),
        new VariantColumn<string?>("selling", NpgsqlDbType.Jsonb, r => r.Selling, (r, v) => r.Selling = v),
        new VariantColumn<bool>("retired", NpgsqlDbType.Boolean, r => r.Retired, (r, v) => r.Retired = v),
        new VariantColumn<string?>("note", NpgsqlDbType.Text, r => r.Note, (r, v) => r.Note = v),
        new VariantColumn<string?>("picture", NpgsqlDbType.Text, r => r.Picture, (r, v) => r.Picture = v),
        new VariantColumn<string?>("former", NpgsqlDbType.Jsonb, r => r.Former, (r, v) => r.Former = v),
        new VariantColumn<decimal?>("net_quantity", NpgsqlDbType.Numeric, r => r.NetQuantity, (r, v) => r.NetQuantity = v),
        new VariantColumn<string?>("net_unit", NpgsqlDbType.Text, r => r.NetUnit, (r, v) => r.NetUnit = v),
        new VariantColumn<string?>("customs_code", NpgsqlDbType.Text, r => r.CustomsCode, (r, v) => r.CustomsCode = v),
        new VariantColumn<string?>("origin", NpgsqlDbType.Text, r => r.Origin, (r, v) => r.Origin = v),
    ];

    private const int ManyRows = 10_000;
    private static readonly TimeSpan Patience = TimeSpan.FromMinutes(10);
    private static readonly string AllColumns = string.Join(", ", Columns.Select(c => $"\"{c.Name}\""));
    private static readonly string SelectRows =
        $"select v.id, {string.Join(", ", Columns.Select(c => $"v.\"{c.Name}\""))}, s.code from variants v join skus s on s.id = v.sku_id ";

    /// <summary>All variants of a product, or those with these values, in the order they were made.</summary>
    public Task<List<VariantRow>> Load(int product, IReadOnlyCollection<string>? values = null) =>
        values is null ? Read(product, SelectRows + "where v.product_id = $1", Parameter(NpgsqlDbType.Integer, product))
        : values.Count == 0 ? Task.FromResult(new List<VariantRow>())
        : Read(
            product,
            SelectRows + "where v.product_id = $1 and v.\"values\" = any($2)",
            Parameter(NpgsqlDbType.Integer, product),
            Parameter(NpgsqlDbType.Array | NpgsqlDbType.Text, values.ToArray())
        );

    /// <summary>The variants with these ids.</summary>
    public Task<List<VariantRow>> Load(int product, IReadOnlyCollection<int> ids) =>
        ids.Count == 0
            ? Task.FromResult(new List<VariantRow>())
            : Read(
                product,
                SelectRows + "where v.product_id = $1 and v.id = any($2)",
                Parameter(NpgsqlDbType.Integer, product),
                Parameter(NpgsqlDbType.Array | NpgsqlDbType.Integer, ids.ToArray())
            );

    /// <summary>Ids that nobody else will get: a whole block of the sequence at once. Every row of these tables gets its id
    /// here.</summary>
    public async Task<int[]> NewIds(string table, int count)
    {
        await Execute("select pg_advisory_lock(710223)");
        await using var command = await Command(
            $"select setval(pg_get_serial_sequence('{table}', 'id'), nextval(pg_get_serial_sequence('{table}', 'id')) + $1 - 1)",
            Parameter(NpgsqlDbType.Integer, count)
        );
        var last = (int)(long)(await command.ExecuteScalarAsync())!;
        await Execute("select pg_advisory_unlock(710223)");
        return [.. Enumerable.Range(last - count + 1, count)];
    }

    public async Task Insert(IReadOnlyList<VariantRow> rows)
    {
        if (rows.Count == 0)
            return;
        await PlanAnew(rows.Count);
        await using var import = await (await Connection()).BeginBinaryImportAsync(
            $"copy variants (id, product_id, {AllColumns}) from stdin (format binary)"
        );
        import.Timeout = Patience;
        foreach (var row in rows)
        {
            await import.StartRowAsync();
            await import.WriteAsync(row.Id, NpgsqlDbType.Integer);
            await import.WriteAsync(row.ProductId, NpgsqlDbType.Integer);
            foreach (var column in Columns)
                await column.Write(import, row);
        }
        await import.CompleteAsync();
    }

    public async Task InsertSkus(IReadOnlyList<SkuRow> skus)
    {
        if (skus.Count == 0)
            return;
        await PlanAnew(skus.Count);
        await using var import = await (await Connection()).BeginBinaryImportAsync(
            "copy skus (id, code, code_key, product_id) from stdin (format binary)"
        );
        import.Timeout = Patience;
        foreach (var sku in skus)
        {
            await import.StartRowAsync();
            await import.WriteAsync(sku.Id, NpgsqlDbType.Integer);
            await import.WriteAsync(sku.Code, NpgsqlDbType.Text);
            await import.WriteAsync(sku.CodeKey, NpgsqlDbType.Text);
            await import.WriteAsync(sku.ProductId, NpgsqlDbType.Integer);
        }
        await import.CompleteAsync();
    }

    /// <summary>Writes the given columns of the rows, in one statement.</summary>
    public async Task Update(IReadOnlyList<VariantRow> rows, IReadOnlyList<VariantColumn> columns)
    {
        if (rows.Count == 0 || columns.Count == 0)
            return;
        await PlanAnew(rows.Count);
        var ids = Parameter(NpgsqlDbType.Array | NpgsqlDbType.Integer, rows.Select(r => r.Id).ToArray());
        // Two steps keep the unique index on (product, values) quiet while values move around.
        if (columns.Any(c => c.Name == "values"))
            await Execute("update variants set \"values\" = 'moving-' || id where id = any($1)", ids);
        var sets = string.Join(
            ", ",
            columns.Select(c => $"\"{c.Name}\" = t.\"{c.Name}\"{(c.Type == NpgsqlDbType.Jsonb ? "::jsonb" : "")}")
        );
        var arrays = string.Join(", ", Enumerable.Range(2, columns.Count).Select(n => $"${n}"));
        var names = string.Join(", ", columns.Select(c => $"\"{c.Name}\""));
        // The planner takes an array for a handful of rows; for very many a hash join is far faster than looking each up.
        var many = rows.Count > ManyRows;
        if (many)
            await Execute("set local enable_nestloop = off");
        await Execute(
            $"update variants v set {sets} from unnest($1, {arrays}) as t(id, {names}) where v.id = t.id",
            [Again(ids), .. columns.Select(c => c.Array(rows))]
        );
        if (many)
            await Execute("set local enable_nestloop = on");
    }

    public async Task Delete(IReadOnlyCollection<int> ids)
    {
        if (ids.Count == 0)
            return;
        await PlanAnew(ids.Count);
        await Execute("delete from variants where id = any($1)", Parameter(NpgsqlDbType.Array | NpgsqlDbType.Integer, ids.ToArray()));
    }

    /// <summary>Lets the database plan anew how it looks keys of other tables up. The plans of a connection that has only met small tables
    /// read them from end to end, for each of very many rows.</summary>
    public Task PlanAnew(int rows) => rows < ManyRows / 10 ? Task.CompletedTask : Execute("discard plans");

    /// <summary>SKUs with one of these codes (in capitals), with the product that each belongs to and whether a variant has
    /// it.</summary>
    public async Task<List<(SkuRow Sku, bool InUse)>> SkusCalled(IReadOnlyCollection<string> keys)
    {
        var found = new List<(SkuRow, bool)>();
        if (keys.Count == 0)
            return found;
        await using var command = await Command(
            "select id, code, code_key, product_id, exists (select 1 from variants v where v.sku_id = s.id) "
                + "from skus s where code_key = any($1)",
            Parameter(NpgsqlDbType.Array | NpgsqlDbType.Text, keys.ToArray())
        );
        await using var reader = await command.ExecuteReaderAsync();
        while (await reader.ReadAsync())
            found.Add(
                (
                    new SkuRow
                    {
                        Id = reader.GetInt32(0),
                        Code = reader.GetString(1),
                        CodeKey = reader.GetString(2),
                        ProductId = reader.GetInt32(3),
                    },
                    reader.GetBoolean(4)
                )
            );
        return found;
    }

    /// <summary>The first SKU among these rows that has stock or orders and no other row; null if none has.</summary>
    public async Task<string?> HeldSkus(IReadOnlyList<VariantRow> rows)
    {
        if (rows.Count == 0)
            return null;
        await using var command = await Command(
            "select s.code from skus s join levels l on l.sku_id = s.id where s.id = any($1) and (l.on_hand <> 0 or l.allocated <> 0) "
                + "and not exists (select 1 from variants v where v.sku_id = s.id and v.id <> all($2)) limit 1",
            Parameter(NpgsqlDbType.Array | NpgsqlDbType.Integer, rows.Select(r => r.SkuId).ToArray()),
            Parameter(NpgsqlDbType.Array | NpgsqlDbType.Integer, rows.Select(r => r.Id).ToArray())
        );
        return (string?)await command.ExecuteScalarAsync();
    }

    public async Task<Dictionary<int, string>> CodesOf(IReadOnlyCollection<int> skus)
    {
        var codes = new Dictionary<int, string>();
        if (skus.Count == 0)
            return codes;
        await using var command = await Command(
            "select id, code from skus where id = any($1)",
            Parameter(NpgsqlDbType.Array | NpgsqlDbType.Integer, skus.ToArray())
        );
        await using var reader = await command.ExecuteReaderAsync();
        while (await reader.ReadAsync())
            codes[reader.GetInt32(0)] = reader.GetString(1);
        return codes;
    }

    /// <summary>Gives SKUs other codes; the caller has seen to it that they are free.</summary>
    public async Task RenameSkus(IReadOnlyList<(int Id, string Code)> renamed)
    {
        if (renamed.Count == 0)
            return;
        var ids = Parameter(NpgsqlDbType.Array | NpgsqlDbType.Integer, renamed.Select(r => r.Id).ToArray());
        await Execute("update skus set code_key = 'moving ' || id where id = any($1)", ids);
        await Execute(
            "update skus s set code = t.code, code_key = t.key from unnest($1, $2, $3) as t(id, code, key) where s.id = t.id",
            Again(ids),
            Parameter(NpgsqlDbType.Array | NpgsqlDbType.Text, renamed.Select(r => r.Code).ToArray()),
            Parameter(NpgsqlDbType.Array | NpgsqlDbType.Text, renamed.Select(r => r.Code.ToUpperInvariant()).ToArray())
        );
    }

    public async Task Execute(string sql, params NpgsqlParameter[] parameters)
    {
        await using var command = await Command(sql, parameters);
        await command.ExecuteNonQueryAsync();
    }

    public async Task<NpgsqlCommand> Command(string sql, params NpgsqlParameter[] parameters)
    {
        var command = new NpgsqlCommand(sql, await Connection(), (NpgsqlTransaction?)db.Database.CurrentTransaction?.GetDbTransaction())
        {
            CommandTimeout = (int)Patience.TotalSeconds,
        };
        command.Parameters.AddRange(parameters);
        return command;
    }

    public static NpgsqlParameter Parameter(NpgsqlDbType type, object value) => new() { NpgsqlDbType = type, Value = value };

    private static NpgsqlParameter Again(NpgsqlParameter parameter) => Parameter(parameter.NpgsqlDbType, parameter.Value!);

    private async Task<List<VariantRow>> Read(int product, string sql, params NpgsqlParameter[] parameters)
    {
        var rows = new List<VariantRow>();
        await using var command = await Command(sql, parameters);
        await using var r = await command.ExecuteReaderAsync();
        while (await r.ReadAsync())
            rows.Add(
                new VariantRow
                {
                    Id = r.GetInt32(0),
                    ProductId = product,
                    Values = r.GetString(1),
                    SkuId = r.GetInt32(2),
                    Gtin = Text(r, 3),
                    Price = Amount(r, 4),
                    Rrp = Amount(r, 5),
                    Cost = Amount(r, 6),
                    WeightGrams = Whole(r, 7),
                    LengthMm = Whole(r, 8),
                    WidthMm = Whole(r, 9),
                    HeightMm = Whole(r, 10),
                    TaxClass = Text(r, 11),
                    LeadTimeDays = Whole(r, 12),
                    LowLevel = Whole(r, 13),
                    Selling = Text(r, 14),
                    Retired = r.GetBoolean(15),
                    Note = Text(r, 16),
                    Picture = Text(r, 17),
                    Former = Text(r, 18),
                    NetQuantity = Amount(r, 19),
                    NetUnit = Text(r, 20),
                    CustomsCode = Text(r, 21),
                    Origin = Text(r, 22),
                    SkuCode = r.GetString(23),
                }
            );
        // In the order they were made. Here rather than in the database, where a hundred thousand wide rows are sorted on disk.
        rows.Sort((a, b) => a.Id.CompareTo(b.Id));
        return rows;
    }

    private async Task<NpgsqlConnection> Connection()
    {
        var connection = (NpgsqlConnection)db.Database.GetDbConnection();
        if (connection.State != ConnectionState.Open)
            await db.Database.OpenConnectionAsync();
        return connection;
    }

    private static string? Text(NpgsqlDataReader r, int at) => r.IsDBNull(at) ? null : r.GetString(at);

    private static decimal? Amount(NpgsqlDataReader r, int at) => r.IsDBNull(at) ? null : r.GetDecimal(at);

    private static int? Whole(NpgsqlDataReader r, int at) => r.IsDBNull(at) ? null : r.GetInt32(at);
}
