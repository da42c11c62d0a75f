using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using Npgsql;

namespace Unicus.Browser.Tests;

/// <summary><c>./start</c> when it is interrupted, killed, or begun twice on one folder.</summary>
public sealed class StartTests : IDisposable
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(120);
    private readonly string _data = Directory.CreateTempSubdirectory("unicus-start").FullName;
    private readonly List<Process> _begun = [];
    private readonly int _port = FreePort();

    public void Dispose()
    {
        foreach (var process in _begun.Where(p => !p.HasExited))
            Signal(process, "INT");
        foreach (var process in _begun)
            process.WaitForExit(Patience);
        Directory.Delete(_data, recursive: true);
    }

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    private Process Begin()
    {
        var start = new ProcessStartInfo("bash", [Path.Combine(App.Home, "start"), "--empty", "--port", $"{_port}", "--data", _data])
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        // What is tested was built already.
        start.Environment["UNICUS_BUILT"] = "1";
        var process = Process.Start(start)!;
        _begun.Add(process);
        return process;
    }

    private static void Signal(Process process, string signal) => Process.Start("kill", [$"-{signal}", $"{process.Id}"]).WaitForExit();

    private static async Task<string> Ready(Process process)
    {
        using var limit = new CancellationTokenSource(Patience);
        while (await process.StandardOutput.ReadLineAsync(limit.Token) is { } line)
            if (line.StartsWith("Ready:", StringComparison.Ordinal))
                return line;
        return await process.StandardError.ReadToEndAsync(limit.Token);
    }

    [Fact]
    public async Task An_interrupted_start_begins_anew_and_no_start_loses_its_database_to_another()
    {
        // Interrupted while the shop is being made.
        var first = Begin();
        while (!File.Exists(Path.Combine(_data, "postgres", "db", "PG_VERSION")))
            await Task.Yield();
        Signal(first, "INT");
        await first.WaitForExitAsync();

        var second = Begin();
        Assert.StartsWith("Ready:", await Ready(second), StringComparison.Ordinal);
        using var client = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{_port}") };
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync("/")).StatusCode);

        // Another start on the same folder says so, and the first goes on.
        var third = Begin();
        await third.WaitForExitAsync();
        Assert.Equal(1, third.ExitCode);
        Assert.Contains("runs on", await third.StandardError.ReadToEndAsync(), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync("/")).StatusCode);

        // Killed, it leaves application and database behind; the next start takes them over.
        Signal(second, "KILL");
        await second.WaitForExitAsync();
        var fourth = Begin();
        Assert.StartsWith("Ready:", await Ready(fourth), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync("/")).StatusCode);
    }

    private async Task<string> Written(string file) => (await File.ReadAllTextAsync(Path.Combine(_data, file))).Trim();

    /// <summary>As a process of the shop that was started by hand reaches it.</summary>
    private async Task<NpgsqlConnection> Beside()
    {
        var (port, password) = (await Written("postgres/port"), await Written("postgres/password.shop"));
        var connection = new NpgsqlConnection(
            $"Host=127.0.0.1;Port={port};Username=shop;Password={password};Database=unicus;Pooling=false"
        );
        await connection.OpenAsync();
        return connection;
    }

    private static async Task<object?> Orders(NpgsqlConnection connection)
    {
        await using var command = new NpgsqlCommand("select count(*) from orders", connection);
        return await command.ExecuteScalarAsync();
    }

    [Fact(Timeout = 300_000)]
    public async Task A_killed_application_leaves_the_database_to_others_and_a_stopped_database_comes_back_under_its_port()
    {
        var first = Begin();
        Assert.StartsWith("Ready:", await Ready(first), StringComparison.Ordinal);
        await using var beside = await Beside();
        Process.Start("kill", ["-KILL", await Written("app")]).WaitForExit();
        await first.WaitForExitAsync();
        Assert.Contains("others are at work", await first.StandardError.ReadToEndAsync(), StringComparison.Ordinal);
        Assert.Equal(0L, await Orders(beside));

        // The next start takes the same database, and its port stays though it is stopped in between.
        var second = Begin();
        Assert.StartsWith("Ready:", await Ready(second), StringComparison.Ordinal);
        var postmaster = (await File.ReadAllLinesAsync(Path.Combine(_data, "postgres", "db", "postmaster.pid")))[0];
        Process.Start("kill", ["-QUIT", postmaster]).WaitForExit();
        Assert.Contains("was started again", await second.StandardError.ReadLineAsync(), StringComparison.Ordinal);
        await using var again = await Beside();
        Assert.Equal(0L, await Orders(again));
        Assert.Equal(beside.Port, again.Port);
        using var client = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{_port}") };
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync("/")).StatusCode);
    }
}
