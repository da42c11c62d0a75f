using System.Reflection;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Http.Metadata;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Routing.Patterns;
using Unicus.Store;

namespace Unicus.Web.Api;

/// <summary>The OpenAPI document (3.1), put together from the calls as they are mapped, the schemas beside this file, that of the product
/// document, and the examples of <c>docs/http.md</c>. The tests hold every reply against it.</summary>
public sealed class ApiDocument
{
    private readonly Lazy<string> _text;

    public ApiDocument(EndpointDataSource endpoints) => _text = new(() => Write(endpoints).ToJsonString());

    /// <summary>The document.</summary>
    public string Text => _text.Value;

    private static JsonObject Write(EndpointDataSource endpoints)
    {
        var paths = new JsonObject();
        var examples = ApiExample.All.ToLookup(e => e.Method);
        foreach (var endpoint in endpoints.Endpoints.OfType<RouteEndpoint>())
        {
            if (endpoint.Metadata.GetMetadata<DescribedCall>() is not { } call)
                continue;
            var path = "/" + string.Join('/', endpoint.RoutePattern.PathSegments.Select(s => string.Concat(s.Parts.Select(Part))));
            if (paths[path] is not JsonObject at)
                paths[path] = at = new JsonObject();
            var method = endpoint.Metadata.GetMetadata<HttpMethodMetadata>()!.HttpMethods[0];
            var example = examples[method].FirstOrDefault(e => e.IsOf(path));
            at[method.ToLowerInvariant()] = Operation(endpoint, call, method, path, example);
        }
        return new JsonObject
        {
            ["openapi"] = "3.1.0",
            ["info"] = new JsonObject
            {
                ["title"] = "Unicus",
                ["version"] = "1",
                ["description"] =
                    "Products, baskets, orders and stock. Amounts are decimal texts. Replies may gain fields; bodies with fields that are "
                    + "not named here are refused. Whatever is refused changes nothing.",
            },
            ["security"] = new JsonArray(new JsonObject { ["key"] = new JsonArray() }),
            ["paths"] = paths,
            ["components"] = new JsonObject
            {
                ["schemas"] = Schemas(),
                ["securitySchemes"] = new JsonObject
                {
                    ["key"] = new JsonObject { ["type"] = "http", ["scheme"] = "bearer" },
                },
            },
        };
    }

    private static string Part(RoutePatternPart part) =>
        part switch
        {
            RoutePatternParameterPart p => $"{{{p.Name}}}",
            RoutePatternLiteralPart l => l.Content,
            _ => throw new InvalidOperationException("A path of a kind that is not known here."),
        };

    private static JsonObject Operation(RouteEndpoint endpoint, DescribedCall call, string method, string path, ApiExample? example)
    {
        var scope = endpoint.Metadata.GetMetadata<NeededScope>()?.Scope ?? ApiScopes.Read;
        var operation = new JsonObject
        {
            ["operationId"] = NameOf(method, path),
            ["summary"] = call.Summary,
            ["description"] = $"The key needs the scope “{scope}”.",
            ["parameters"] = new JsonArray([.. Parameters(endpoint, call, method)]),
        };
        if (call.Body is { } body)
        {
            var limit = endpoint.Metadata.GetMetadata<RequestSizeLimitAttribute>()
                is IRequestSizeLimitMetadata { MaxRequestBodySize: { } most }
                ? most
                : Bodies.Usual;
            operation["requestBody"] = new JsonObject
            {
                ["description"] = $"At most {limit / (1024 * 1024)} MB.",
                ["required"] = !call.MayLackBody,
                ["content"] = Content("application/json", body, example?.Body),
            };
        }
        operation["responses"] = Responses(call, method, example);
        return operation;
    }

    /// <summary>get-products-code, of GET and /api/v1/products/{code}.</summary>
    private static string NameOf(string method, string path) =>
        string.Join('-', path.Split('/').Skip(3).Prepend(method.ToLowerInvariant())).Replace("{", "").Replace("}", "");

    private static IEnumerable<JsonNode> Parameters(RouteEndpoint endpoint, DescribedCall call, string method)
    {
        var inPath = endpoint.RoutePattern.Parameters.ToDictionary(p => p.Name, p => p.ParameterPolicies.Any(c => c.Content == "int"));
        foreach (var (name, isNumber) in inPath)
            yield return Parameter("path", name, new JsonObject { ["type"] = isNumber ? "integer" : "string" }, true);
        foreach (var parameter in endpoint.Metadata.GetMetadata<MethodInfo>()!.GetParameters())
            if (!inPath.ContainsKey(parameter.Name!) && SchemaOf(parameter) is { } schema)
                yield return Parameter("query", parameter.Name!, schema, false);
        if (call.IsTagged && method != "GET")
            yield return Parameter("header", "If-Match", Words("The entity tag that must still hold; else 412."), false);
        if (call.IsRepeatable)
            yield return Parameter(
                "header",
                "Idempotency-Key",
                Words("The same key and body give the first reply again; seven days."),
                false
            );
    }

    private static JsonObject Parameter(string place, string name, JsonObject schema, bool isRequired) =>
        new()
        {
            ["in"] = place,
            ["name"] = name,
            ["required"] = isRequired,
            ["schema"] = schema,
        };

    private static JsonObject Words(string description) => new() { ["type"] = "string", ["description"] = description };

    /// <summary>What may stand in a query; null for what a handler gets from elsewhere.</summary>
    private static JsonObject? SchemaOf(ParameterInfo parameter) =>
        parameter switch
        {
            { Name: "page" } => Number(1, null, parameter),
            { Name: "size" } => Number(1, Paging.LargestPage, parameter),
            { Name: "edition" } => OneOf("latest"),
            { Name: "variants" } => OneOf("all"),
            { Name: "retire" } => OneOf("yes"),
            { Name: "stock" } when parameter.ParameterType == typeof(string) => OneOf("count"),
            _ when parameter.ParameterType == typeof(string) => throw new InvalidOperationException($"Say what {parameter.Name} is."),
            _ => null,
        };

    private static JsonObject OneOf(string word) => new() { ["type"] = "string", ["enum"] = new JsonArray(word) };

    private static JsonObject Number(int least, int? most, ParameterInfo parameter)
    {
        var schema = new JsonObject { ["type"] = "integer", ["minimum"] = least };
        if (most is { } m)
            schema["maximum"] = m;
        schema["default"] = Convert.ToInt32(parameter.DefaultValue);
        return schema;
    }

    private static JsonObject Responses(DescribedCall call, string method, ApiExample? example)
    {
        var responses = new JsonObject();
        foreach (var (status, schema) in call.Replies)
        {
            var reply = new JsonObject { ["description"] = status == StatusCodes.Status201Created ? "It was made." : "It was done." };
            var headers = new JsonObject();
            if (call.IsTagged)
                headers["ETag"] = new JsonObject { ["schema"] = Words("The version that this is.") };
            if (status == StatusCodes.Status201Created && method == "PUT")
                headers["Location"] = new JsonObject { ["schema"] = Words("Its address.") };
            if (headers.Count > 0)
                reply["headers"] = headers;
            if (schema is not null)
                reply["content"] = Content("application/json", schema, example?.Status == status ? example.Reply : null);
            responses[status.ToString()] = reply;
        }
        var refusals = call.Refusals.Add(401, "The key is missing or wrong.").Add(403, "The key lacks the scope.");
        if (call.Body is not null)
            refusals = refusals
                .Add(400, "This is not JSON.")
                .Add(413, "The body is too long.")
                .SetItem(422, "Something in it is wrong; errors says what and where.");
        if (call.IsTagged && method != "GET")
            refusals = refusals.Add(412, "It has changed since.");
        foreach (var (status, why) in refusals)
            responses[status.ToString()] = Refusal(why, status == StatusCodes.Status409Conflict ? call.Problem : "Problem");
        responses["default"] = Refusal("Too many calls (429), or the database cannot be reached (503).", "Problem");
        return responses;
    }

    private static JsonObject Refusal(string why, string schema) =>
        new() { ["description"] = why, ["content"] = Content("application/problem+json", schema, null) };

    private static JsonObject Content(string type, string schema, JsonNode? example)
    {
        var content = new JsonObject { ["schema"] = new JsonObject { ["$ref"] = $"#/components/schemas/{schema}" } };
        if (example is not null)
            content["example"] = example.DeepClone();
        return new JsonObject { [type] = content };
    }

    /// <summary>The schemas of the calls, and that of the product document with its parts as <c>ProductFigures</c> and so on.</summary>
    private static JsonObject Schemas()
    {
        using var file = typeof(ApiDocument).Assembly.GetManifestResourceStream("schemas.json")!;
        var schemas = JsonNode.Parse(file)!.AsObject();
        var product = JsonNode.Parse(ProductSchema.Text)!.AsObject();
        var parts = product["$defs"]!.AsObject();
        foreach (var name in (string[])["$schema", "$id", "$defs"])
            product.Remove(name);
        schemas["Product"] = Renamed(product);
        foreach (var (name, part) in parts)
            schemas[NameOfPart(name)] = Renamed(part!);
        return schemas;
    }

    private static string NameOfPart(string name)
    {
        var capital = char.ToUpperInvariant(name[0]) + name[1..];
        return capital.StartsWith("Price", StringComparison.Ordinal) ? capital : "Product" + capital;
    }

    private static JsonNode Renamed(JsonNode node)
    {
        const string Before = "#/$defs/";
        if (node is JsonArray list)
            return new JsonArray([.. list.Select(i => Renamed(i!))]);
        if (node is not JsonObject schema)
            return node.DeepClone();
        return new JsonObject(
            schema.Select(m =>
                KeyValuePair.Create<string, JsonNode?>(
                    m.Key,
                    m.Key == "$ref" && m.Value!.GetValue<string>() is var to && to.StartsWith(Before, StringComparison.Ordinal)
                        ? $"#/components/schemas/{NameOfPart(to[Before.Length..])}"
                        : Renamed(m.Value!)
                )
            )
        );
    }
}
