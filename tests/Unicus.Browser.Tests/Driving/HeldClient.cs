using System.Diagnostics;
using System.Net;
using System.Text;
using System.Text.Json.Nodes;

namespace Unicus.Browser.Tests;

/// <summary>Holds each reply of the HTTP interface, and each body that it took, against the OpenAPI document of the shop.</summary>
public sealed class HeldClient : DelegatingHandler
{
    private static readonly SemaphoreSlim Turn = new(1);
    private static readonly HttpClient Reader = new();
    private static Process? _held;
    private static JsonObject? _document;

    public HeldClient()
        : base(new HttpClientHandler()) { }

    /// <summary>The OpenAPI document of a shop.</summary>
    public static async Task<JsonObject> Document(string url) =>
        JsonNode.Parse(await Reader.GetStringAsync($"{url}/openapi/v1.json"))!.AsObject();

    /// <summary>The operation of a call; null where the interface has none.</summary>
    public static JsonObject? Operation(JsonObject document, HttpMethod method, string path)
    {
        var segments = path.Split('/');
        var fits = document["paths"]!
            .AsObject()
            .Where(p => p.Key.Split('/') is var its && its.Length == segments.Length)
            .Where(p => p.Key.Split('/').Zip(segments).All(s => s.First.StartsWith('{') || s.First == s.Second))
            // What is spelled out goes before what stands for anything.
            .OrderBy(p => p.Key.Count(c => c == '{'));
        return fits.Select(p => p.Value![method.Method.ToLowerInvariant()]?.AsObject()).FirstOrDefault(o => o is not null);
    }

    /// <summary>What is wrong with a body of a schema; empty where nothing is.</summary>
    public static async Task<string> Wrong(string url, string schema, string body)
    {
        await Turn.WaitAsync();
        try
        {
            _held ??= await Start(url);
            var asked = new JsonObject { ["schema"] = schema, ["body"] = JsonNode.Parse(body) };
            await _held.StandardInput.WriteLineAsync(asked.ToJsonString());
            var said = await _held.StandardOutput.ReadLineAsync() ?? await _held.StandardError.ReadToEndAsync();
            return said == "ok" ? "" : said;
        }
        finally
        {
            Turn.Release();
        }
    }

    /// <summary>Stops what was started.</summary>
    public static void End() => _held?.Kill();

    protected override async Task<HttpResponseMessage> SendAsync(HttpRequestMessage request, CancellationToken cancellationToken)
    {
        var body = request.Content is { Headers.ContentType.MediaType: "application/json", Headers.ContentLength: > 0 and < 200_000 }
            ? await request.Content.ReadAsStringAsync(cancellationToken)
            : null;
        var reply = await base.SendAsync(request, cancellationToken);
        var url = request.RequestUri!.GetLeftPart(UriPartial.Authority);
        _document ??= await Document(url);
        if (Operation(_document, request.Method, Uri.UnescapeDataString(request.RequestUri.AbsolutePath)) is not { } operation)
            return reply;
        var call = $"{request.Method} {request.RequestUri.AbsolutePath}";
        if (reply.IsSuccessStatusCode && body is not null && operation["requestBody"] is { } taken)
            Tell($"What {call} took", await Wrong(url, SchemaOf(taken, "application/json")!, body), body);
        var status = ((int)reply.StatusCode).ToString();
        var described = operation["responses"]![status] ?? operation["responses"]!["default"]!;
        Assert.True(
            !reply.IsSuccessStatusCode || operation["responses"]![status] is not null,
            $"{call} does not say that it replies {status}."
        );
        if (reply.StatusCode is HttpStatusCode.NotFound or HttpStatusCode.Conflict)
            Assert.True(operation["responses"]![status] is not null, $"{call} does not say that it replies {status}.");
        if (reply.Content.Headers.ContentType?.MediaType is { } type && reply.Content.Headers.ContentLength is < 200_000)
        {
            var schema = SchemaOf(described, type);
            if (schema is null)
                throw new InvalidOperationException($"{call} does not say that it replies {status} as {type}.");
            var text = await reply.Content.ReadAsStringAsync(cancellationToken);
            Tell($"The reply of {call}, {status}", await Wrong(url, schema, text), text);
        }
        return reply;
    }

    private static void Tell(string what, string wrong, string body) =>
        Assert.True(wrong.Length == 0, $"{what}: {wrong} in {body[..Math.Min(body.Length, 1500)]}");

    private static string? SchemaOf(JsonNode described, string type) =>
        described["content"]?[type]?["schema"]?["$ref"]?.GetValue<string>().Split('/')[^1];

    private static async Task<Process> Start(string url)
    {
        var process = Process.Start(
            new ProcessStartInfo("node", "held.mjs")
            {
                WorkingDirectory = Path.Combine(App.Home, "tests", "http-client"),
                RedirectStandardInput = true,
                RedirectStandardOutput = true,
                RedirectStandardError = true,
                StandardInputEncoding = new UTF8Encoding(false),
            }
        )!;
        await process.StandardInput.WriteLineAsync(url);
        var said = await process.StandardOutput.ReadLineAsync();
        if (said != "ready")
            Assert.Fail($"The document cannot be read strictly: {await process.StandardError.ReadToEndAsync()}");
        return process;
    }
}
