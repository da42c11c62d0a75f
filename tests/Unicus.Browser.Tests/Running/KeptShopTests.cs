using System.IO.Compression;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace Unicus.Browser.Tests;

/// <summary>Shops of before go on. The backups in kept-shops, each with what the HTTP interface and the shop's pages said on that day, are
/// restored, brought up to date and say the same.</summary>
[Collection("app")]
public sealed partial class KeptShopTests(App app)
{
    private static readonly string Folder = Path.Combine(App.Home, "tests", "kept-shops");

    /// <summary>The days of the backups.</summary>
    public static TheoryData<string> Days => [.. Directory.GetFiles(Folder, "*.dump").Select(f => Path.GetFileNameWithoutExtension(f)!)];

    [Theory]
    [MemberData(nameof(Days))]
    public async Task A_shop_of_before_says_what_it_said(string day)
    {
        Assert.True(new FileInfo(Path.Combine(Folder, day + ".dump")).Length < 3_000_000);
        await using var database = await app.EmptyDatabase();
        var (code, said) = await OperationsTests.Run("restore", [Path.Combine(Folder, day + ".dump")], database.Connection);
        Assert.True(code == 0, said);
        var url = await app.Serve(("UNICUS_DATABASE", database.Connection));
        using var client = app.Client(url);
        var before = await Said(day);

        var orders = new JsonArray();
        for (var page = 1; orders.Count < before["orders"]!.AsArray().Count; page++)
            foreach (var order in (await Get(client, $"orders?page={page}&size=50"))["orders"]!.AsArray())
                orders.Add(order!.DeepClone());
        Same("orders", before["orders"]!, orders);
        foreach (var (product, document) in before["products"]!.AsObject())
            Same(product, document!, await Get(client, $"products/{product}?variants=all"));
        foreach (var (sku, level) in before["stock"]!.AsObject())
            Same(sku, level!, await Get(client, $"stock/{Uri.EscapeDataString(sku)}"));
        foreach (var (sku, price) in before["prices"]!.AsObject())
        {
            var basket = $$"""{"lines":[{"sku":"{{sku}}","quantity":3}],"destination":"IE","at":"2026-12-05T12:00:00Z"}""";
            using var reply = await client.PostAsync("baskets/price", App.Json(basket));
            Same(sku, price!, JsonNode.Parse(await reply.Content.ReadAsStringAsync())!);
        }
        using var shopper = new HttpClient { BaseAddress = new Uri(url) };
        foreach (var (address, goods) in before["pages"]!.AsObject())
            Assert.Equal((address, OnPage(goods!)), (address, OnPage(JsonNode.Parse(DataOf(await shopper.GetStringAsync(address)))!)));
        app.Stop(url);
    }

    private static async Task<JsonNode> Said(string day)
    {
        await using var file = File.OpenRead(Path.Combine(Folder, day + ".json.gz"));
        await using var text = new GZipStream(file, CompressionMode.Decompress);
        return (await JsonNode.ParseAsync(text))!;
    }

    private static async Task<JsonNode> Get(HttpClient client, string address) => JsonNode.Parse(await client.GetStringAsync(address))!;

    private static void Same(string what, JsonNode before, JsonNode now)
    {
        if (!JsonNode.DeepEquals(before, now))
            Assert.Equal($"{what}: {before.ToJsonString()}", $"{what}: {now.ToJsonString()}");
    }

    /// <summary>The goods of a page; what they cost depends on the day.</summary>
    private static string OnPage(JsonNode data) =>
        string.Join(
            '\n',
            (data["hasVariant"]?.AsArray().AsEnumerable() ?? new[] { data }).Select(v => $"{data["name"]}: {v!["name"]} {v["sku"]}")
        );

    private static string DataOf(string page) => StructuredData().Match(page).Groups[1].Value;

    [GeneratedRegex("<script type=.application/ld[^>]*>(.*?)</script>", RegexOptions.Singleline)]
    private static partial Regex StructuredData();
}
