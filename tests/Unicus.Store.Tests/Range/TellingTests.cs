using System.Diagnostics;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;

namespace Unicus.Store.Tests;

/// <summary>Two processes on one database: what one changes, the other knows.</summary>
public sealed class TellingTests(Database db) : IClassFixture<Database>, IAsyncLifetime
{
    private readonly List<Host> _hosts = [];

    private sealed class Host(ServiceProvider services) : IAsyncDisposable
    {
        public Catalogue Catalogue => services.GetRequiredService<Catalogue>();
        public Telling Telling => services.GetRequiredService<Telling>();

        public async Task<TResult> Use<TService, TResult>(Func<TService, Task<TResult>> work)
            where TService : notnull
        {
            await using var scope = services.CreateAsyncScope();
            return await work(scope.ServiceProvider.GetRequiredService<TService>());
        }

        public async Task Start()
        {
            await Telling.StartAsync(CancellationToken.None);
            while (!Telling.IsHearing)
                await Task.Yield();
        }

        public async ValueTask DisposeAsync()
        {
            await Telling.StopAsync(CancellationToken.None);
            await services.DisposeAsync();
        }
    }

    public async ValueTask InitializeAsync()
    {
        for (var i = 0; i < 2; i++)
        {
            var host = new Host(new ServiceCollection().AddLogging().AddUnicusStore(db.Connection).BuildServiceProvider());
            _hosts.Add(host);
            await host.Start();
        }
    }

    public async ValueTask DisposeAsync()
    {
        foreach (var host in _hosts)
            await host.DisposeAsync();
    }

    private Host Here => _hosts[0];
    private Host There => _hosts[1];

    private static string Plain(string code, string price) =>
        $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "Plain {{code}}", "base": { "price": "{{price}}" },
              "variants": [ { "values": {}, "stock": 5 } ] }
            """;

    private async Task Publish(string code, string price)
    {
        await db.Put(Plain(code, price));
        Assert.True((await Here.Use<PublishEdition, Outcome<int>>(p => p.Run(code, Database.Tester))).Done);
    }

    private Task<string?> PriceThere(string code) =>
        There.Use<UnicusContext, string?>(async c =>
            (await There.Catalogue.Editions.Latest(c, code))?.Matrix.Variants[0].Price.Figure?.ToString()
        );

    /// <summary>So long a machine may be busy with something else; what is told comes in milliseconds.</summary>
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    /// <summary>Asks until it is as wanted.</summary>
    private static async Task Until(Func<Task<bool>> asked)
    {
        var watch = Stopwatch.StartNew();
        while (!await asked())
        {
            Assert.True(watch.Elapsed <= Patience, "It never came.");
            await Task.Delay(2);
        }
    }

    [Fact]
    public async Task A_publication_in_one_process_is_seen_in_another_at_once()
    {
        await Publish("TEL1", "10.00");
        Assert.Equal("10.00", await PriceThere("TEL1"));
        await db.Use<ChangeField, Outcome>(c => c.Run("TEL1", "price", "12.00", null, Database.Tester));
        await Here.Use<PublishEdition, Outcome<int>>(p => p.Run("TEL1", Database.Tester));
        await Until(async () => await PriceThere("TEL1") == "12.00");
    }

    [Fact]
    public async Task Who_commits_sees_it_right_away()
    {
        await Publish("TEL2", "10.00");
        for (var i = 1; i <= 20; i++)
        {
            await Here.Use<ChangeField, Outcome>(c => c.Run("TEL2", "price", $"{i}.00", null, Database.Tester));
            await Here.Use<PublishEdition, Outcome<int>>(p => p.Run("TEL2", Database.Tester));
            var price = await Here.Use<UnicusContext, string?>(async c =>
                (await Here.Catalogue.Editions.Latest(c, "TEL2"))!.Matrix.Variants[0].Price.Figure?.ToString()
            );
            Assert.Equal($"{i}.00", price);
        }
    }

    [Fact]
    public async Task Stock_settings_and_shared_sets_are_told_too()
    {
        await Publish("TEL3", "10.00");
        Task<int> Available() =>
            There.Use<UnicusContext, int>(async c =>
            {
                var edition = (await There.Catalogue.Editions.Latest(c, "TEL3"))!;
                var range = await There.Catalogue.Editions.Range(c, edition);
                return (await There.Catalogue.Board.Stock(c, edition, range)).Of(Sku.Of("TEL3")).Available;
            });
        Task<string> Name() => There.Use<UnicusContext, string>(async c => (await There.Catalogue.Terms.Settings(c)).Name);
        Task<int> Sets() => There.Use<UnicusContext, int>(async c => (await There.Catalogue.Terms.Sets(c)).Count);
        var (before, _, sets) = (await Available(), await Name(), await Sets());
        Assert.Equal(5, before);
        await Here.Use<MoveStock, Outcome>(m => m.Run(new MovementRequest("TEL3", "receipt", 4, null, null, null), Database.Tester));
        await Until(async () => await Available() == 9);
        await Here.Use<ChangeSettings, Outcome>(async c =>
        {
            var shop = await Here.Use<UnicusContext, ShopSettings>(x => ShopSettings.Load(x));
            return await c.Run(WantedSettings.Of(shop) with { Name = "Renamed" }, Database.Tester);
        });
        await Until(async () => await Name() == "Renamed");
        await Here.Use<ChangeExtraSets, Outcome<string>>(c => c.Create("Told"));
        await Until(async () => await Sets() == sets + 1);
    }

    [Fact]
    public async Task While_the_telling_connection_is_cut_nothing_older_than_a_second_is_trusted()
    {
        await Publish("TEL4", "10.00");
        Assert.Equal("10.00", await PriceThere("TEL4"));
        await There.Telling.StopAsync(CancellationToken.None);
        await db.Use<ChangeField, Outcome>(c => c.Run("TEL4", "price", "13.00", null, Database.Tester));
        await Here.Use<PublishEdition, Outcome<int>>(p => p.Run("TEL4", Database.Tester));
        await Until(async () => await PriceThere("TEL4") == "13.00");
    }

    [Fact]
    public async Task A_connection_that_was_cut_comes_back()
    {
        await Publish("TEL5", "10.00");
        Assert.Equal("10.00", await PriceThere("TEL5"));
        await db.Use<UnicusContext, int>(c =>
            c.Database.ExecuteSqlRawAsync(
                "select pg_terminate_backend(pid) from pg_stat_activity "
                    + "where application_name = 'unicus telling' and datname = current_database()"
            )
        );
        await Until(() => Task.FromResult(!There.Telling.IsHearing || There.Telling.Generation > 1));
        await Until(() => Task.FromResult(There.Telling.IsHearing));
        await db.Use<ChangeField, Outcome>(c => c.Run("TEL5", "price", "14.00", null, Database.Tester));
        await Here.Use<PublishEdition, Outcome<int>>(p => p.Run("TEL5", Database.Tester));
        await Until(async () => await PriceThere("TEL5") == "14.00");
    }

    /// <summary>A sale is told as stock and leaves what hangs on products as it is; a change of settings after it shows that all was
    /// heard.</summary>
    [Fact]
    public async Task A_sale_makes_no_product_another_one()
    {
        await Publish("TEL6", "10.00");
        await Here.Use<RangeFigures, int>(i => i.Work(100));
        var heard = There.Catalogue.Stamps.Lists;
        await Renamed("Before");
        await Until(() => Task.FromResult(There.Catalogue.Stamps.Lists != heard));
        var (products, stock) = (There.Catalogue.Stamps.Products, There.Catalogue.Stamps.Stock);

        Assert.NotNull((await db.Order(("TEL6", 2))).Order);
        await Here.Use<RangeFigures, int>(i => i.Work(100));
        Assert.Equal(
            3,
            await db.Use<UnicusContext, long>(c => c.Products.Where(p => p.Code == "TEL6").Select(p => p.Available).SingleAsync())
        );
        await Renamed("After");
        await Until(async () =>
            await There.Use<UnicusContext, string>(async c => (await There.Catalogue.Terms.Settings(c)).Name) == "After"
        );
        Assert.Equal(products, There.Catalogue.Stamps.Products);
        Assert.NotEqual(stock, There.Catalogue.Stamps.Stock);

        Task<int> Renamed(string name) =>
            db.Use<UnicusContext, int>(c => c.Shops.ExecuteUpdateAsync(u => u.SetProperty(s => s.Name, name)));
    }

    /// <summary>Every column of a product but the number available is told of when it changes, those to come too.</summary>
    [Fact]
    public async Task Every_column_of_a_product_is_told_of()
    {
        Task<List<string>> Columns(string sql) =>
            db.Use<UnicusContext, List<string>>(c => c.Database.SqlQueryRaw<string>(sql).ToListAsync());
        var told = await Columns(
            "select event_object_column::text as \"Value\" from information_schema.triggered_update_columns "
                + "where trigger_name = 'tell_update'"
        );
        var all = await Columns("select column_name::text as \"Value\" from information_schema.columns where table_name = 'products'");
        Assert.Equal(all.Where(c => c != "available").Order(), told.Order());
    }
}
