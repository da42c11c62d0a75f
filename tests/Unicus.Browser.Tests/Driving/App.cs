using System.Diagnostics;
using System.Net;
using System.Net.Http.Headers;
using System.Net.Sockets;
using System.Text;
using Npgsql;

namespace Unicus.Browser.Tests;

/// <summary>The demo shop in a database of its own, served by real processes of the application.</summary>
public sealed class App : IAsyncLifetime
{
    public const string Key = "test-key";

    private readonly string _name = "b" + Guid.NewGuid().ToString("N");
    private readonly List<Process> _processes = [];
    private readonly Dictionary<string, Process> _serving = [];

    public string Url { get; private set; } = "";

    public string Connection => TestServer.ConnectionTo(_name, 40);

    public async ValueTask InitializeAsync()
    {
        await TestServer.Execute($"create database {_name}");
        using var demo = Start("Unicus.Demo", "");
        await demo.WaitForExitAsync();
        Assert.Equal(0, demo.ExitCode);
        Url = await Serve();
    }

    public async ValueTask DisposeAsync()
    {
        KeptBrowser.EndAll();
        HeldClient.End();
        foreach (var process in _processes.Where(p => !p.HasExited))
            process.Kill(entireProcessTree: true);
        await TestServer.Drop(_name);
    }

    /// <summary>Lets the application reach its database, or cuts it off as if the database had stopped.</summary>
    public async Task LetConnect(bool mayConnect)
    {
        await TestServer.Execute($"alter database {_name} with allow_connections {(mayConnect ? "true" : "false")}");
        if (!mayConnect)
            await TestServer.Execute($"select pg_terminate_backend(pid) from pg_stat_activity where datname = '{_name}'");
        NpgsqlConnection.ClearAllPools();
    }

    /// <summary>Runs a statement in the application's database.</summary>
    public async Task InDatabase(string sql) => await TestServer.Execute(sql, Connection);

    /// <summary>How many rows a table of the application's database has.</summary>
    public async Task<long> CountInDatabase(string table)
    {
        await using var connection = new NpgsqlConnection(Connection);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand($"select count(*) from {table}", connection);
        return (long)(await command.ExecuteScalarAsync())!;
    }

    /// <summary>Starts one more process on the same database and gives its address.</summary>
    /// <param name="settings">Of its environment.</param>
    public async Task<string> Serve(params (string Name, string Value)[] settings)
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        var url = $"http://127.0.0.1:{((IPEndPoint)listener.LocalEndpoint).Port}";
        listener.Stop();
        var process = Start("Unicus.Web", $"--urls {url}", settings);
        _processes.Add(process);
        _serving[url] = process;
        while (await process.StandardOutput.ReadLineAsync() is { } line)
            if (line.StartsWith("Ready:", StringComparison.Ordinal))
            {
                if (settings.All(s => s.Name != Logged))
                    _ = process.StandardOutput.ReadToEndAsync();
                return url;
            }
        throw new InvalidOperationException("The application did not start.");
    }

    /// <summary>Stops a process that <see cref="Serve"/> began.</summary>
    public void Stop(string address)
    {
        _serving[address].Kill(entireProcessTree: true);
        _serving[address].WaitForExit();
    }

    /// <summary>Starts one more process whose output can be read once it has ended.</summary>
    public async Task<LoggedProcess> ServeLogged()
    {
        var address = await Serve((Logged, "1"));
        return new LoggedProcess(address, _serving[address]);
    }

    private const string Logged = "UNICUS_TEST_LOGGED";

    /// <summary>Founds an empty shop.</summary>
    /// <returns>The code for its first account.</returns>
    public async Task<string> Found(EmptyDatabase database)
    {
        using var founding = Start("Unicus.Demo", "--empty", ("UNICUS_DATABASE", database.Connection));
        var said = await founding.StandardOutput.ReadToEndAsync();
        await founding.WaitForExitAsync();
        return said.Trim().Split(' ')[^1];
    }

    /// <summary>An empty database beside the application's.</summary>
    public async Task<EmptyDatabase> EmptyDatabase()
    {
        var name = "e" + Guid.NewGuid().ToString("N");
        await TestServer.Execute($"create database {name}");
        return new EmptyDatabase(TestServer.ConnectionTo(name, 10), () => TestServer.Drop(name));
    }

    /// <summary>An empty shop beside the demo, served by a process of its own.</summary>
    public async Task<EmptyShop> EmptyShop()
    {
        var database = await EmptyDatabase();
        await Found(database);
        var url = await Serve(("UNICUS_DATABASE", database.Connection));
        return new EmptyShop(url, async () =>
        {
            Stop(url);
            await database.DisposeAsync();
        });
    }

    /// <summary>A client of the HTTP interface whose replies are held against what is said of them.</summary>
    public HttpClient Client(string? url = null)
    {
        var client = new HttpClient(new HeldClient()) { BaseAddress = new Uri((url ?? Url) + "/api/v1/") };
        client.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", Key);
        return client;
    }

    public static StringContent Json(string json) => new(json, Encoding.UTF8, "application/json");

    /// <summary>A browser that nobody else uses meanwhile.</summary>
    public static KeptBrowser Browser(int width = 1280, int height = 800, bool script = true) => KeptBrowser.Get(width, height, script);

    /// <summary>The resident memory of the application in megabytes.</summary>
    public double Memory()
    {
        _processes[0].Refresh();
        return _processes[0].WorkingSet64 / 1024.0 / 1024;
    }

    /// <summary>The folder of the sources.</summary>
    public static string Home
    {
        get
        {
            var folder = new DirectoryInfo(AppContext.BaseDirectory);
            while (!File.Exists(Path.Combine(folder!.FullName, "Unicus.slnx")))
                folder = folder.Parent;
            return folder.FullName;
        }
    }

    private Process Start(string project, string arguments, params (string Name, string Value)[] settings)
    {
        var build = new DirectoryInfo(AppContext.BaseDirectory).Parent!.Name;
        var home = Path.Combine(Home, "src", project);
        var start = new ProcessStartInfo("dotnet", $"{Path.Combine(home, "bin", build, "net10.0", project + ".dll")} {arguments}")
        {
            WorkingDirectory = home,
            RedirectStandardOutput = true,
        };
        start.Environment["UNICUS_DATABASE"] = Connection;
        start.Environment["UNICUS_API_KEY"] = Key;
        // All stories come from one address; how strangers are limited has a test of its own.
        foreach (
            var limit in new[]
            {
                "PagesAtFirst",
                "PagesPerSecond",
                "FilesAtFirst",
                "FilesPerSecond",
                "SignInsPerMinute",
                "PagesAtOnce",
                "WorkAtFirst",
                "WorkPerSecond",
            }
        )
            start.Environment[$"Strangers__{limit}"] = "100000";
        foreach (var (name, value) in settings)
            start.Environment[name] = value;
        return Process.Start(start)!;
    }
}

/// <summary>A database that goes when it is done with.</summary>
public sealed record EmptyDatabase(string Connection, Func<Task> Drop) : IAsyncDisposable
{
    public async ValueTask DisposeAsync() => await Drop();
}

/// <summary>A shop that goes when it is done with.</summary>
public sealed record EmptyShop(string Url, Func<Task> End) : IAsyncDisposable
{
    public async ValueTask DisposeAsync() => await End();
}

/// <summary>A process of the application whose output is read.</summary>
public sealed class LoggedProcess(string url, Process process) : IAsyncDisposable
{
    private readonly Task<string> _output = process.StandardOutput.ReadToEndAsync();

    public string Url => url;

    /// <summary>Ends it.</summary>
    /// <returns>The lines that it wrote after it was ready.</returns>
    public async Task<IReadOnlyList<string>> End()
    {
        using var kill = Process.Start("kill", ["-TERM", $"{process.Id}"]);
        await process.WaitForExitAsync();
        return (await _output).Split('\n', StringSplitOptions.RemoveEmptyEntries);
    }

    public async ValueTask DisposeAsync()
    {
        if (!process.HasExited)
            await End();
    }
}

/// <summary>All tests share one running demo.</summary>
[CollectionDefinition("app")]
public sealed class AppCollection : ICollectionFixture<App>;
