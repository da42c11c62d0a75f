using System.Text.Json;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Unicus.Store;

namespace Unicus.Store.Tests;

/// <summary>A database of its own for one class of tests, on the PostgreSQL that ./test starts.</summary>
public sealed class Database : IAsyncLifetime
{
    private readonly string _server =
        Environment.GetEnvironmentVariable("UNICUS_TEST_DATABASE")
        ?? throw new InvalidOperationException("Run ./test: it sets UNICUS_TEST_DATABASE.");
    private readonly string _name = "t" + Guid.NewGuid().ToString("N");
    private ServiceProvider _services = null!;

    public string Connection => new NpgsqlConnectionStringBuilder(_server) { Database = _name, MaxPoolSize = 20 }.ConnectionString;

    public Catalogue Catalogue => _services.GetRequiredService<Catalogue>();

    public static Actor Tester { get; } = new("Tester");

    public async Task InitializeAsync()
    {
        await Execute($"create database {_name}");
        _services = Services().BuildServiceProvider();
        await Use<UnicusContext, int>(async db =>
        {
            await Founding.Run(db);
            return 0;
        });
    }

    private ServiceCollection Services()
    {
        var services = new ServiceCollection();
        services.AddLogging().AddUnicusStore(Connection);
        services.AddDataProtection().UseEphemeralDataProtectionProvider();
        return services;
    }

    public async Task DisposeAsync()
    {
        await _services.DisposeAsync();
        NpgsqlConnection.ClearAllPools();
        await Execute($"drop database {_name} with (force)");
    }

    /// <summary>Runs work with one service in a scope of its own, as a request would.</summary>
    public async Task<TResult> Use<TService, TResult>(Func<TService, Task<TResult>> work)
        where TService : notnull
    {
        await using var scope = _services.CreateAsyncScope();
        return await work(scope.ServiceProvider.GetRequiredService<TService>());
    }

    public async Task<(PutResult Result, IReadOnlyList<Core.Fault> Faults)> Put(string json, bool retire = false, int? version = null)
    {
        using var document = JsonDocument.Parse(json);
        var code = document.RootElement.GetProperty("code").GetString()!;
        return await Use<PutProduct, (PutResult, IReadOnlyList<Core.Fault>)>(p =>
            p.Run(code, document.RootElement, Tester, version, retire)
        );
    }

    /// <summary>Puts a product with one SKU on sale, named like its code, for 10.00.</summary>
    public async Task PublishPlain(string code, int stock)
    {
        await Put(
            $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "Plain {{code}}", "base": { "price": "10.00", "cost": "4.00" },
              "variants": [ { "values": {}, "sku": "{{code}}", "stock": {{stock}} } ] }
            """
        );
        var outcome = await Use<PublishEdition, Outcome<int>>(p => p.Run(code, Tester));
        if (!outcome.Done)
            throw new InvalidOperationException(string.Join(' ', outcome.Faults));
    }

    public async Task<WorkingCopy> Load(string code) => (await Use<UnicusContext, WorkingCopy?>(db => WorkingCopy.Load(db, code)))!;

    /// <summary>A product with depth × timber; <paramref name="extra"/> is put in as further members.</summary>
    public static string Hive(string code, string extra = "") =>
        $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "Hive {{code}}", "base": { "price": "100.00", "cost": "40.00" },
              "options": [
                { "key": "depth", "label": "Depth", "role": "variant", "values": [
                  { "key": "shallow", "label": "Shallow", "sku": "S" }, { "key": "deep", "label": "Deep", "sku": "D" } ] },
                { "key": "timber", "label": "Timber", "role": "variant", "values": [
                  { "key": "cedar", "label": "Cedar", "sku": "CE" }, { "key": "pine", "label": "Pine", "sku": "PI" } ] } ]{{extra}} }
            """;

    private async Task Execute(string sql)
    {
        await using var connection = new NpgsqlConnection(_server);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }
}
