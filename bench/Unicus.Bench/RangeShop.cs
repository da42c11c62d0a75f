using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Unicus.Store;

namespace Unicus.Bench;

/// <summary>Fills a shop with many products of twelve variants each: one is made as a merchant makes it, the others are copies of its
/// rows.</summary>
internal static class RangeShop
{
    private static readonly Actor Bench = new("Bench");

    private const string Template = """
        { "format": "unicus-product/1", "code": "RT", "name": "Template", "summary": "One of very many.", "categories": ["Tools"],
          "withoutSets": ["gift-wrapping"], "base": { "price": "10.00", "cost": "4.00" },
          "options": [
            { "key": "size", "label": "Size", "role": "variant", "library": "size", "values": [
              { "key": "s", "label": "S", "sku": "S" }, { "key": "m", "label": "M", "sku": "M" },
              { "key": "l", "label": "L", "sku": "L" } ] },
            { "key": "timber", "label": "Timber", "role": "variant", "library": "timber", "values": [
              { "key": "cedar", "label": "Cedar", "sku": "CE" }, { "key": "larch", "label": "Larch", "sku": "LA" },
              { "key": "pine", "label": "Pine", "sku": "PI" }, { "key": "douglas-fir", "label": "Douglas fir", "sku": "DO" } ] },
            { "key": "finish", "label": "Finish", "role": "extra", "ask": "one", "values": [
              { "key": "oil", "label": "Oil", "surcharge": { "amount": "1.10" } },
              { "key": "wax", "label": "Wax", "surcharge": { "percent": "5" } } ] } ],
          "variants": [ STOCK ] }
        """;

    private const string Words =
        "ash beech birch cherry elm hazel lime maple oak plum pear poplar rowan spruce willow yew brass copper iron pewter silver steel "
        + "tin zinc amber clay flint glass marble pearl quartz resin slate stone clover comfrey heather lavender mint sage thyme "
        + "borage basin bench board bucket cradle frame gauge hook jar knife ladder lamp mallet press rack scale stand tray vat wheel";

    /// <summary>Makes <paramref name="count"/> products in the shop of a connection.</summary>
    public static async Task Fill(string connection, int count)
    {
        await using (var provider = new ServiceCollection().AddLogging().AddUnicusStore(connection).BuildServiceProvider())
        {
            string[] timbers = ["cedar", "larch", "pine", "douglas-fir"];
            var stock = new[] { "s", "m", "l" }.SelectMany(s =>
                timbers.Select((t, i) => $$"""{ "values": { "size": "{{s}}", "timber": "{{t}}" }, "stock": {{i * 3}} }""")
            );
            using var document = JsonDocument.Parse(Template.Replace("STOCK", string.Join(',', stock), StringComparison.Ordinal));
            await using var scope = provider.CreateAsyncScope();
            await scope.ServiceProvider.GetRequiredService<PutProduct>().Run("RT", document.RootElement, Bench);
            scope.ServiceProvider.GetRequiredService<UnicusContext>().ChangeTracker.Clear();
            await scope.ServiceProvider.GetRequiredService<PublishEdition>().Run("RT", Bench);
        }
        // Copies need not be told of or checked again.
        var settings = new NpgsqlConnectionStringBuilder(connection) { Options = "-c session_replication_role=replica" };
        await using var source = NpgsqlDataSource.Create(settings.ConnectionString);
        await Copy(source, count);
    }

    private static async Task Copy(NpgsqlDataSource source, int count)
    {
        var id = (int)(await Scalar(source, "select id from products where code = 'RT'"))!;
        var sku = (int)(await Scalar(source, $"select min(id) from skus where product_id = {id}"))!;
        var variant = (int)(await Scalar(source, $"select min(id) from variants where product_id = {id}"))!;
        var words = $"string_to_array('{Words}', ' ')";
        var all = Words.Split(' ').Length;
        var name = $"initcap(({words})[1 + (i * 7) % {all}] || ' ' || ({words})[1 + (i / {all}) % {all}]) || ' ' || i";
        var document =
            $"t.DOC || jsonb_build_object('code', 'B' || i, 'name', {name}, "
            + "'base', jsonb_build_object('price', (10 + i % 50) || '.00', 'cost', '4.00'))";
        await Rows(
            source,
            "products",
            $"t.id = {id}",
            count,
            $"""
            'id', 1000000 + i, 'code', 'B' || i, 'name', {name}, 'address', 'b-' || i, 'lowest_price', 10 + i % 50,
            'highest_price', 10 + i % 50, 'search_text', lower({name}) || ' b' || i, 'changed_at', t.changed_at - make_interval(secs => i),
            'definition', {document.Replace("DOC", "definition", StringComparison.Ordinal)}
            """
        );
        await Rows(
            source,
            "skus",
            $"t.product_id = {id}",
            count,
            $"""
            'id', 10000000 + i * 20 + t.id - {sku}, 'product_id', 1000000 + i, 'code', replace(t.code, 'RT-', 'B' || i || '-'),
            'code_key', replace(t.code_key, 'RT-', 'B' || i || '-')
            """
        );
        await Rows(
            source,
            "variants",
            $"t.product_id = {id}",
            count,
            $"'id', 10000000 + i * 20 + t.id - {variant}, 'product_id', 1000000 + i, 'sku_id', 10000000 + i * 20 + t.sku_id - {sku}"
        );
        await Rows(
            source,
            "levels",
            $"t.product_id = {id}",
            count,
            $"'product_id', 1000000 + i, 'sku_id', 10000000 + i * 20 + t.sku_id - {sku}"
        );
        await Rows(
            source,
            "editions",
            $"t.product_id = {id}",
            count,
            $"'product_id', 1000000 + i, 'document', "
                + $"{document.Replace("DOC", "document", StringComparison.Ordinal)} || jsonb_build_object('webAddress', 'b-' || i)"
        );
        await Rows(
            source,
            "range_entries",
            $"t.product_id = {id}",
            count,
            $"""
            'product_id', 1000000 + i, 'code', 'B' || i, 'address', 'b-' || i, 'name', {name}, 'name_key', lower({name}),
            'search_text', lower({name}) || ' b' || i || ' tools'
            """
        );
        await Rows(
            source,
            "range_figures",
            $"t.product_id = {id}",
            count,
            $"'product_id', 1000000 + i, 'name_key', lower({name}), 'from_price', t.from_price + i % 50"
        );
        await Rows(source, "range_offers", $"t.product_id = {id}", count, "'product_id', 1000000 + i");
        await Run(
            source,
            $"insert into search_words select w from unnest({words}) w on conflict do nothing",
            "delete from range_due",
            "select setval(pg_get_serial_sequence('products', 'id'), 2000000)",
            "select setval(pg_get_serial_sequence('skus', 'id'), 20000000)",
            "select setval(pg_get_serial_sequence('variants', 'id'), 20000000)",
            "vacuum analyze"
        );
    }

    /// <summary>Copies the rows of the template with some of their columns put in place of the others.</summary>
    private static async Task Rows(NpgsqlDataSource source, string table, string which, int count, string patch)
    {
        var columns = (string)
            (
                await Scalar(
                    source,
                    $"select string_agg(column_name, ',' order by ordinal_position) from information_schema.columns "
                        + $"where table_name = '{table}' and is_generated = 'NEVER'"
                )
            )!;
        var taken = string.Join(',', columns.Split(',').Select(c => $"(x.r).{c}"));
        await Run(
            source,
            $"""
            -- "offset 0": each row is made once, not once for each of its columns.
            insert into {table} ({columns}) select {taken} from (
              select jsonb_populate_record(null::{table}, to_jsonb(t) || jsonb_build_object({patch})) r
              from {table} t cross join generate_series(1, {count}) i where {which} offset 0) x
            """
        );
    }

    private static async Task<object?> Scalar(NpgsqlDataSource source, string sql)
    {
        await using var command = source.CreateCommand(sql);
        return await command.ExecuteScalarAsync();
    }

    private static async Task Run(NpgsqlDataSource source, params string[] statements)
    {
        foreach (var sql in statements)
        {
            await using var command = source.CreateCommand(sql);
            command.CommandTimeout = 600;
            await command.ExecuteNonQueryAsync();
        }
    }
}
