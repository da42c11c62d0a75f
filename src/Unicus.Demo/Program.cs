using System.Collections.Immutable;
using System.Globalization;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Unicus.Core;
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
services.AddIdentityCore<IdentityUser>().AddRoles<IdentityRole>().AddEntityFrameworkStores<UnicusContext>();
await using var provider = services.BuildServiceProvider();
await using (var scope = provider.CreateAsyncScope()) await Founding.Run(scope.ServiceProvider.GetRequiredService<UnicusContext>());
await using (var scope = provider.CreateAsyncScope()) await DemoShop.AddPeople(scope.ServiceProvider, withDemo: !args.Contains("--empty"));
if (!args.Contains("--empty")) await DemoShop.Fill(provider);
return 0;
