using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;

namespace Unicus.Browser.Tests;

/// <summary>Sets in the workbench, in the shop and over HTTP.</summary>
[Collection("app")]
public sealed class SetStoryTests(App app) : IDisposable
{
    private readonly HttpClient _client = app.Client();

    public void Dispose() => _client.Dispose();

    private async Task Publish(string code, string body)
    {
        var json = $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "Story {{code}}", "withoutSets": ["gift-wrapping"],
              {{body}} }
            """;
        var reply = await _client.PutAsync($"products/{code}", App.Json(json));
        Assert.True(reply.IsSuccessStatusCode, await reply.Content.ReadAsStringAsync());
        var published = await _client.PostAsync($"products/{code}/publish", null);
        Assert.True(published.IsSuccessStatusCode, await published.Content.ReadAsStringAsync());
    }

    /// <summary>Plain goods with a price, a cost and a first receipt.</summary>
    private Task Plain(string code, string price, int stock) =>
        Publish(code, $$""" "base": { "price": "{{price}}", "cost": "1.00" }, "variants": [ { "values": {}, "stock": {{stock}} } ]""");

    private static string Slot(string key, string code) => $$"""{ "key": "{{key}}", "of": [ { "product": "{{code}}" } ] }""";

    private async Task<JsonNode> Post(string path, string json, HttpStatusCode status = HttpStatusCode.OK)
    {
        var reply = await _client.PostAsync(path, App.Json(json));
        Assert.Equal(status, reply.StatusCode);
        return (await reply.Content.ReadFromJsonAsync<JsonNode>())!;
    }

    private const string Buyer = """ "buyer": { "name": "A", "email": "a@example.org", "address": "x" }""";

    /// <summary>Own stock first, the rest from the parts; what is allocated adds up; cancelling gives everything back.</summary>
    [Fact]
    public async Task A_set_is_taken_as_made_up_first_and_from_its_parts_then()
    {
        await Plain("STA", "10.00", 5);
        await Plain("STB", "20.00", 3);
        await Publish(
            "STKIT",
            $$"""
            "parts": { "sold": "together", "stock": "own-then-parts", "price": { "rule": "fixed", "amount": "24.00" },
              "slots": [ {{Slot("a", "STA")}}, {{Slot(
                "b",
                "STB"
            )}} ] }, "variants": [ { "values": {}, "stock": 2 } ]
            """
        );
        var asked = await Post("products/STKIT/configure?edition=latest", """{ "answers": {} }""");
        Assert.Equal(5, (int)asked["sets"]!["available"]!);
        Assert.Equal(["STB"], asked["sets"]!["bottleneck"]!.AsArray().Select(s => (string)s!));

        var order = await Post("orders", $$"""{ "lines": [ { "product": "STKIT", "quantity": 4 } ], {{Buyer}} }""", HttpStatusCode.Created);
        var parts = order["lines"]![0]!["parts"]!.AsArray();
        Assert.Equal(["a STA 4 32.00", "b STB 4 64.00"], parts.Select(p => $"{p!["slot"]} {p["sku"]} {p["quantity"]} {p["allocated"]}"));
        Assert.Equal((0, 3, 1), (await Available("STKIT"), await Available("STA"), await Available("STB")));

        var refused = await Post(
            "orders",
            $$"""{ "lines": [ { "product": "STKIT", "quantity": 2 } ], {{Buyer}} }""",
            HttpStatusCode.Conflict
        );
        Assert.Equal("STB", (string)refused["shortages"]![0]!["sku"]!);
        await Post($"orders/{order["number"]}/cancel", """{ "reason": "test" }""");
        Assert.Equal((2, 5, 3), (await Available("STKIT"), await Available("STA"), await Available("STB")));
    }

    private async Task<int> Available(string sku) => (int)(await _client.GetFromJsonAsync<JsonNode>($"stock/{sku}"))!["available"]!;

    /// <summary>What cannot be a set is refused where it is written: itself, a loop of three, nothing to pick, a part that is not on
    /// sale.</summary>
    [Fact]
    public async Task What_cannot_be_a_set_is_refused_with_its_place()
    {
        async Task<string> Put(string code, string slots)
        {
            var json =
                $$"""{ "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}", "parts": { "slots": [ {{slots}} ] } }""";
            var reply = await _client.PutAsync($"products/{code}", App.Json(json));
            return reply.IsSuccessStatusCode ? "" : await reply.Content.ReadAsStringAsync();
        }
        Assert.Contains("cannot be a part of itself", await Put("LOOP1", Slot("x", "LOOP1")), StringComparison.Ordinal);
        await Plain("LOOP0", "1.00", 1);
        Assert.Equal("", await Put("LOOP1", Slot("x", "LOOP0")));
        Assert.Equal("", await Put("LOOP2", Slot("x", "LOOP1")));
        Assert.Equal("", await Put("LOOP3", Slot("x", "LOOP2")));
        var loop = await Put("LOOP1", Slot("x", "LOOP3"));
        Assert.Contains("#/parts/slots/0/of/0", loop, StringComparison.Ordinal);
        Assert.Contains("LOOP1 in LOOP2 in LOOP3 in LOOP1", loop, StringComparison.Ordinal);
        Assert.Contains(
            "3 picks are needed and 1 are there",
            await Put("LOOP4", """{ "key": "x", "of": [ { "product": "LOOP0" } ], "picks": { "min": 3 } }"""),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "#/parts/slots/0/quantity/min",
            await Put("LOOP4", """{ "key": "x", "of": [ { "product": "LOOP0" } ], "quantity": { "min": 0, "max": 2 } }"""),
            StringComparison.Ordinal
        );
        Assert.Equal("", await Put("LOOP4", Slot("x", "NOTHERE")));
        var published = await _client.PostAsync("products/LOOP4/publish", null);
        Assert.Equal(HttpStatusCode.Conflict, published.StatusCode);
        Assert.Contains("NOTHERE is not on sale", await published.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    /// <summary>A group over HTTP: each piece a line of its own through the page, and its own extras one line more.</summary>
    [Fact]
    public async Task A_group_is_bought_piece_by_piece_and_its_extras_once()
    {
        await Plain("GRA", "5.00", 50);
        await Plain("GRB", "7.00", 50);
        await Publish(
            "GRPAGE",
            $$"""
            "options": [ { "key": "greeting", "label": "Greeting", "role": "extra", "ask": "yes-no",
              "values": [ { "key": "yes", "label": "Yes", "surcharge": { "amount": "3.00" } } ] } ],
            "parts": { "sold": "separately", "slots": [ {{Slot("a", "GRA")}}, {{Slot(
                "b",
                "GRB"
            )}} ] }
            """
        );
        var basket = await Post(
            "baskets/price",
            """
            { "lines": [ { "product": "GRPAGE", "answers": { "greeting": "yes" },
              "pieces": [ { "product": "GRA", "quantity": 2 }, { "sku": "GRB", "quantity": 1 } ] } ] }
            """
        );
        Assert.Equal(
            ["GRA 10.00 GRPAGE", "GRB 7.00 GRPAGE", " 3.00 "],
            basket["lines"]!.AsArray().Select(l => $"{l!["sku"]} {l["total"]} {l["through"]}")
        );
        Assert.Equal("20.00", (string)basket["subtotal"]!);
        // However many are asked for, a group's own extras are charged and taken once.
        var many = await Post(
            "baskets/price",
            """{ "lines": [ { "product": "GRPAGE", "answers": { "greeting": "yes" }, "quantity": 5 } ] }"""
        );
        Assert.Equal((1, "3.00"), ((int)many["lines"]![0]!["quantity"]!, (string)many["lines"]![0]!["total"]!));
        var nothing = $$"""{ "lines": [ { "product": "GRPAGE" } ], {{Buyer}} }""";
        var refused = await Post("orders", nothing, HttpStatusCode.UnprocessableEntity);
        Assert.Equal("#/lines", (string)refused["errors"]![0]!["pointer"]!);
    }

    /// <summary>A kit is built from nothing in the workbench, turned into a group and back, published and bought in the shop with picks;
    /// then a part is sold away and the kit cannot be had.</summary>
    [Fact]
    public async Task A_kit_is_built_turned_and_bought()
    {
        await Plain("KTA", "30.00", 3);
        await Publish(
            "KTV",
            """
            "base": { "price": "40.00", "cost": "9.00" }, "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [
              { "key": "s", "label": "Small" }, { "key": "m", "label": "Medium" } ] } ],
            "variants": [ { "values": { "size": "s" }, "stock": 4 }, { "values": { "size": "m" }, "stock": 4 } ]
            """
        );
        var kit = await _client.PutAsync(
            "products/KTKIT",
            App.Json("""{ "format": "unicus-product/1", "code": "KTKIT", "name": "Story kit", "withoutSets": ["gift-wrapping"] }""")
        );
        kit.EnsureSuccessStatusCode();
        using var s = new Steps(App.Browser(), app.Url);
        s.SignIn();
        s.Open("/office/products/KTKIT/parts");
        s.Send("#part-lines", "KTA 2\nKTV");
        s.Click("#add-parts");
        s.Until("two slots are there", () => s.Count("section.slot") == 2);
        s.Click("input[name=sold][value=separately]");
        s.Until("it is a group", () => s.Has("select[name=arrangement]"));
        s.Click("input[name=sold][value=together]");
        s.Until("it is a set again", () => s.Has("select[name=stock]"));
        Assert.Equal(2, s.Count("section.slot"));
        Assert.Equal("", s.SeriousFindings());
        (await _client.PostAsync("products/KTKIT/publish", null)).EnsureSuccessStatusCode();

        s.Open("/p/story-kit");
        s.Click(".set-part label.value:nth-child(2)");
        s.Until("2 × 30.00 + 40.00", () => s.Text(".buy-price") == "€100.00");
        s.See("1 left");
        Assert.Equal("", s.SeriousFindings());
        s.Click("#buy-now");
        s.See("1 × Story KTV, medium");
        s.See("2 × Story KTA");

        await Post("orders", $$"""{ "lines": [ { "sku": "KTA", "quantity": 2 } ], {{Buyer}} }""", HttpStatusCode.Created);
        s.Until("the kit cannot be had", () =>
        {
            s.Open("/p/story-kit");
            return s.Text(".buy-price") == "none left";
        });
    }

    /// <summary>A part whose name has to be typed: the page asks for it, also without script, and only then does the set lie in the
    /// basket.</summary>
    [Fact]
    public async Task What_a_part_needs_is_asked_on_the_page()
    {
        await Publish(
            "NPLATE",
            """
            "base": { "price": "12.00", "cost": "1.00" }, "variants": [ { "values": {}, "stock": 4 } ],
            "options": [ { "key": "name", "label": "Name on it", "role": "extra", "ask": "text", "required": true } ]
            """
        );
        await Plain("NSTAND", "20.00", 4);
        await Publish("NSET", $$""" "parts": { "slots": [ {{Slot("plate", "NPLATE")}}, {{Slot("stand", "NSTAND")}} ] } """);
        using var s = new Steps(App.Browser(), app.Url);
        s.Open("/p/story-nset");
        Assert.Contains("name on it", s.Text("#still-open"));
        s.Click("#buy-now");
        s.See("Still to answer: plate: name on it");
        Assert.EndsWith("problem=open", s.Browser.Url);
        s.Type(".set-part :is(input[type=text], textarea)", "Ida");
        s.Until("all is answered", () => !s.Has("#still-open"));
        s.Click("#buy-now");
        s.See("1 × Story NPLATE");
        s.See("plate, name on it: “Ida”");
    }
}
