using System.Collections.Immutable;
using System.Globalization;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Unicus.Demo;
using Unicus.Store;

// Founds the shop in an empty database: with the demo merchant's goods and orders, or --empty.
CultureInfo.DefaultThreadCurrentCulture = CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
var connection = Environment.GetEnvironmentVariable("UNICUS_DATABASE");
if (connection is null)
{
    Console.Error.WriteLine("UNICUS_DATABASE is not set: the connection string of the database to fill.");
    return 1;
}
var services = new ServiceCollection().AddLogging().AddUnicusStore(connection);
await using var provider = services.BuildServiceProvider();
try
{
    await using (var scope = provider.CreateAsyncScope())
    {
        var db = scope.ServiceProvider.GetRequiredService<UnicusContext>();
        if (await Founding.IsDone(db))
        {
            if (await Founding.Foreign(db) is null)
            {
                await Founding.Run(db, TimeProvider.System);
                await PrintFirstCode(db);
            }
            return 0;
        }
        // What an interrupted start left half made is made anew.
        await Founding.TakeOutHalfMade(db);
        await Founding.Begin(db);
    }
    if (!args.Contains("--empty"))
    {
        await using (var scope = provider.CreateAsyncScope())
            await DemoShop.AddPeople(scope.ServiceProvider.GetRequiredService<UnicusContext>());
        await DemoShop.Fill(provider);
    }
    await using (var scope = provider.CreateAsyncScope())
    {
        var db = scope.ServiceProvider.GetRequiredService<UnicusContext>();
        await Founding.Finish(db, TimeProvider.System);
        await PrintFirstCode(db);
    }
    return 0;
}
catch (Exception fault)
{
    Console.Error.WriteLine($"The shop could not be made: {fault.Message}");
    Console.Error.WriteLine("Nothing half made stays: once that is mended, the next ./start begins anew.");
    return 1;
}

// An empty shop belongs to whoever reads this.
static async Task PrintFirstCode(UnicusContext db)
{
    if (await FirstAccount.NewCode(db) is { } code)
        Console.WriteLine($"Nobody has an account yet. The first one is made at /office/first with this code: {code}");
}
