using System.Collections.Immutable;
using System.Diagnostics;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using NpgsqlTypes;
using Unicus.Store;

namespace Unicus.Bench;

/// <summary>A hundred thousand variants of one product against what the database itself needs for the same rows.</summary>
internal static class MatrixRatios
{
    private const string Code = "WIDE";
    private const string Tidy = "vacuum analyze variants; vacuum analyze skus; checkpoint";
    private static readonly Actor Bench = new("bench");

    public static async Task Run(string connection, HttpClient client)
    {
        var services = new ServiceCollection().AddLogging().AddUnicusStore(connection);
        await using var provider = services.BuildServiceProvider();
        await Use<PutProduct, object>(provider, async put => await Put(put, "WARM", 3));
        await Use<BulkChange, object>(provider, bulk => Raise(bulk, provider, "WARM"));
        await Use<PublishEdition, object>(provider, async p => await p.Run("WARM", Bench));

        var (make, copy) = await Medians(
            connection,
            async round =>
            {
                if (round > 0)
                    await Use<ChangeProduct, object>(provider, async change => await change.Delete(Code));
            },
            () => Use<PutProduct, object>(provider, async put => await Put(put, Code, 10)),
            () => Copies(connection)
        );
        Report.Row(
            "make and store 100,000 variants from five options, ms",
            make,
            "binary COPY of the same rows into identical tables",
            copy,
            make / copy,
            "at most 1.5"
        );

        await OneValueMore(connection, provider, copy);
        await APercentage(connection, provider);
        await Imported(provider, copy);
        await Tried(connection, provider);
        await MadeFromSheet(provider);

        await Use<PutProduct, object>(provider, async put => await Put(put, "TWELVE", 12, options: 1));
        await Execute(connection, Tidy);
        await OfficeRatios.Run(client, Code, "TWELVE", "o1=v0,o2=v0,o3=v0,o4=v0,o5=v0");
    }

    private static async Task OneValueMore(string connection, IServiceProvider provider, double copy)
    {
        var add = await Time(() =>
            Use<ChangeOptions, object>(provider, async use =>
                await use.Run(
                    Code,
                    (await Definition(provider)).Options.SetItem(0, WithOneMore((await Definition(provider)).Options[0])),
                    new OptionDecisions(),
                    "One more",
                    Bench
                )
            )
        );
        Report.Row(
            "add one value to one option (10,000 new variants), ms",
            add,
            "COPY of the 100,000",
            copy,
            add / copy,
            "about 0.1 to 0.2: with the new ones only"
        );
        await Use<UndoChange, object>(provider, async u => await u.Run(Code));
        await Execute(connection, "vacuum analyze variants");
    }

    private static async Task APercentage(string connection, IServiceProvider provider)
    {
        var (percent, plain) = await Medians(
            connection,
            _ => Task.CompletedTask,
            () => Use<BulkChange, object>(provider, bulk => Raise(bulk, provider, Code)),
            () =>
                Time(() =>
                    Execute(
                        connection,
                        "update variants set price = round(coalesce(price, 10) * 1.05, 2) "
                            + $"where product_id = (select id from products where code = '{Code}')"
                    )
                )
        );
        Report.Row(
            "a percentage on 100,000 prices with preview, audit and undo, ms",
            percent,
            "one SQL UPDATE of the column",
            plain,
            percent / plain,
            "at most 2"
        );
    }

    /// <summary>A sheet with every price changed, and its publication.</summary>
    private static async Task Imported(IServiceProvider provider, double copy)
    {
        var sheet = await Use<SheetExport, byte[]>(provider, Sheet);
        var import = await Time(() =>
            Use<SheetImport, object>(provider, async s =>
                (await s.Run(Code, sheet, "wide.csv", Bench)).Result is { CanApply: true } plan
                    ? plan
                    : throw new InvalidOperationException("The import was refused.")
            )
        );
        Report.Row(
            "import a CSV of 100,000 rows, every price changed, ms",
            import,
            "COPY of the 100,000",
            copy,
            import / copy,
            "at most 3"
        );

        var publish = await Time(() => Use<PublishEdition, object>(provider, async p => await p.Run(Code, Bench)));
        Report.Row("publish 100,000 variants with a price each, ms", publish, "COPY of the 100,000", copy, publish / copy, "at most 2");
    }

    /// <summary>A flat list that makes three hundred products of 34 variants: shown, then written.</summary>
    private static async Task MadeFromSheet(IServiceProvider provider)
    {
        var text = new System.Text.StringBuilder("product,option: Size,option: Colour,price,cost,on hand,weight\n");
        for (var product = 0; product < 300; product++)
            for (var v = 0; v < 34; v++)
                text.AppendLine(
                    System.Globalization.CultureInfo.InvariantCulture,
                    $"Bulk {product},S{v % 17},{(v < 17 ? "red" : "blue")},{10 + v}.00,4.00,{v},20{v} g"
                );
        var sheet = System.Text.Encoding.UTF8.GetBytes(text.ToString());
        var read = await Time(() => Task.FromResult<object>(SheetFile.Read(sheet, "made.csv")));
        Task<object> Work(bool write) =>
            Use<SheetImport, object>(provider, async s =>
                (write ? await s.Run(null, sheet, "made.csv", Bench) : await s.DryRun(null, sheet, "made.csv", Bench)).Result
                    is { CanApply: true, Made.Count: 300 } plan
                    ? plan
                    : throw new InvalidOperationException("The sheet was refused.")
            );
        var shown = await Time(() => Work(write: false));
        Report.Row("show 10,200 rows that make 300 products, ms", shown, "reading the file alone", read, shown / read, "under 3,000 ms");
        var written = await Time(() => Work(write: true));
        Report.Row("make them, one transaction, ms", written, "showing them", shown, written / shown, "");
    }

    /// <summary>Fifty rules tried over the published variants, against reading the rows of these.</summary>
    private static async Task Tried(string connection, IServiceProvider provider)
    {
        PriceRule[] rules =
        [
            .. Enumerable
                .Range(0, 50)
                .Select(i => new PriceRule(Key.Of($"tried{i}"), $"Tried {i}", new PriceEffect.Reduce(1 + i % 20, null))
                {
                    Scope = new PriceScope { Products = [Code] },
                }),
        ];
        await using var db = new NpgsqlConnection(connection);
        await db.OpenAsync();
        const string rows = $"select v.* from variants v join products p on p.id = v.product_id where p.code = '{Code}'";
        var read = await Time(async () => await Read(db, rows, []));
        Task<object> Try() => Use<RuleTrial, object>(provider, async t => await t.Run([.. rules], rules));
        // The product is kept from then on, as its page keeps it.
        await Try();
        var trial = await Time(Try);
        Report.Row("try 50 rules over 100,000 variants, ms", trial, "reading the same rows", read, trial / read, "under 3");
    }

    /// <summary>The whole matrix as CSV, each price a tenth higher.</summary>
    private static async Task<byte[]> Sheet(SheetExport export)
    {
        var (headings, rows) = (await export.Table(Code))!.Value;
        var price = headings.ToList().IndexOf("price");
        using var stream = new MemoryStream();
        SheetFile.WriteCsv(
            stream,
            headings,
            rows.Select(r => r.Select((c, i) => i == price && c is decimal d ? Math.Round(d * 1.1m, 2) : c).ToArray())
        );
        return stream.ToArray();
    }

    private static async Task<object> Put(PutProduct put, string code, int values, int options = 5)
    {
        var list = string.Join(
            ',',
            Enumerable
                .Range(1, options)
                .Select(o =>
                    $$"""
                        {"key":"o{{o}}","label":"Option {{o}}","role":"variant",
                          "values":[{{string.Join(
                            ',',
                            Enumerable.Range(0, values).Select(v => $$"""{"key":"v{{v}}","label":"Value {{v}}","sku":"{{v}}"}""")
                        )}}]}
                        """
                )
        );
        using var json = JsonDocument.Parse(
            $$"""
            {"format":"unicus-product/1","code":"{{code}}","name":"Wide {{code}}","base":{"price":"10.00","cost":"4.00"},
              "options":[{{list}}]}
            """
        );
        var (result, faults) = await put.Run(code, json.RootElement, Bench);
        return result is PutResult.Created ? result : throw new InvalidOperationException(faults[0].What);
    }

    private static async Task<object> Raise(BulkChange bulk, IServiceProvider provider, string code)
    {
        var request = new BulkRequest([], "price", BulkOperation.Percent, "5", null, MatrixFilter.None);
        await Use<BulkChange, BulkPreview?>(provider, preview => preview.Preview(code, request));
        var outcome = await bulk.Apply(code, request, Bench);
        return outcome.Done ? outcome : throw new InvalidOperationException(outcome.Faults[0].What);
    }

    private static async Task<Product> Definition(IServiceProvider provider) =>
        (await Use<UnicusContext, WorkingCopy?>(provider, db => WorkingCopy.Load(db, Code, scope: _ => VariantScope.None)))!.Product;

    private static Option WithOneMore(Option option) =>
        option with
        {
            Values = [.. option.Values, .. TypedValues.Make(["One more"], option.Values)],
        };

    /// <summary>The baseline: the finished rows, read beforehand, written with binary COPY into tables made like the real
    /// ones.</summary>
    private static async Task<double> Copies(string connection)
    {
        await using var db = new NpgsqlConnection(connection);
        await db.OpenAsync();
        var skus = new List<object?[]>();
        var variants = new List<object?[]>();
        await Read(
            db,
            "select s.id, s.code, s.code_key, s.product_id from skus s join products p on p.id = s.product_id "
                + $"where p.code = '{Code}' order by s.id",
            skus
        );
        await Read(
            db,
            $"select v.* from variants v join products p on p.id = v.product_id where p.code = '{Code}' order by v.id",
            variants
        );
        await using (
            var make = new NpgsqlCommand(
                "create table copy_skus (like skus including all); create table copy_variants (like variants including all); alter "
                    + "table copy_variants add foreign key (sku_id) references copy_skus (id), add foreign key (product_id) "
                    + "references products (id)",
                db
            )
        )
            await make.ExecuteNonQueryAsync();
        var took = await Time(async () =>
        {
            await using var transaction = await db.BeginTransactionAsync();
            await Copy(db, "copy_skus (id, code, code_key, product_id)", skus);
            await Copy(db, "copy_variants", variants);
            await transaction.CommitAsync();
        });
        await using (var drop = new NpgsqlCommand("drop table copy_variants; drop table copy_skus", db))
            await drop.ExecuteNonQueryAsync();
        return took;
    }

    private static async Task Read(NpgsqlConnection db, string sql, List<object?[]> rows)
    {
        await using var command = new NpgsqlCommand(sql, db);
        await using var reader = await command.ExecuteReaderAsync();
        while (await reader.ReadAsync())
        {
            var row = new object?[reader.FieldCount];
            for (var i = 0; i < row.Length; i++)
                row[i] = reader.IsDBNull(i) ? null : reader.GetValue(i);
            rows.Add(row);
        }
    }

    private static async Task Copy(NpgsqlConnection db, string into, List<object?[]> rows)
    {
        await using var import = await db.BeginBinaryImportAsync($"copy {into} from stdin (format binary)");
        foreach (var row in rows)
        {
            await import.StartRowAsync();
            foreach (var value in row)
            {
                if (value is null)
                    await import.WriteNullAsync();
                else if (value is int whole)
                    await import.WriteAsync(whole, NpgsqlDbType.Integer);
                else if (value is bool flag)
                    await import.WriteAsync(flag, NpgsqlDbType.Boolean);
                else if (value is decimal amount)
                    await import.WriteAsync(amount, NpgsqlDbType.Numeric);
                else
                    await import.WriteAsync((string)value, NpgsqlDbType.Text);
            }
        }
        await import.CompleteAsync();
    }

    private static async Task Execute(string connection, string sql)
    {
        await using var db = new NpgsqlConnection(connection);
        await db.OpenAsync();
        foreach (var statement in sql.Split(';'))
        {
            await using var command = new NpgsqlCommand(statement, db) { CommandTimeout = 300 };
            await command.ExecuteNonQueryAsync();
        }
    }

    /// <summary>The median of three of ours and of three of the baseline, in turn, each on tables that are as tidy as the database keeps
    /// them.</summary>
    /// <param name="baseline">Says itself how long it took.</param>
    private static async Task<(double Ours, double Baseline)> Medians(
        string connection,
        Func<int, Task> prepare,
        Func<Task> ours,
        Func<Task<double>> baseline
    )
    {
        var took = new List<double>();
        var against = new List<double>();
        for (var round = 0; round < 3; round++)
        {
            await prepare(round);
            await Execute(connection, Tidy);
            took.Add(await Time(ours));
            await Execute(connection, Tidy);
            against.Add(await baseline());
        }
        return (took.Order().ElementAt(1), against.Order().ElementAt(1));
    }

    private static async Task<double> Time(Func<Task> work)
    {
        GC.Collect();
        var clock = Stopwatch.StartNew();
        await work();
        return clock.Elapsed.TotalMilliseconds;
    }

    private static async Task<TResult> Use<TService, TResult>(IServiceProvider provider, Func<TService, Task<TResult>> work)
        where TService : notnull
    {
        await using var scope = provider.CreateAsyncScope();
        return await work(scope.ServiceProvider.GetRequiredService<TService>());
    }
}
