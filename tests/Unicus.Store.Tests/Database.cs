using System.Text.Json;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Unicus.Store;

namespace Unicus.Store.Tests;

/// <summary>A database of its own for one class of tests, on the PostgreSQL that ./test starts.</summary>
public sealed class Database : IAsyncLifetime
{
    private readonly string _name = "t" + Guid.NewGuid().ToString("N");
    private ServiceProvider _services = null!;

    public string Connection => TestServer.ConnectionTo(_name, 20);

    public Catalogue Catalogue => _services.GetRequiredService<Catalogue>();

    public static Actor Tester { get; } = new("Tester");

    public async ValueTask InitializeAsync()
    {
        await TestServer.Execute($"create database {_name}");
        _services = Services().BuildServiceProvider();
        await Use<UnicusContext, int>(async db =>
        {
            await Founding.Run(db, TimeProvider.System);
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

    public async ValueTask DisposeAsync()
    {
        await _services.DisposeAsync();
        await TestServer.Drop(_name);
    }

    /// <summary>Runs work with one service in a scope of its own, as a request would.</summary>
    public async Task<TResult> Use<TService, TResult>(Func<TService, Task<TResult>> work)
        where TService : notnull
    {
        await using var scope = _services.CreateAsyncScope();
        return await work(scope.ServiceProvider.GetRequiredService<TService>());
    }

    public async Task<(PutResult Result, IReadOnlyList<Fault> Faults)> Put(string json, bool retire = false, int? version = null)
    {
        using var document = JsonDocument.Parse(json);
        var code = document.RootElement.GetProperty("code").GetString()!;
        return await Use<PutProduct, (PutResult, IReadOnlyList<Fault>)>(p => p.Run(code, document.RootElement, Tester, version, retire));
    }

    /// <summary>Writes a price rule of the shop.</summary>
    public async Task PutRule(string json)
    {
        using var document = JsonDocument.Parse(json);
        var faults = new List<Fault>();
        var rule = new PriceRuleReader(Currency.Euro).Rule(new Node(document.RootElement, "#", faults));
        Assert.Empty(faults);
        Assert.Empty((await Use<ChangePriceRules, Outcome<StoredRule>>(r => r.Put(rule!, Tester))).Faults);
    }

    /// <summary>Puts a product on sale.</summary>
    /// <param name="more">Further members of its document.</param>
    public async Task Publish(string code, string more, string? name = null)
    {
        var json = $$"""{ "format": "unicus-product/1", "code": "{{code}}", "name": "{{name ?? $"Set {code}"}}", {{more}} }""";
        var (result, faults) = await Put(json);
        if (result is not (PutResult.Created or PutResult.Replaced))
            throw new InvalidOperationException(string.Join(' ', faults));
        var outcome = await Use<PublishEdition, Outcome<int>>(p => p.Run(code, Tester));
        if (!outcome.Done)
            throw new InvalidOperationException(string.Join(' ', outcome.Faults));
    }

    /// <summary>Places an order for so many of each product.</summary>
    public Task<Placed> Order(params (string Code, int Units)[] lines) =>
        Order([.. lines.Select(l => new LineRequest(l.Code, null, [], l.Units, null))]);

    /// <inheritdoc cref="Order(ValueTuple{string, int}[])"/>
    public Task<Placed> Order(params LineRequest[] lines) =>
        Use<PlaceOrder, Placed>(p => p.Run(new BasketRequest([.. lines], null), new Buyer("A", "a@example.org", "x", "card"), Tester));

    /// <summary>An order as it stands.</summary>
    public async Task<Order> OrderOf(int number) => (await Use<OrderReading, Order?>(r => r.Find(number)))!;

    /// <summary>The stock of a SKU over all locations.</summary>
    public Task<StockLevel> Level(string sku) =>
        Use<UnicusContext, StockLevel>(async c =>
            (await SkuLookup.StockOfSkus(c, [(await SkuLookup.Find(c, sku))!.Id])).GetValueOrDefault(Sku.Of(sku))
        );

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
}
