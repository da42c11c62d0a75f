using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Unicus.Store;

namespace Unicus.Web.Api;

/// <summary>The HTTP interface under <c>/api/v1</c>.</summary>
public static class ApiEndpoints
{
    public static readonly Actor Program = new("HTTP interface");

    public static void MapApi(this WebApplication app)
    {
        app.MapGet("/schemas/product-1.json", () => Results.Content(ProductSchema.Text, "application/schema+json"));
        app.MapGet("/openapi/v1.json", (ApiDocument document) => Results.Content(document.Text, "application/json"));
        var api = app.MapGroup("/api/v1").AddEndpointFilter<KeyFilter>().DisableAntiforgery();
        api.MapProducts();
        api.MapTrade();
        api.MapShop();
        api.MapPriceRules();
        api.MapFallback(() => Problems.Of(404, "There is nothing at this address."));
    }
}

/// <summary>Problem documents of RFC 9457 with <c>errors</c> that point into the body (RFC 6901).</summary>
public static class Problems
{
    public static IResult Of(int status, string title, IEnumerable<Fault>? faults = null, (string Name, JsonNode Value)? more = null)
    {
        var body = new JsonObject
        {
            ["type"] = "about:blank",
            ["title"] = title,
            ["status"] = status,
        };
        if (faults is not null)
            body["errors"] = new JsonArray([.. faults.Take(Node.MostFaults).Select(Error)]);
        if (more is { } m)
            body[m.Name] = m.Value;
        return Results.Text(body.ToJsonString(), "application/problem+json", Encoding.UTF8, status);
    }

    private static JsonNode Error(Fault fault)
    {
        var error = new JsonObject { ["pointer"] = fault.Where, ["detail"] = fault.What };
        foreach (var (name, value) in fault.With ?? [])
            error[name] = value?.DeepClone();
        return error;
    }

    /// <summary>A body of 422 whose fault names what is wrong.</summary>
    public static IResult Unfit(IEnumerable<Fault> faults) => Of(422, "The document cannot be taken as it is.", faults);

    public static IResult Missing(string what) => Of(404, what);
}

/// <summary>A JSON body.</summary>
/// <param name="Root">The same, with the faults that are told of it.</param>
public sealed record Body(JsonElement Json, Node Root, List<Fault> Faults);

/// <summary>Reads a JSON body; malformed JSON is 400.</summary>
public static class Bodies
{
    /// <summary>The longest body of a call, in bytes, unless the call says otherwise.</summary>
    public const long Usual = 1024 * 1024;

    /// <summary>The longest body of a product document, in bytes.</summary>
    public const long OfProduct = 64 * 1024 * 1024;

    public static async Task<(JsonDocument? Json, IResult? Problem)> Read(HttpRequest request) => Parse(await Bytes(request));

    /// <summary>The same for calls that may come without a body: neither where there is none, whatever the headers say of its
    /// length.</summary>
    public static async Task<(JsonDocument? Json, IResult? Problem)> ReadIfAny(HttpRequest request) =>
        await Bytes(request) is { Length: > 0 } bytes ? Parse(bytes) : (null, null);

    private static async Task<byte[]> Bytes(HttpRequest request)
    {
        using var body = new MemoryStream();
        await request.Body.CopyToAsync(body, request.HttpContext.RequestAborted);
        return body.ToArray();
    }

    private static (JsonDocument? Json, IResult? Problem) Parse(byte[] bytes)
    {
        if (!JsonText.IsWellFormed(bytes))
            return (null, Problems.Of(400, "This is not JSON: a text in it is no Unicode (half a surrogate pair, or no UTF-8)."));
        try
        {
            return (JsonDocument.Parse(bytes, new JsonDocumentOptions { MaxDepth = 64 }), null);
        }
        catch (JsonException fault)
        {
            return (null, Problems.Of(400, $"This is not JSON: line {fault.LineNumber + 1}, byte {fault.BytePositionInLine + 1}."));
        }
    }

    /// <summary>Does work with a body that is read only now, after the key was looked at.</summary>
    public static async Task<IResult> With(HttpRequest request, Func<Body, Task<IResult>> work)
    {
        var (json, problem) = await Read(request);
        if (problem is not null)
            return problem;
        using var _ = json;
        var faults = new List<Fault>();
        return await work(new Body(json!.RootElement, new Node(json.RootElement, "#", faults), faults));
    }

    public static IResult Json(JsonNode body, int status = 200) =>
        Results.Text(body.ToJsonString(), "application/json", Encoding.UTF8, status);
}

/// <summary>The keys by which a call is done once, however often it is sent.</summary>
public static class Idempotency
{
    private const int LongestKey = 200;

    /// <summary>The key that a call came with; null for none.</summary>
    /// <param name="problem">Why the key cannot be taken; null where it can.</param>
    public static CallKey? Read(HttpRequest request, string body, out IResult? problem)
    {
        var key = request.Headers["Idempotency-Key"].ToString();
        problem = key.Length > LongestKey ? Problems.Of(422, $"An idempotency key has at most {LongestKey} characters.") : null;
        // Paths are the same call whatever their letter case.
        return key.Length == 0 ? null : new CallKey($"{request.Path.Value!.ToLowerInvariant()} {key}", body);
    }

    /// <summary>What was made, or that the key belongs to another call.</summary>
    public static IResult Reply(CallReply reply) =>
        reply.WasOther ? Problems.Of(422, "This idempotency key was used with another body.") : Made(reply.Made!);

    /// <summary>What was made.</summary>
    public static IResult Made(string json) => Results.Text(json, "application/json", Encoding.UTF8, StatusCodes.Status201Created);
}
