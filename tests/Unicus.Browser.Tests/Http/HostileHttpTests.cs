using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace Unicus.Browser.Tests;

/// <summary>What strangers and careless programs send: each gets a proper answer, and nothing hangs on them.</summary>
[Collection("app")]
public sealed partial class HostileHttpTests(App app) : IDisposable
{
    private readonly HttpClient _client = app.Client();
    private readonly HttpClient _stranger = new(new HttpClientHandler { AllowAutoRedirect = false }) { BaseAddress = new Uri(app.Url) };

    public void Dispose()
    {
        _client.Dispose();
        _stranger.Dispose();
    }

    private static string Plain(string code, string more = "") =>
        $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "Hostile {{code}}", "withoutSets": ["gift-wrapping"],
              "base": { "price": "20.00" }{{more}} }
            """;

    private async Task Publish(string code, string more = "")
    {
        var reply = await _client.PutAsync($"products/{code}", App.Json(Plain(code, more)));
        Assert.True(reply.IsSuccessStatusCode, await reply.Content.ReadAsStringAsync());
        (await _client.PostAsync($"products/{code}/publish", null)).EnsureSuccessStatusCode();
    }

    private async Task<(HttpStatusCode Status, string Body)> Post(string path, string json, params (string Name, string Value)[] headers)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = App.Json(json) };
        foreach (var (name, value) in headers)
            request.Headers.Add(name, value);
        using var reply = await _client.SendAsync(request);
        return (reply.StatusCode, await reply.Content.ReadAsStringAsync());
    }

    private static string Line(string code, int quantity = 1) => $$"""{ "product": "{{code}}", "quantity": {{quantity}} }""";

    /// <summary>Links in messages are made of the address that was asked for.</summary>
    [Theory]
    [InlineData("/account")]
    [InlineData("/office/sign-in")]
    public async Task An_address_that_is_not_the_shops_is_not_answered(string path)
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, path);
        request.Headers.Host = "evil.example";
        using var reply = await _stranger.SendAsync(request);
        Assert.Equal(HttpStatusCode.BadRequest, reply.StatusCode);
    }

    [Theory]
    [InlineData("GET", "/nothing", HttpStatusCode.NotFound)]
    [InlineData("GET", "/p/no-such-hive", HttpStatusCode.NotFound)]
    [InlineData("POST", "/basket?handler=Add", HttpStatusCode.BadRequest)]
    [InlineData("POST", "/checkout", HttpStatusCode.BadRequest)]
    [InlineData("DELETE", "/health/none", HttpStatusCode.NotFound)]
    public async Task Every_error_page_has_a_body_the_policy_and_the_look_of_the_shop(string method, string path, HttpStatusCode status)
    {
        using var reply = await _stranger.SendAsync(new HttpRequestMessage(new HttpMethod(method), path));
        var body = await reply.Content.ReadAsStringAsync();
        Assert.Equal(status, reply.StatusCode);
        Assert.Contains("default-src 'none'", reply.Headers.GetValues("Content-Security-Policy").Single(), StringComparison.Ordinal);
        Assert.Contains("Thistle &amp; Skep", body, StringComparison.Ordinal);
        Assert.Contains("/css/shop.css", body, StringComparison.Ordinal);
        // A script hears a sentence instead of a page.
        using var asked = new HttpRequestMessage(new HttpMethod(method), path);
        asked.Headers.Add("HX-Request", "true");
        using var short_ = await _stranger.SendAsync(asked);
        Assert.Equal("text/plain", short_.Content.Headers.ContentType?.MediaType);
        Assert.InRange((await short_.Content.ReadAsStringAsync()).Length, 10, 200);
    }

    [Fact]
    public async Task The_page_of_the_benchmark_is_not_there_and_a_basket_without_goods_is_not_kept()
    {
        using var stranger = new HttpClient { BaseAddress = new Uri(app.Url) };
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.GetAsync("/bench/empty")).StatusCode);
        var before = await app.CountInDatabase("baskets");
        var page = await stranger.GetStringAsync("/basket");
        foreach (var path in new[] { "/basket", "/checkout", "/p/smoker", "/?q=hive" })
            await stranger.GetAsync(path);
        var token = Regex.Match(await stranger.GetStringAsync("/p/smoker"), "RequestVerificationToken\" value=\"([^\"]+)").Groups[1].Value;
        foreach (var handler in new[] { "Coupon", "Where", "Change" })
        {
            using var form = new FormUrlEncodedContent(
                new Dictionary<string, string>
                {
                    ["__RequestVerificationToken"] = token,
                    ["coupon"] = "SKEP",
                    ["destination"] = "DE",
                }
            );
            await stranger.PostAsync($"/basket?handler={handler}", form);
        }
        Assert.Contains("Nothing in it yet", page, StringComparison.Ordinal);
        Assert.Equal(before, await app.CountInDatabase("baskets"));
    }

    [Fact]
    public async Task Behind_a_proxy_that_does_not_say_the_scheme_pages_are_refused_in_words()
    {
        var url = await app.Serve(("Proxies", "127.0.0.1"));
        using var proxy = new HttpClient { BaseAddress = new Uri(url) };
        foreach (var path in new[] { "/", "/office/sign-in", "/basket" })
        {
            var reply = await proxy.GetAsync(path);
            Assert.Equal(HttpStatusCode.BadRequest, reply.StatusCode);
            Assert.Contains("X-Forwarded-Proto", await reply.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        }
        using var said = new HttpRequestMessage(HttpMethod.Get, "/");
        said.Headers.Add("X-Forwarded-Proto", "https");
        Assert.Equal(HttpStatusCode.OK, (await proxy.SendAsync(said)).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await proxy.GetAsync("/health")).StatusCode);
        app.Stop(url);
    }

    [Fact]
    public async Task Whoever_is_signed_out_is_led_to_sign_in_and_a_script_hears_so()
    {
        using var page = await _stranger.GetAsync("/office/range");
        Assert.Equal(HttpStatusCode.Redirect, page.StatusCode);
        using var asked = new HttpRequestMessage(HttpMethod.Post, "/office/products/GH1/facts?handler=Field");
        asked.Headers.Add("HX-Request", "true");
        using var reply = await _stranger.SendAsync(asked);
        Assert.Equal(HttpStatusCode.Unauthorized, reply.StatusCode);
        Assert.Contains("signed out", await reply.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("/?q=a%00b")]
    [InlineData("/?q=%F0%9F%90%9D&page=99999999999999999999")]
    [InlineData("/?category=%00")]
    [InlineData("/p/garden-hive?quantity=99999999999999999999&o-depth=%00")]
    public async Task Signs_that_no_database_keeps_are_looked_for_in_vain(string path)
    {
        using var reply = await _stranger.GetAsync(path);
        Assert.True(
            reply.StatusCode is HttpStatusCode.OK or HttpStatusCode.NotFound or HttpStatusCode.BadRequest,
            $"{path}: {reply.StatusCode}"
        );
        Assert.NotEmpty(await reply.Content.ReadAsStringAsync());
    }

    [Fact]
    public async Task Pages_beyond_the_end_are_empty()
    {
        foreach (var list in new[] { "products", "orders" })
        {
            var page = JsonNode.Parse(await _client.GetStringAsync($"{list}?page=1000000000000"))!;
            Assert.Empty(page[list]!.AsArray());
            Assert.Equal(HttpStatusCode.UnprocessableEntity, (await _client.GetAsync($"{list}?page=0")).StatusCode);
        }
    }

    [Theory]
    [InlineData("9999-12-31T23:59:59Z")]
    [InlineData("0001-01-01T00:00:00Z")]
    [InlineData("yesterday")]
    public async Task Moments_that_nothing_can_be_counted_from_are_refused(string at)
    {
        Assert.Equal(
            HttpStatusCode.UnprocessableEntity,
            (await Post("products/GH1/configure", $$"""{ "answers": {}, "at": "{{at}}" }""")).Status
        );
        Assert.Equal(
            HttpStatusCode.UnprocessableEntity,
            (await Post("baskets/price", $$"""{ "lines": [{{Line("SMK")}}], "at": "{{at}}" }""")).Status
        );
    }

    [Fact]
    public async Task Half_a_surrogate_pair_is_malformed_wherever_it_stands()
    {
        foreach (var json in new[] { """{ "answers": { "depth": "\ud83d" } }""", """{ "\udc1d": 1 }""" })
            Assert.Equal(HttpStatusCode.BadRequest, (await Post("products/GH1/configure", json)).Status);
    }

    [Fact]
    public async Task A_number_without_a_maximum_at_a_thousand_million_million_is_refused()
    {
        await Publish(
            "HOS1",
            """
            , "options": [ { "key": "length", "label": "Length", "role": "extra", "ask": "number",
              "surcharge": { "perUnit": "99999999.00" } } ]
            """
        );
        Assert.Equal(
            HttpStatusCode.UnprocessableEntity,
            (await Post("products/HOS1/configure", """{ "answers": { "length": 1e15 } }""")).Status
        );
        Assert.Equal(
            HttpStatusCode.UnprocessableEntity,
            (await Post("products/HOS1/configure", """{ "answers": { "length": "999999999" } }""")).Status
        );
        using var page = await _stranger.GetAsync("/p/hostile-hos1?o-length=1000000000000000");
        Assert.Contains("lies between", await page.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Forty_questions_with_a_hundred_rules_have_a_page_a_chapter_and_checks()
    {
        var random = new Random(7);
        var options = string.Join(
            ',',
            Enumerable
                .Range(0, 40)
                .Select(i =>
                    $$"""
                        { "key": "q{{i}}", "label": "Q{{i}}", "role": "extra", "ask": "one",
                          "values": [ {{string.Join(
                            ',',
                            "abcd".Select(v => $$"""{ "key": "{{v}}", "label": "{{v}}" }""")
                        )}} ] }
                        """
                )
        );
        string Pick() => $"{"abcd"[random.Next(4)]}";
        var rules = string.Join(
            ',',
            Enumerable
                .Range(0, 100)
                .Select(i =>
                    $$"""
                        { "key": "r{{i}}", "when": { "option": "q{{random.Next(
                            40
                        )}}", "is": ["{{Pick()}}"] },
                          "then": { "forbid": { "q{{random.Next(40)}}": ["{{Pick()}}"] } } }
                        """
                )
        );
        var put = await _client.PutAsync(
            "products/HOS2",
            App.Json(Plain("HOS2", $$""", "options": [{{options}}], "rules": [{{rules}}]"""))
        );
        Assert.True((int)put.StatusCode is 201 or 422, await put.Content.ReadAsStringAsync());
        Assert.True((int)(await _client.PostAsync("products/HOS2/publish", null)).StatusCode is 200 or 409);
        Assert.True((int)(await Post("products/HOS2/configure", """{ "answers": { "q1": "a" } }""")).Status is 200 or 409);
    }

    [Fact(Timeout = 60_000)]
    public async Task A_film_host_that_is_not_ASCII_does_not_break_the_page()
    {
        await Publish("HOS3", """, "videos": [ { "address": "https://bienenfilme-über.example/a.mp4" } ]""");
        await app.InDatabase("update shop set video_hosts = array_append(video_hosts, 'bienenfilme-über.example')");
        // What was changed beside the application is news to it a moment later.
        for (var policy = ""; !policy.Contains("https://xn--bienenfilme-ber-bwb.example", StringComparison.Ordinal); await Task.Delay(50))
        {
            using var page = await _stranger.GetAsync("/p/hostile-hos3");
            Assert.Equal(HttpStatusCode.OK, page.StatusCode);
            policy = page.Headers.GetValues("Content-Security-Policy").Single();
        }
    }

    [Fact]
    public async Task Texts_of_programs_never_act()
    {
        await Publish(
            "HOS4",
            """
            , "passages": [ { "heading": "Care",
              "text": "<p hx-post='/office/orders/1001?handler=Cancel' hx-trigger='load'>Dry well</p><script>x()</script>" } ]
            """
        );
        var page = await _stranger.GetStringAsync("/p/hostile-hos4");
        Assert.Contains("<div hx-disable><p>Dry well</p></div>", page, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_SKU_may_hold_any_sign_of_an_address()
    {
        await Publish("HOS5", """, "variants": [ { "values": {}, "sku": "A/B?c#d%2Fé", "stock": 3 } ]""");
        var path = "stock/" + Uri.EscapeDataString("A/B?c#d%2Fé");
        Assert.Equal(3, JsonNode.Parse(await _client.GetStringAsync(path))!["available"]!.GetValue<int>());
        using var s = new Steps(App.Browser(), app.Url);
        s.SignIn();
        s.Open("/office/products/HOS5/stock");
        s.Click("a.code");
        s.Until("the SKU's page is there", () => s.Text("h1") == "A/B?c#d%2Fé");
        s.Send("#quantity", "4");
        s.Click("main .btn.do");
        s.Until("a movement leads back to it", () => s.Text(".ledger").Contains("+4"));
    }

    [Fact]
    public async Task The_same_idempotency_key_counts_whatever_the_letter_case_of_the_path()
    {
        await Publish("HOS6", """, "variants": [ { "values": {}, "stock": 30 } ]""");
        var body = $$"""{ "lines": [{{Line("HOS6")}}] }""";
        var first = await Post("orders", body, ("Idempotency-Key", "case"));
        Assert.Equal((HttpStatusCode.Created, first.Body), await Post("ORDERS", body, ("Idempotency-Key", "case")));
        Assert.Equal(
            HttpStatusCode.UnprocessableEntity,
            (await Post("Orders", $$"""{ "lines": [{{Line("HOS6", 2)}}] }""", ("Idempotency-Key", "case"))).Status
        );
    }

    [Fact]
    public async Task An_order_is_placed_for_the_total_that_was_expected_or_not_at_all()
    {
        await Publish("HOS7", """, "variants": [ { "values": {}, "stock": 3 } ]""");
        string Order(int quantity, string total) =>
            $$"""
                { "lines": [{{Line(
                    "HOS7",
                    quantity
                )}}], "destination": "IE", "expectedTotal": "{{total}}", "buyer": { "name": "Orla",
                  "email": "o@example.org", "address": "1 Lane" } }
                """;
        var (status, body) = await Post("orders", Order(1, "1.00"));
        Assert.Equal(HttpStatusCode.Conflict, status);
        var total = JsonNode.Parse(body)!["basket"]!["total"]!.ToString();
        Assert.Equal("26.50", total);
        // Shortages are told first.
        Assert.NotNull(JsonNode.Parse((await Post("orders", Order(9, "1.00"))).Body)!["shortages"]);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await Post("orders", Order(1, "1.001"))).Status);
        var placed = JsonNode.Parse((await Post("orders", Order(1, total))).Body)!;
        var cancelled = await Post($"orders/{placed["number"]}/cancel", """{ "reason": "Changed" }""");
        Assert.Equal("cancelled", JsonNode.Parse(cancelled.Body)!["state"]!.ToString());
    }

    [GeneratedRegex("""name="__RequestVerificationToken" value="([^"]+)""")]
    private static partial Regex Token();
}
