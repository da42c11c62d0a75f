using System.Diagnostics;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Unicus.Web.Api;

namespace Unicus.Browser.Tests;

/// <summary>The HTTP interface as programs read of it: its OpenAPI document, the schema, the page of examples.</summary>
[Collection("app")]
public class DescriptionTests(App app)
{
    private static readonly string Folder = Path.Combine(App.Home, "tests", "http-client");

    private static async Task<string> Run(string command, string arguments)
    {
        using var process = Process.Start(
            new ProcessStartInfo(command, arguments)
            {
                WorkingDirectory = Folder,
                RedirectStandardOutput = true,
                RedirectStandardError = true,
            }
        )!;
        var (said, wrong) = (process.StandardOutput.ReadToEndAsync(), process.StandardError.ReadToEndAsync());
        await process.WaitForExitAsync();
        Assert.True(process.ExitCode == 0, $"{command} {arguments}: {await said} {await wrong}");
        return await said;
    }

    [Fact]
    public async Task A_client_made_from_the_document_makes_configures_orders_and_cancels_a_set()
    {
        await using var shop = await app.EmptyShop();
        await Run("npx", $"openapi-typescript {shop.Url}/openapi/v1.json -o made/api.ts");
        await Run("npx", "tsc -p .");
        Assert.Contains("told", await Run("node", $"made/story.js {shop.Url} {App.Key}"));
    }

    [Fact]
    public async Task Every_call_says_its_body_replies_headers_and_an_example()
    {
        var document = await HeldClient.Document(app.Url);
        var calls =
            from path in document["paths"]!.AsObject()
            from call in path.Value!.AsObject()
            select (Name: $"{call.Key} {path.Key}", Call: call.Value!);
        var silent = new List<string>();
        foreach (var (name, call) in calls)
        {
            var replies = call["responses"]!.AsObject().Where(r => r.Key.StartsWith('2')).ToList();
            if (replies.Count == 0 || replies.All(r => r.Key != "204" && r.Value!["content"] is null))
                silent.Add($"{name} says no reply");
            if (call["requestBody"] is { } body && body["content"]!["application/json"]!["example"] is null)
                silent.Add($"{name} shows no body");
            if (replies.All(r => r.Key != "204" && r.Value!["content"]?["application/json"]?["example"] is null))
                silent.Add($"{name} shows no reply");
        }
        Assert.Empty(silent);
        Assert.True(calls.Count() >= 23);
        string[] Headers(string path, string method) =>
            [
                .. document["paths"]![path]![method]!["parameters"]!
                    .AsArray()
                    .Where(p => $"{p!["in"]}" == "header")
                    .Select(p => $"{p!["name"]}"),
            ];
        Assert.Equal(["If-Match"], Headers("/api/v1/products/{code}", "put"));
        Assert.Equal(["Idempotency-Key"], Headers("/api/v1/orders", "post"));
        var made = document["paths"]!["/api/v1/products/{code}"]!["put"]!["responses"]!["201"]!["headers"]!.AsObject();
        Assert.Equal(["ETag", "Location"], made.Select(h => h.Key));
    }

    /// <summary>What a schema names a reader knows: a field that is described and refused would be a lie.</summary>
    [Fact]
    public async Task Every_field_that_is_described_is_known_to_its_reader()
    {
        using var client = app.Client();
        var document = await HeldClient.Document(app.Url);
        var lies = new List<string>();
        var tried = 0;
        foreach (var example in ApiExample.All.Where(e => e.Body is JsonObject).DistinctBy(e => (e.Method, e.Path)))
        {
            var operation = HeldClient.Operation(document, new HttpMethod(example.Method), example.Path)!;
            var name = $"{operation["requestBody"]!["content"]!["application/json"]!["schema"]!["$ref"]}".Split('/')[^1];
            foreach (var (field, _) in document["components"]!["schemas"]![name]!["properties"]!.AsObject())
            {
                tried++;
                // Of a kind that no field takes: it is refused in any case, but not as unknown.
                var body = new JsonObject { [field] = new JsonObject { ["no-such"] = new JsonArray(new JsonObject()) } };
                using var request = new HttpRequestMessage(new HttpMethod(example.Method), example.Path.Replace("{number}", "1"))
                {
                    Content = App.Json(body.ToJsonString()),
                };
                var said = await (await client.SendAsync(request)).Content.ReadAsStringAsync();
                if (said.Contains($"The field “{field}” is not known here"))
                    lies.Add($"{name}.{field}");
            }
        }
        Assert.Empty(lies);
        Assert.True(tried > 80, $"{tried} fields");
    }

    /// <summary>Values that are another each time.</summary>
    private static readonly string[] Passing = ["placedAt"];

    [Fact]
    public async Task The_page_of_examples_says_what_happens()
    {
        await using var shop = await app.EmptyShop();
        using var client = app.Client(shop.Url);
        client.BaseAddress = new Uri(shop.Url);
        string? number = null;
        Assert.True(ApiExample.All.Length >= 24);
        foreach (var example in ApiExample.All)
        {
            using var request = new HttpRequestMessage(new HttpMethod(example.Method), example.Path.Replace("{number}", number));
            if (example.Body is { } body)
                request.Content = App.Json(body.ToJsonString());
            var reply = await client.SendAsync(request);
            var text = await reply.Content.ReadAsStringAsync();
            var found = text.Length == 0 ? null : JsonNode.Parse(text);
            number = found?["number"]?.ToString() ?? number;
            var call = $"{example.Method} {example.Path}";
            Assert.True(example.Status == (int)reply.StatusCode, $"{call} replied {(int)reply.StatusCode}: {text}");
            Assert.Equal($"{call} {Lasting(example.Reply)}", $"{call} {Lasting(found)}");
        }
    }

    private static string Lasting(JsonNode? reply)
    {
        var text = reply?.ToJsonString() ?? "";
        return Passing.Aggregate(text, (t, name) => Regex.Replace(t, $"\"{name}\":\"[^\"]*\"", $"\"{name}\":…"));
    }
}
