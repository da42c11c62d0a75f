using System.Diagnostics;
using System.Net;
using System.Text;
using Npgsql;

namespace Unicus.Bench;

/// <summary>Sets over HTTP: many buyers of sets that share parts, through two application processes, against hand-written transactions
/// of the same allocations; and the page of a set three levels deep against the demo's hive.</summary>
internal static class BuyerRatios
{
    private const int Buyers = 64;
    private const int Parts = 6;
    private const double WarmUp = 45;
    private const int Turns = 6;

    public static async Task Run(HttpClient client, Uri second, string connection, double seconds)
    {
        using var other = new HttpClient(new SocketsHttpHandler { MaxConnectionsPerServer = Buyers }) { BaseAddress = second };
        using var first = new HttpClient(new SocketsHttpHandler { MaxConnectionsPerServer = Buyers }) { BaseAddress = client.BaseAddress };
        other.DefaultRequestHeaders.Authorization = first.DefaultRequestHeaders.Authorization = client.DefaultRequestHeaders.Authorization;
        await Prepare(client);
        await Page(client);
        // The runtime compiles what is used much for the better part of a minute; that is not what is measured.
        var (before, _) = await Bought(first, other, WarmUp);
        await using var db = NpgsqlDataSource.Create(connection + ";Maximum Pool Size=70");
        var (orders, refused, plain) = (0, 0, 0.0);
        // By turns, so that a machine that swings swings for both.
        for (var turn = 0; turn < Turns; turn++)
        {
            var (some, failed) = await Bought(first, other, seconds / Turns);
            (orders, refused) = (orders + some, refused + failed);
            plain += await Plain(db, seconds / Turns) / Turns;
        }
        await Exact(db, before + orders);
        Report.Row(
            $"{Buyers} buyers of sets that share parts, two processes, {seconds:0} s, orders a second ({refused} failed)",
            orders / seconds,
            "hand-written SQL of the same allocations",
            plain,
            orders / seconds / plain,
            "at least 0.5"
        );
    }

    private static async Task Prepare(HttpClient client)
    {
        for (var i = 0; i < Parts; i++)
            await Publish(client, $"BP{i}", """ "base": { "price": "5.00" }, "variants": [ { "values": {}, "stock": 900000 } ] """);
        await Publish(client, "BINNER", Set("BP0", "BP1", "BP2"));
        await Publish(client, "BMIDDLE", Set("BINNER", "BP3"));
        await Publish(client, "BOUTER", Set("BMIDDLE", "BP4", "BP1"));
        await Publish(client, "BOTHER", Set("BP5", "BP4", "BP0"));
    }

    private static string Set(params string[] of) => $$""" "parts": { "slots": [ {{string.Join(",", of.Select(Slot))}} ] } """;

    private static string Slot(string code, int place) => $$"""{ "key": "s{{place}}", "of": [ { "product": "{{code}}" } ] }""";

    private static async Task Publish(HttpClient client, string code, string body)
    {
        var json = $$"""{ "format": "unicus-product/1", "code": "{{code}}", "name": "Bench {{code}}", {{body}} }""";
        using var put = await client.PutAsync($"/api/v1/products/{code}", new StringContent(json, Encoding.UTF8, "application/json"));
        put.EnsureSuccessStatusCode();
        using var published = await client.PostAsync($"/api/v1/products/{code}/publish", null);
        published.EnsureSuccessStatusCode();
    }

    private static async Task Page(HttpClient client)
    {
        async Task<double> Rate(string path)
        {
            var (clock, count) = (Stopwatch.StartNew(), 0);
            await Task.WhenAll(
                Enumerable
                    .Range(0, 8)
                    .Select(async _ =>
                    {
                        while (clock.Elapsed.TotalSeconds < 4)
                        {
                            using var reply = await client.GetAsync(path);
                            reply.EnsureSuccessStatusCode();
                            Interlocked.Increment(ref count);
                        }
                    })
            );
            return count / clock.Elapsed.TotalSeconds;
        }
        foreach (var path in new[] { "/p/garden-hive", "/p/bench-bouter" })
            await Rate(path);
        var (hive, set) = (await Rate("/p/garden-hive"), await Rate("/p/bench-bouter"));
        Report.Row("page of a set three levels deep, requests a second", set, "the demo hive", hive, set / hive, "at least 0.5");
    }

    private static async Task<(int Orders, int Refused)> Bought(HttpClient first, HttpClient other, double seconds)
    {
        var (clock, orders, refused) = (Stopwatch.StartNew(), 0, 0);
        await Task.WhenAll(
            Enumerable
                .Range(0, Buyers)
                .Select(async buyer =>
                {
                    var client = buyer % 2 == 0 ? first : other;
                    var set = buyer % 3 == 0 ? "BOTHER" : "BOUTER";
                    var json = $$"""{ "lines": [ { "product": "{{set}}", "quantity": 1 } ] }""";
                    while (clock.Elapsed.TotalSeconds < seconds)
                    {
                        using var body = new StringContent(json, Encoding.UTF8, "application/json");
                        using var reply = await client.PostAsync("/api/v1/orders", body);
                        if (reply.StatusCode == HttpStatusCode.Created)
                            Interlocked.Increment(ref orders);
                        else
                            Interlocked.Increment(ref refused);
                    }
                })
        );
        return (orders, refused);
    }

    /// <summary>Every level is the sum of its movements, none is below 0, and what is allocated is what the orders take.</summary>
    private static async Task Exact(NpgsqlDataSource db, int orders)
    {
        await using var wrong = db.CreateCommand(
            """
            select count(*) from levels l where l.on_hand < 0 or l.on_hand - l.allocated < 0
              or l.allocated <> (select coalesce(sum(m.allocated), 0) from movements m
                where m.sku_id = l.sku_id and m.location_id = l.location_id)
            """
        );
        var faults = (long)(await wrong.ExecuteScalarAsync())!;
        await using var placed = db.CreateCommand("select count(*) from order_lines where product_code in ('BOUTER', 'BOTHER')");
        var kept = (long)(await placed.ExecuteScalarAsync())!;
        if (faults > 0 || kept != orders)
            throw new InvalidOperationException($"{faults} levels are wrong; {kept} orders are kept of {orders}.");
    }

    /// <summary>Orders a second by statements written for it: levels locked in order, changed, movements and order written.</summary>
    private static async Task<double> Plain(NpgsqlDataSource db, double seconds)
    {
        await using (
            var make = db.CreateCommand(
                """
                drop schema if exists plain cascade; create schema plain;
                create table plain.levels (sku int primary key, on_hand int not null, allocated int not null);
                create table plain.movements (id bigserial primary key, sku int not null, at timestamptz not null, allocated int not null,
                  order_number int not null);
                create table plain.orders (number serial primary key, at timestamptz not null, total numeric not null);
                create table plain.leaves (id bigserial primary key, order_number int not null references plain.orders, sku int not null,
                  units int not null, allocated numeric not null);
                insert into plain.levels select i, 900000, 0 from generate_series(0, 5) i;
                """
            )
        )
            await make.ExecuteNonQueryAsync();
        var (clock, orders) = (Stopwatch.StartNew(), 0);
        await Task.WhenAll(
            Enumerable
                .Range(0, Buyers)
                .Select(async buyer =>
                {
                    int[] skus = buyer % 3 == 0 ? [0, 4, 5] : [0, 1, 2, 3, 4];
                    while (clock.Elapsed.TotalSeconds < seconds)
                    {
                        await Order(db, skus);
                        Interlocked.Increment(ref orders);
                    }
                })
        );
        return orders / seconds;
    }

    private static async Task Order(NpgsqlDataSource db, int[] skus)
    {
        await using var connection = await db.OpenConnectionAsync();
        await using var transaction = await connection.BeginTransactionAsync();
        async Task Run(string sql, object? more = null)
        {
            await using var command = new NpgsqlCommand(sql, connection, transaction);
            command.Parameters.AddWithValue("skus", skus);
            if (more is not null)
                command.Parameters.AddWithValue("number", more);
            await command.ExecuteNonQueryAsync();
        }
        await Run("select 1 from plain.levels where sku = any(@skus) order by sku for update");
        await using var place = new NpgsqlCommand("insert into plain.orders (at, total) values (now(), 25) returning number", connection);
        var number = (int)(await place.ExecuteScalarAsync())!;
        await Run("update plain.levels set allocated = allocated + 1 where sku = any(@skus) and on_hand - allocated >= 1");
        await Run(
            "insert into plain.movements (sku, at, allocated, order_number) select s, now(), 1, @number from unnest(@skus) s",
            number
        );
        await Run("insert into plain.leaves (order_number, sku, units, allocated) select @number, s, 1, 5 from unnest(@skus) s", number);
        await transaction.CommitAsync();
    }
}
