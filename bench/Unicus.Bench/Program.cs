using System.Globalization;
using Unicus.Bench;

// Measures ratios, each against a stated baseline in the same run. bench/run starts the application and calls this.
CultureInfo.DefaultThreadCurrentCulture = CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
var url = args.Length > 0 ? args[0] : null;
var connection = Environment.GetEnvironmentVariable("UNICUS_DATABASE");
if (url is null || connection is null)
{
    Console.Error.WriteLine("The address of a running demo and UNICUS_DATABASE are needed; bench/run gives them.");
    return 1;
}
using var client = new HttpClient(new SocketsHttpHandler { MaxConnectionsPerServer = 8 }) { BaseAddress = new Uri(url) };
client.DefaultRequestHeaders.Authorization = new("Bearer", Environment.GetEnvironmentVariable("UNICUS_API_KEY"));
Console.WriteLine("| what | measured | baseline | ratio | aim |");
Console.WriteLine("| --- | ---: | ---: | ---: | --- |");
var part = args.Length > 1 ? args[1] : null;
if (part is null or "shop")
    await ShopRatios.Run(client);
if (part is null or "matrix")
    await MatrixRatios.Run(connection, client);
if (part is null or "rules")
    RuleRatios.Run();
if (part is null or "prices")
{
    PriceRatios.Run();
    ReadingRatios.Run(args.Contains("solver"));
}
if (part is null or "positions")
    await PositionRatios.Run(client);
if (part is null or "sets")
    await SetRatios.Run(connection);
if (part is null or "buyers" && Environment.GetEnvironmentVariable("UNICUS_LIMITED_URL") is { } second)
    await BuyerRatios.Run(client, new Uri(second), connection, seconds: 60);
if (part is null or "strangers" && Environment.GetEnvironmentVariable("UNICUS_LIMITED_URL") is { } limited)
    await StrangerRatios.Run(client, new Uri(limited));
if (part is null or "range" && Environment.GetEnvironmentVariable("UNICUS_LARGE") is { } large)
    await RangeRatios.Run(Environment.GetEnvironmentVariable("UNICUS_SMALL")!, large, args.Length > 2 ? args[2] : null);
if (part is null or "cell" && Environment.GetEnvironmentVariable("UNICUS_EARLIER_URL") is { } earlier)
{
    using var other = new HttpClient { BaseAddress = new Uri(earlier) };
    other.DefaultRequestHeaders.Authorization = client.DefaultRequestHeaders.Authorization;
    await CellRatios.Run(client, other);
}
return 0;
