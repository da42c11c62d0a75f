using System.Net;
using System.Net.Http.Headers;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Unicus.Browser.Tests;

/// <summary>The HTTP interface as an outside program meets it (document.md of the design).</summary>
[Collection("app")]
public sealed partial class HttpTests(App app) : IDisposable
{
    private readonly HttpClient _client = app.Client();

    private static string Hive(string code, string extra = "") =>
        $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "Hive {{code}}", "withoutSets": ["gift-wrapping"],
              "base": { "price": "184.00" },
              "options": [ { "key": "depth", "label": "Depth", "role": "variant", "values": [ { "key": "shallow", "label": "Shallow",
                "sku": "S" }, { "key": "deep", "label": "Deep", "sku": "D", "surcharge": { "percent": "8" } } ] },
                { "key": "timber", "label": "Timber", "role": "variant", "values": [ { "key": "cedar", "label": "Cedar", "sku": "CE" },
                  { "key": "pine", "label": "Pine", "sku": "PI", "surcharge": { "amount": "-32.00" } } ] } ],
              "notMade": [ { "depth": "shallow", "timber": "pine" } ]{{extra}} }
            """;

    public void Dispose() => _client.Dispose();

    private static async Task<JsonNode> Body(HttpResponseMessage reply) => JsonNode.Parse(await reply.Content.ReadAsStringAsync())!;

    private async Task<HttpResponseMessage> Put(string code, string json, string query = "") =>
        await _client.PutAsync($"products/{code}{query}", App.Json(json));

    private async Task<HttpResponseMessage> Post(string path, string json) => await _client.PostAsync(path, App.Json(json));

    private async Task Publish(string code, string json)
    {
        Assert.Equal(HttpStatusCode.Created, (await Put(code, json)).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await Post($"products/{code}/publish", "")).StatusCode);
    }

    [Fact]
    public async Task Without_the_key_nothing_is_told()
    {
        using var stranger = new HttpClient();
        var reply = await stranger.GetAsync($"{app.Url}/api/v1/products");
        Assert.Equal(HttpStatusCode.Unauthorized, reply.StatusCode);
        Assert.Equal("Bearer", Assert.Single(reply.Headers.WwwAuthenticate).Scheme);
    }

    [Fact]
    public async Task A_SKU_that_another_product_has_is_refused_with_422_and_its_owner()
    {
        await Put("SKU1", Hive("SKU1"));
        var reply = await Put(
            "SKU2",
            Hive("SKU2", """, "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "sku": "SKU1-D-CE", "gtin": null } ]""")
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, reply.StatusCode);
        Assert.Contains("already used by Hive SKU1", (await Body(reply))["errors"]![0]!["detail"]!.ToString(), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NotFound, (await _client.GetAsync("products/SKU2")).StatusCode);
        reply = await Put("SKU2", Hive("SKU2", """, "skuPattern": [ { "text": "SKU1-D-CE" } ]"""));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, reply.StatusCode);
        Assert.Equal(
            HttpStatusCode.Created,
            (
                await Put("SKU2", Hive("SKU2", """, "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "gtin": null } ]"""))
            ).StatusCode
        );
    }

    [Fact]
    public async Task A_product_is_created_read_replaced_and_guarded_by_its_entity_tag()
    {
        var created = await Put("WEB1", Hive("WEB1"));
        Assert.Equal((HttpStatusCode.Created, "/api/v1/products/WEB1"), (created.StatusCode, created.Headers.Location?.ToString()));
        var read = await _client.GetAsync("products/WEB1");
        var tag = read.Headers.ETag!;
        var document = await Body(read);
        Assert.Null(document["variants"]);
        Assert.Equal(3, (await Body(await _client.GetAsync("products/WEB1?variants=all")))["variants"]!.AsArray().Count);

        using var guarded = new HttpRequestMessage(HttpMethod.Put, "products/WEB1") { Content = App.Json(document.ToJsonString()) };
        guarded.Headers.IfMatch.Add(tag);
        Assert.Equal(HttpStatusCode.OK, (await _client.SendAsync(guarded)).StatusCode);
        using var stale = new HttpRequestMessage(HttpMethod.Put, "products/WEB1") { Content = App.Json(document.ToJsonString()) };
        stale.Headers.IfMatch.Add(tag);
        Assert.Equal(HttpStatusCode.PreconditionFailed, (await _client.SendAsync(stale)).StatusCode);
        Assert.Equal(HttpStatusCode.NoContent, (await _client.DeleteAsync("products/WEB1")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await _client.GetAsync("products/WEB1")).StatusCode);
    }

    [Fact]
    public async Task Faults_come_all_at_once_with_pointers_and_never_a_stack_trace()
    {
        var reply = await Put(
            "BAD1",
            """{ "format": "unicus-product/1", "code": "BAD 1", "name": "x", "colour": "red", "base": { "price": "1.999" } }"""
        );
        Assert.Equal((HttpStatusCode)422, reply.StatusCode);
        Assert.Equal("application/problem+json", reply.Content.Headers.ContentType?.MediaType);
        Assert.Equal(
            ["#/base/price", "#/code", "#/colour"],
            (await Body(reply))["errors"]!.AsArray().Select(e => e!["pointer"]!.GetValue<string>()).Distinct().Order(StringComparer.Ordinal)
        );
        Assert.Equal(HttpStatusCode.BadRequest, (await Put("BAD1", "{ not json")).StatusCode);
        Assert.Equal((HttpStatusCode)422, (await Put("OTHER", Hive("BAD1"))).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await _client.GetAsync("nothing")).StatusCode);
        Assert.Equal(
            (HttpStatusCode)422,
            (
                await Put("BAD1", Hive("BAD1", """, "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "stock": -1 } ]"""))
            ).StatusCode
        );
        Assert.Equal(
            (HttpStatusCode)422,
            (
                await Put("BAD1", $$"""{ "format": "unicus-product/1", "code": "BAD1", "name": "{{new string('x', 10_000_000)}}" }""")
            ).StatusCode
        );
    }

    [Fact]
    public async Task Configure_says_what_is_possible_the_count_the_conflict_and_the_price()
    {
        await Put("CON1", Hive("CON1", """, "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "stock": 12 } ]"""));
        var open = await Body(await Post("products/CON1/configure", """{ "answers": { "depth": "shallow" }, "quantity": 2 }"""));
        Assert.Equal(
            ("1", true, false),
            (open["count"]!.GetValue<string>(), open["valid"]!.GetValue<bool>(), open["complete"]!.GetValue<bool>())
        );
        var timber = open["options"]![1]!;
        Assert.Equal([true, false], timber["values"]!.AsArray().Select(v => v!["possible"]!.GetValue<bool>()));
        // One variant is decided although timber is open: it is the only one that agrees.
        Assert.Equal("CON1-S-CE", open["variant"]!["sku"]!.GetValue<string>());

        var decided = await Body(
            await Post("products/CON1/configure", """{ "answers": { "depth": "deep", "timber": "cedar" }, "quantity": 2 }""")
        );
        Assert.Equal("""{"sku":"CON1-D-CE","available":12}""", decided["variant"]!.ToJsonString());
        Assert.Equal(("198.72", "397.44"), (decided["price"]!["unit"]!.GetValue<string>(), decided["price"]!["total"]!.GetValue<string>()));

        var all = await Body(await Post("products/CON1/configure", "{}"));
        Assert.Equal(
            ("3", "166.72", "198.72"),
            (all["count"]!.GetValue<string>(), all["price"]!["lowest"]!.GetValue<string>(), all["price"]!["highest"]!.GetValue<string>())
        );

        var broken = await Body(await Post("products/CON1/configure", """{ "answers": { "depth": "shallow", "timber": "pine" } }"""));
        Assert.Equal("""["depth","timber"]""", broken["conflict"]!["answers"]!.ToJsonString());
        Assert.True(broken["conflict"]!["notMade"]!.GetValue<bool>());
        Assert.Null(broken["price"]);
        Assert.Equal((HttpStatusCode)422, (await Post("products/CON1/configure", """{ "answers": { "depth": "wide" } }""")).StatusCode);
        var why = await Body(
            await Post(
                "products/CON1/configure",
                """{ "answers": { "depth": "shallow" }, "why": { "option": "timber", "value": "pine" } }"""
            )
        );
        Assert.Equal("""["depth","timber"]""", why["conflict"]!["answers"]!.ToJsonString());

        // Asked again after a change of the product and of its stock, neither is from before.
        await Put("CON1", Hive("CON1", """, "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "price": "250.00" } ]"""));
        await Post("stock/movements", """{ "sku": "CON1-D-CE", "kind": "write-off", "quantity": 5, "reason": "Split" }""");
        var after = await Body(await Post("products/CON1/configure", """{ "answers": { "depth": "deep", "timber": "cedar" } }"""));
        Assert.Equal(("250.00", 7), (after["price"]!["unit"]!.GetValue<string>(), after["variant"]!["available"]!.GetValue<int>()));
    }

    /// <summary>The product of document.md.</summary>
    private async Task Example(string code)
    {
        await Publish(
            $"ST{code}",
            $$"""
            { "format": "unicus-product/1", "code": "ST{{code}}", "name": "Stand {{code}}", "withoutSets": ["gift-wrapping"],
              "base": { "price": "29.00" }, "variants": [ { "values": { }, "stock": 3 } ] }
            """
        );
        var hive = Hive(
                code,
                """
                , "rules": [ { "key": "gable-needs-deep", "when": { "not": { "option": "depth", "is": ["deep"] } },
                  "then": { "forbid": { "roof": ["gabled"] } } },
                  { "key": "plate-on-cedar", "when": { "option": "timber", "is": ["cedar"] }, "then": { "show": ["plate"] } } ],
                  "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "price": "199.00", "stock": 12 } ]
                """
            )
            .Replace("] } ],\n  \"notMade\"", "] } ],\n \"notMade\"")
            .Replace(
                "\"surcharge\": { \"amount\": \"-32.00\" } } ] } ]",
                $$"""
                "surcharge": { "amount": "-32.00" } } ] },
                { "key": "roof", "label": "Roof", "role": "extra", "ask": "one", "required": true, "default": "flat",
                  "values": [ { "key": "flat", "label": "Flat" }, { "key": "gabled", "label": "Gabled", "surcharge": { "amount": "24.00" },
                  "cost": "11.00" } ] },
                { "key": "fittings", "label": "Fittings", "role": "extra", "ask": "several", "picks": { "min": 0, "max": 2 },
                  "values": [ { "key": "stand", "label": "Stand", "part": { "sku": "ST{{code}}", "quantity": 1 } },
                  { "key": "strap", "label": "Strap", "surcharge": { "amount": "6.50" } } ] },
                { "key": "plate", "label": "Name plate", "role": "extra", "ask": "text", "maxLength": 24,
                  "surcharge": { "perCharacter": "0.60", "minimum": "6.00" } } ]
                """
            );
        Assert.Equal(HttpStatusCode.Created, (await Put(code, hive)).StatusCode);
    }

    /// <summary>The request and the reply of document.md.</summary>
    [Fact]
    public async Task Configure_answers_the_example_of_the_document()
    {
        await Example("EXA1");
        var reply = await Body(
            await Post(
                "products/EXA1/configure",
                """
                {"answers": {"depth": "deep", "timber": "cedar", "fittings": ["strap"]}, "parts": {}, "quantity": 2,
                  "at": "2027-03-05T12:00:00Z"}
                """
            )
        );
        Assert.Equal(
            """{"complete":false,"valid":true,"count":"2"}""",
            new JsonObject
            {
                ["complete"] = reply["complete"]!.DeepClone(),
                ["valid"] = reply["valid"]!.DeepClone(),
                ["count"] = reply["count"]!.DeepClone(),
            }.ToJsonString()
        );
        Assert.Equal(
            """{"key":"roof","shown":true,"required":true,"answer":null,"values":["""
                + """{"key":"flat","possible":true},{"key":"gabled","possible":true}],"nonePossible":false}""",
            reply["options"]![2]!.ToJsonString()
        );
        Assert.Equal(
            """["depth","timber","roof","fittings","plate"]""",
            new JsonArray([.. reply["options"]!.AsArray().Select(o => o!["key"]!.DeepClone())]).ToJsonString()
        );
        Assert.Equal("""{"sku":"EXA1-D-CE","available":12}""", reply["variant"]!.ToJsonString());
        Assert.Equal(
            """{"unit":"205.50","total":"411.00","lowest":"205.50","highest":"229.50","working":["""
                + """{"step":"list","label":"Hive EXA1, deep, cedar","amount":"199.00","per":"unit","rule":null},"""
                + """{"step":"answer","label":"Fittings: strap","amount":"6.50","per":"unit","rule":null}]}""",
            reply["price"]!.ToJsonString()
        );
    }

    [Fact]
    public async Task Configure_says_what_limits_conflicts_and_cannot_be_read()
    {
        await Example("EXA2");
        // The part limits what can be sold.
        Assert.Equal(
            3,
            (
                await Body(
                    await Post("products/EXA2/configure", """{"answers": {"depth": "deep", "timber": "cedar", "fittings": ["stand"]}}""")
                )
            )["variant"]!["available"]!.GetValue<int>()
        );
        var conflict = (await Body(await Post("products/EXA2/configure", """{"answers": {"depth": "shallow", "roof": "gabled"}}""")))[
            "conflict"
        ]!;
        Assert.Equal(
            """{"answers":["depth","roof"],"rules":["gable-needs-deep"],"notMade":"""
                + """false,"text":"Depth shallow and Roof gabled cannot stand together: when Depth is not Deep, Roof cannot be Gabled."}""",
            conflict.ToJsonString()
        );
        foreach (
            var bad in new[]
            {
                """{"answers": {"plate": 5}}""",
                """{"answers": {"fittings": "strap"}}""",
                """{"answers": {"roof": "thatched"}}""",
                """{"answers": {"colour": "red"}}""",
                """{"answers": {"plate": "LONG"}}""".Replace("LONG", new string('x', 10_000)),
                """{"answers": {"plate": "a\u0000b"}}""",
                """{"answers": []}""",
                """{"at": "soon"}""",
            }
        )
            Assert.Equal((HttpStatusCode)422, (await Post("products/EXA2/configure", bad)).StatusCode);
    }

    /// <summary>An answer to a hidden question is kept, but neither priced nor ordered.</summary>
    [Fact]
    public async Task What_is_answered_and_not_asked_is_not_ordered()
    {
        await Example("EXA3");
        var hidden = await Body(
            await Post(
                "products/EXA3/configure",
                """{"answers": {"depth": "deep", "timber": "pine", "roof": "flat", "fittings": [], "plate": "Maren"}}"""
            )
        );
        Assert.Equal(
            """[true,true,false,"166.72"]""",
            new JsonArray(
                hidden["complete"]!.DeepClone(),
                hidden["valid"]!.DeepClone(),
                hidden["options"]![4]!["shown"]!.DeepClone(),
                hidden["price"]!["unit"]!.DeepClone()
            ).ToJsonString()
        );
        Assert.Equal(HttpStatusCode.OK, (await Post("products/EXA3/publish", "")).StatusCode);
        var kept = await Body(
            await Post(
                "baskets/price",
                """
                { "lines": [ { "product": "EXA3", "answers": {"depth": "deep", "timber": "pine", "plate": "Maren"}, "quantity": 1 } ] }
                """
            )
        );
        Assert.Equal("166.72", kept["lines"]![0]!["unit"]!.GetValue<string>());
        Assert.DoesNotContain("Maren", kept.ToJsonString(), StringComparison.Ordinal);
        var open = await Post(
            "baskets/price",
            """
            { "lines": [ { "product": "STEXA3", "answers": {}, "quantity": 1 }, { "product": "EXA3", "answers": {}, "quantity": 1 } ] }
            """
        );
        Assert.Equal((HttpStatusCode)422, open.StatusCode);
    }

    [Fact]
    public async Task The_interface_is_described_and_the_schema_is_served()
    {
        using var anybody = new HttpClient();
        var paths = JsonNode.Parse(await anybody.GetStringAsync($"{app.Url}/openapi/v1.json"))!["paths"]!
            .AsObject()
            .Select(p => p.Key)
            .ToList();
        Assert.Contains("/api/v1/products/{code}/configure", paths);
        Assert.Contains("/api/v1/stock/movements", paths);
        Assert.Equal(
            "https://json-schema.org/draft/2020-12/schema",
            JsonNode.Parse(await anybody.GetStringAsync($"{app.Url}/schemas/product-1.json"))!["$schema"]!.GetValue<string>()
        );
    }

    [Fact]
    public async Task A_change_without_the_form_token_is_refused_and_the_back_office_is_shut_to_strangers()
    {
        using var stranger = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false });
        Assert.Equal(HttpStatusCode.Redirect, (await stranger.GetAsync($"{app.Url}/office/range")).StatusCode);
        Assert.Equal(
            HttpStatusCode.BadRequest,
            (await stranger.PostAsync($"{app.Url}/basket?handler=Add", new FormUrlEncodedContent([new("product", "SMK")]))).StatusCode
        );
        var page = await stranger.GetAsync(app.Url);
        var policy = Assert.Single(page.Headers.GetValues("Content-Security-Policy"));
        Assert.Contains("script-src 'self'", policy);
        Assert.DoesNotContain("unsafe", policy);
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.GetAsync($"{app.Url}/places/Workbench/Workbench.cshtml.cs")).StatusCode);
    }
}
