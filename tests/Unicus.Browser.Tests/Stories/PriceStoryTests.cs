using System.Net;
using System.Text.Json.Nodes;
using OpenQA.Selenium;

namespace Unicus.Browser.Tests;

/// <summary>Prices by rules: a rule is written, tried, switched on and off; coupons and club prices in the basket.</summary>
[Collection("app")]
public sealed class PriceStoryTests(App app) : IDisposable
{
    private readonly HttpClient _client = app.Client();

    public void Dispose() => _client.Dispose();

    private async Task Publish(string code, string name)
    {
        if ((await _client.GetAsync($"products/{code}")).StatusCode == HttpStatusCode.OK)
            return;
        var product = $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "{{name}}", "withoutSets": ["gift-wrapping"],
              "base": { "price": "40.00", "cost": "12.00" }, "variants": [ { "values": {}, "stock": 500 } ] }
            """;
        (await _client.PutAsync($"products/{code}", App.Json(product))).EnsureSuccessStatusCode();
        (await _client.PostAsync($"products/{code}/publish", App.Json(""))).EnsureSuccessStatusCode();
    }

    private static void Type(Steps s, string name, string text)
    {
        s.Until("the rule is at rest", () => IsAtRest(s));
        s.Run(
            """
            const box = document.querySelector(`#rule-form [name="${arguments[0]}"]`);
            box.value = arguments[1]; box.dispatchEvent(new Event('change', { bubbles: true }));
            """,
            name,
            text
        );
    }

    /// <summary>Whether nothing is asked for, or being put in place.</summary>
    private static bool IsAtRest(Steps s) =>
        s.Run("return !document.querySelector('.htmx-request, .htmx-swapping, .htmx-settling, .htmx-added')") is true;

    [Theory]
    [InlineData(1280)]
    [InlineData(390)]
    public async Task A_reduction_is_written_tried_switched_on_and_off_again(int width)
    {
        var code = $"BELL{width}";
        await Publish(code, $"Bell {width}");
        using var s = new Steps(App.Browser(width), app.Url);
        s.SignIn();
        s.Open("/office/pricing/new");
        Type(s, "goods", "products");
        s.Until("its goods are asked for", () => s.Has("#rule-form [name=which]"));
        Type(s, "which", code);
        Type(s, "amount", "15");
        s.See("34.00");
        s.See("lowest margin");
        Type(s, "amount", "60");
        s.See("18.45");
        Type(s, "amount", "nonsense");
        s.Until("what is wrong is said", () => s.Has("#rule-form .fault"));
        Type(s, "amount", "15");
        s.See("34.00");
        Type(s, "name", $"Bell weeks {width}");
        Assert.Empty(s.SeriousFindings());
        s.Click("#switch-on");
        s.See($"Bell weeks {width}");
        s.Open($"/p/bell-{width}");
        s.See("34.00");
        s.Open($"/office/pricing/bell-weeks-{width}");
        s.Click("#rule-form button[value=draft]");
        s.Until("it is a draft", () => s.Has("tr.at .phase-draft"));
        s.Open($"/p/bell-{width}");
        s.See("40.00");
        Assert.Equal(0L, s.Run("return document.documentElement.scrollWidth - document.documentElement.clientWidth"));
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task A_coupon_and_a_club_code_act_in_the_basket_and_say_why_not(bool script)
    {
        await Publish("GONG", "Gong");
        using var s = new Steps(App.Browser(script: script), app.Url);
        s.Open("/p/gong");
        s.Click("#buy-now");
        s.See("Basket");
        void Coupon(string word)
        {
            s.Send("#coupon", word + Keys.Enter);
            s.Until($"{word} stands there", () => s.Text("#coupons").Contains(word, StringComparison.OrdinalIgnoreCase));
        }
        Coupon("skep");
        s.See("acts from 80.00; 40.00 so far");
        Coupon("nothing");
        s.See("There is no coupon");
        s.Find("[name=quantities]").Clear();
        s.Send("[name=quantities]", "2" + Keys.Enter);
        s.See("Seven off");
        s.Find("#where [value=IE]").Click();
        if (!script)
            s.Click("#where button");
        s.See("79.50");
        s.Click("[aria-label='Leave out skep']");
        s.See("86.50");
        s.Send("#coupon", "smoke-ring" + Keys.Enter);
        s.See("Skep club members prices");
        if (script)
            Assert.Empty(s.SeriousFindings());
    }

    [Fact]
    public async Task Rules_groups_and_codes_are_put_over_http()
    {
        await Publish("CHIME", "Chime");
        async Task<(HttpStatusCode Status, JsonNode? Body)> Send(HttpMethod method, string path, string body)
        {
            using var reply = await _client.SendAsync(new HttpRequestMessage(method, path) { Content = App.Json(body) });
            var text = await reply.Content.ReadAsStringAsync();
            return (reply.StatusCode, text.Length > 0 ? JsonNode.Parse(text) : null);
        }
        const string rule = """
            { "key": "chime", "name": "Chime", "scope": { "products": ["CHIME"] }, "effect": { "reduce": { "percent": "10" } },
              "when": { "customerGroups": ["choir"] } }
            """;
        var (unknown, fault) = await Send(HttpMethod.Put, "price-rules/chime", rule);
        Assert.Equal((HttpStatusCode)422, unknown);
        Assert.Equal("#/when/customerGroups/0", fault!["errors"]![0]!["pointer"]!.GetValue<string>());
        Assert.Equal(
            HttpStatusCode.OK,
            (await Send(HttpMethod.Put, "customer-groups/choir", """{ "label": "Choir", "code": "SING" }""")).Status
        );
        Assert.Equal(HttpStatusCode.Created, (await Send(HttpMethod.Put, "price-rules/chime", rule)).Status);
        Assert.Equal(HttpStatusCode.OK, (await Send(HttpMethod.Put, "price-rules/chime", rule)).Status);
        Assert.Equal((HttpStatusCode)422, (await Send(HttpMethod.Put, "price-rules/other", rule)).Status);
        var (_, configured) = await Send(
            HttpMethod.Post,
            "products/CHIME/configure?edition=latest",
            """{ "customerGroup": "choir", "quantity": 2 }"""
        );
        var price = configured!["price"]!;
        Assert.Equal(("36.00", "72.00", "36.00"), (Text(price["unit"]), Text(price["total"]), Text(price["lowest"])));
        Assert.Equal("chime", Text(price["working"]![1]!["rule"]));
        // A page that does not hold the goods is not believed.
        const string page = """{ "key": "page", "scope": { "through": "GH1" }, "effect": { "setUnit": "1.00" } }""";
        Assert.Equal(HttpStatusCode.Created, (await Send(HttpMethod.Put, "price-rules/page", page)).Status);
        var (_, claimed) = await Send(HttpMethod.Post, "products/CHIME/configure?edition=latest", """{ "through": "GH1" }""");
        Assert.Equal("40.00", Text(claimed!["price"]!["unit"]));
        using var taken = await _client.DeleteAsync("price-rules/page");
        var (_, basket) = await Send(HttpMethod.Post, "baskets/price", """{ "lines": [ { "sku": "CHIME" } ], "customerGroup": "sing" }""");
        Assert.Equal("36.00", Text(basket!["subtotal"]));
        var (_, tried) = await Send(
            HttpMethod.Post,
            "price-rules/try",
            """{ "rules": [ { "key": "half", "scope": { "products": ["CHIME"] }, "effect": { "reduce": { "percent": "60" } } } ] }"""
        );
        // 40 % of 40.00, held by the shop's floor of 20 %: 12.00 / 0.8 and 23 % tax.
        Assert.Equal(("40.00", "18.45"), (Text(tried!["prices"]![0]!["now"]), Text(tried["prices"]![0]!["then"])));
        var (codes, list) = await Send(HttpMethod.Put, "coupons/choir-codes", """{ "codes": ["A", "a", "B"] }""");
        Assert.Equal((HttpStatusCode.OK, 2), (codes, list!["codes"]!.GetValue<int>()));
        using var gone = await _client.DeleteAsync("price-rules/chime");
        Assert.Equal(HttpStatusCode.NoContent, gone.StatusCode);
    }

    private static string Text(JsonNode? node) => node!.GetValue<string>();
}
