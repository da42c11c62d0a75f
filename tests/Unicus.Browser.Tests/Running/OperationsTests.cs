using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using Npgsql;

namespace Unicus.Browser.Tests;

/// <summary>What whoever runs the shop does: backups, several processes behind a proxy, watching.</summary>
[Collection("app")]
public sealed class OperationsTests(App app) : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("unicus-operations").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    internal static async Task<(int Code, string Said)> Run(string command, string[] arguments, string database)
    {
        var start = new ProcessStartInfo("bash", [Path.Combine(App.Home, command), .. arguments])
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        start.Environment["UNICUS_DATABASE"] = database;
        using var process = Process.Start(start)!;
        var (said, complained) = (process.StandardOutput.ReadToEndAsync(), process.StandardError.ReadToEndAsync());
        await process.WaitForExitAsync();
        return (process.ExitCode, await said + await complained);
    }

    /// <summary>Every table with its number of rows and a sum over all of them.</summary>
    private static async Task<Dictionary<string, string>> Rows(string database)
    {
        await using var source = NpgsqlDataSource.Create(database);
        var names = new List<string>();
        await using (var tables = source.CreateCommand("select tablename from pg_tables where schemaname = 'public' order by 1"))
        await using (var reader = await tables.ExecuteReaderAsync())
            while (await reader.ReadAsync())
                names.Add(reader.GetString(0));
        var sums = new Dictionary<string, string>();
        foreach (var name in names)
        {
            await using var sum = source.CreateCommand(
                $"select count(*) || ' ' || coalesce(md5(string_agg(md5(t::text), '' order by md5(t::text))), '') from \"{name}\" t"
            );
            sums[name] = (string)(await sum.ExecuteScalarAsync())!;
        }
        return sums;
    }

    [Fact]
    public async Task A_backup_of_a_shop_with_orders_is_restored_row_by_row()
    {
        var file = Path.Combine(_folder, "shop.backup");
        await using var copy = await app.EmptyDatabase();
        // A copy that nobody works in, so that what is compared stands still.
        var (code, said) = await Run("backup", [file], app.Connection);
        Assert.True(code == 0, said);
        (code, said) = await Run("restore", [file], copy.Connection);
        Assert.True(code == 0, said);
        var second = Path.Combine(_folder, "again.backup");
        Assert.Equal(0, (await Run("backup", [second], copy.Connection)).Code);
        await using var again = await app.EmptyDatabase();
        Assert.Equal(0, (await Run("restore", [second], again.Connection)).Code);
        var (first, restored) = (await Rows(copy.Connection), await Rows(again.Connection));
        Assert.Equal(first, restored);
        Assert.NotEqual("0 ", first["order_lines"]);
        Assert.True(first.Count > 30);
        // The application goes on with it: same orders, same people.
        var url = await app.Serve(("UNICUS_DATABASE", again.Connection));
        using var client = app.Client(url);
        using var orders = await client.GetAsync("orders");
        Assert.Equal(HttpStatusCode.OK, orders.StatusCode);
        // Neither file nor shop is ever written over, and half a file restores nothing.
        Assert.Contains("is there already", (await Run("backup", [file], app.Connection)).Said, StringComparison.Ordinal);
        Assert.Contains("There is a shop already", (await Run("restore", [file], copy.Connection)).Said, StringComparison.Ordinal);
        await using var third = await app.EmptyDatabase();
        var half = Path.Combine(_folder, "half.backup");
        await File.WriteAllBytesAsync(half, (await File.ReadAllBytesAsync(file))[..200_000]);
        Assert.NotEqual(0, (await Run("restore", [half], third.Connection)).Code);
        Assert.Empty(await Rows(third.Connection));
    }

    [Theory]
    [InlineData("create schema elsewhere; create table elsewhere.notes (n int)", "holds something that no shop has")]
    [InlineData("create table shop (n int); create type mood as enum ('calm')", "holds something that no shop has")]
    [InlineData("create table notes (n int)", "it has no table shop")]
    public async Task A_file_that_holds_something_else_than_a_shop_restores_nothing(string made, string said)
    {
        await using var strange = await app.EmptyDatabase();
        await using (var source = NpgsqlDataSource.Create(strange.Connection))
            await source.CreateCommand(made).ExecuteNonQueryAsync();
        var file = Path.Combine(_folder, "strange.backup");
        Assert.Equal(0, (await Run("backup", [file], strange.Connection)).Code);
        await using var empty = await app.EmptyDatabase();
        var (code, words) = await Run("restore", [file], empty.Connection);
        Assert.Equal(1, code);
        Assert.Contains(said, words, StringComparison.Ordinal);
        Assert.Empty(await Rows(empty.Connection));
    }

    [Fact]
    public async Task Two_processes_behind_a_proxy_are_one_shop_and_one_may_stop()
    {
        (string, string)[] settings = [("Proxies", "127.0.0.1"), ("AllowedHosts", "shop.example")];
        var (first, second) = (await app.Serve(settings), await app.Serve(settings));
        using var proxy = StartProxy([first, second], out var port);
        try
        {
            using var client = new HttpClient(new SocketsHttpHandler { AllowAutoRedirect = false, UseCookies = false });
            async Task<HttpResponseMessage> Ask(string path, params (string Name, string Value)[] headers)
            {
                using var request = new HttpRequestMessage(HttpMethod.Get, $"http://127.0.0.1:{port}{path}");
                request.Headers.Host = "shop.example";
                foreach (var (name, value) in headers)
                    request.Headers.TryAddWithoutValidation(name, value);
                return await client.SendAsync(request);
            }
            for (var i = 0; i < 150; i++)
                try
                {
                    if ((await Ask("/health")).IsSuccessStatusCode)
                        break;
                }
                catch (HttpRequestException)
                {
                    // The proxy does not listen yet.
                    await Task.Delay(100);
                }
            Assert.Equal(HttpStatusCode.OK, (await Ask("/ready")).StatusCode);
            // Both believe the proxy that the shopper came by HTTPS, and each knows what the other signed.
            using var page = await Ask("/p/garden-hive");
            Assert.Contains("max-age", page.Headers.GetValues("Strict-Transport-Security").Single(), StringComparison.Ordinal);
            Assert.Contains(page.Headers.GetValues("Set-Cookie"), c => c.Contains("secure", StringComparison.OrdinalIgnoreCase));
            // Nobody else is let through to the measures, nor as another host.
            Assert.Equal(HttpStatusCode.NotFound, (await Ask("/metrics")).StatusCode);
            using var measures = await client.GetAsync(first + "/metrics");
            Assert.Equal(HttpStatusCode.BadRequest, measures.StatusCode);
            using var onMachine = new HttpRequestMessage(HttpMethod.Get, first + "/metrics");
            onMachine.Headers.Host = "shop.example";
            using var read = await client.SendAsync(onMachine);
            Assert.Contains("http_server_request_duration", await read.Content.ReadAsStringAsync(), StringComparison.Ordinal);
            // Whoever comes from elsewhere, as the proxy says, is told nothing even without it.
            using var fromElsewhere = new HttpRequestMessage(HttpMethod.Get, first + "/metrics");
            fromElsewhere.Headers.Host = "shop.example";
            fromElsewhere.Headers.TryAddWithoutValidation("X-Forwarded-For", "192.0.2.7");
            using var refused = await client.SendAsync(fromElsewhere);
            Assert.Equal(HttpStatusCode.NotFound, refused.StatusCode);
            app.Stop(first);
            for (var i = 0; i < 6; i++)
                Assert.Equal(HttpStatusCode.OK, (await Ask("/")).StatusCode);
        }
        finally
        {
            proxy.Kill(entireProcessTree: true);
            await proxy.WaitForExitAsync();
        }
    }

    private Process StartProxy(string[] behind, out int port)
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        port = ((IPEndPoint)listener.LocalEndpoint).Port;
        listener.Stop();
        // The very lines of docs/operations.md, with addresses of this test.
        var documented = File.ReadAllText(Path.Combine(App.Home, "docs", "nginx.conf"));
        var conf = documented
            .Replace(
                "server 127.0.0.1:5080;",
                string.Join(' ', behind.Select(b => $"server {new Uri(b).Authority};")),
                StringComparison.Ordinal
            )
            .Replace("server 127.0.0.1:5081;", "", StringComparison.Ordinal)
            .Replace("listen 443 ssl;", $"listen 127.0.0.1:{port};", StringComparison.Ordinal)
            .Replace("$scheme", "https", StringComparison.Ordinal);
        conf = string.Join('\n', conf.Split('\n').Where(l => !l.Contains("ssl_certificate", StringComparison.Ordinal)));
        var file = Path.Combine(_folder, "nginx.conf");
        File.WriteAllText(
            file,
            $$"""
            daemon off; pid {{_folder}}/nginx.pid; error_log {{_folder}}/error.log; user root;
            events { worker_connections 200; }
            http { access_log off; client_body_temp_path {{_folder}}/body; proxy_temp_path {{_folder}}/proxy;
              fastcgi_temp_path {{_folder}}/f; uwsgi_temp_path {{_folder}}/u; scgi_temp_path {{_folder}}/s;
            {{conf}}
            }
            """
        );
        return Process.Start(new ProcessStartInfo("/usr/sbin/nginx", ["-e", Path.Combine(_folder, "error.log"), "-c", file]))!;
    }

    [Fact]
    public async Task What_goes_wrong_is_logged_as_lines_of_json_without_names()
    {
        await using var log = await app.ServeLogged();
        using var client = app.Client(log.Url);
        await app.LetConnect(false);
        try
        {
            using var placed = await client.PostAsync(
                "orders",
                App.Json(
                    """{ "lines": [ { "sku": "SMO", "quantity": 1 } ], "buyer": { "name": "Zebedee Quill", "email": "zq@example.org" } }"""
                )
            );
            Assert.Equal(HttpStatusCode.ServiceUnavailable, placed.StatusCode);
            using var alive = await client.GetAsync(log.Url + "/health");
            using var ready = await client.GetAsync(log.Url + "/ready");
            Assert.Equal((HttpStatusCode.OK, HttpStatusCode.ServiceUnavailable), (alive.StatusCode, ready.StatusCode));
        }
        finally
        {
            await app.LetConnect(true);
        }
        var lines = await log.End();
        Assert.NotEmpty(lines);
        Assert.All(lines, l => System.Text.Json.JsonDocument.Parse(l).Dispose());
        Assert.DoesNotContain(lines, l => l.Contains("Zebedee", StringComparison.Ordinal) || l.Contains("zq@", StringComparison.Ordinal));
    }
}
