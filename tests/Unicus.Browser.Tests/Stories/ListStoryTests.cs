using System.Net;
using System.Text.Json.Nodes;
using OpenQA.Selenium;

namespace Unicus.Browser.Tests;

/// <summary>The shop's lists: pages, orders, filters and searches, with and without script, and by keyboard.</summary>
[Collection("app")]
public sealed class ListStoryTests(App app) : IDisposable
{
    private readonly HttpClient _client = app.Client();

    public void Dispose() => _client.Dispose();

    /// <summary>Thirty wooden spoons in two sizes of the library, of which all small ones but one are sold out.</summary>
    private async Task Spoons()
    {
        if ((await _client.GetAsync("products/SPOON1")).StatusCode == HttpStatusCode.OK)
            return;
        for (var i = 1; i <= 30; i++)
        {
            var spoon = $$"""
                { "format": "unicus-product/1", "code": "SPOON{{i}}", "name": "Spoon {{i:00}}", "withoutSets": ["gift-wrapping"],
                  "categories": ["Tools"], "base": { "price": "{{i
                    + 1}}.00" }, "shelf": { "listed": true, "searchable": true },
                  "options": [ { "key": "size", "label": "Size", "role": "variant", "library": "size", "values": [
                    { "key": "s", "label": "S" }, { "key": "l", "label": "L" } ] } ],
                  "variants": [ { "values": { "size": "l" }, "stock": {{i % 2}} },
                    { "values": { "size": "s" }, "stock": {{(i == 2 ? 1 : 0)}} } ] }
                """;
            (await _client.PutAsync($"products/SPOON{i}", App.Json(spoon))).EnsureSuccessStatusCode();
            (await _client.PostAsync($"products/SPOON{i}/publish", App.Json(""))).EnsureSuccessStatusCode();
        }
    }

    private static int Shown(Steps s) => Convert.ToInt32(s.Run("return document.querySelectorAll('.shelf > li').length"));

    private static void Choose(Steps s, string name, string value) =>
        s.Run(
            """
            const box = document.querySelector(`select[name="${arguments[0]}"]:has(option[value="${arguments[1]}"])`);
            box.value = arguments[1]; box.dispatchEvent(new Event('change', { bubbles: true }));
            """,
            name,
            value
        );

    [Theory]
    [InlineData(1280)]
    [InlineData(390)]
    public async Task A_list_has_pages_an_order_and_filters_with_counts(int width)
    {
        await Spoons();
        using var s = new Steps(App.Browser(width), app.Url);
        s.Open("/?q=spoon");
        s.See("30 products, page 1 of 2");
        Assert.Equal(24, Shown(s));
        s.Click("a[rel=next]");
        s.See("page 2 of 2");
        Assert.Equal(6, Shown(s));
        Choose(s, "sort", "price");
        s.Until("the cheapest stands first", () => s.Text(".shelf li:first-child .fig") == "€2.00");
        Choose(s, "pick", "size=l");
        s.See("15 products");
        Assert.Empty(s.SeriousFindings());
        s.Click("a[aria-label='Take off the filter L']");
        s.See("30 products");
        Assert.Equal(0L, s.Run("return document.documentElement.scrollWidth - document.documentElement.clientWidth"));
    }

    [Fact]
    public async Task A_list_works_without_script()
    {
        await Spoons();
        using var s = new Steps(App.Browser(script: false), app.Url);
        s.Open("/?q=spoon&sort=price");
        s.Click("a[rel=next]");
        s.See("page 2 of 2");
        s.Click("label:has(input[name=stock])");
        s.Click("#list-form button");
        s.See("16 products");
        s.See("can be had now");
    }

    [Fact]
    public async Task The_keyboard_alone_finds_in_spite_of_a_slip_and_goes_on()
    {
        await Spoons();
        using var s = new Steps(App.Browser(), app.Url);
        s.Open("/");
        s.Press(Keys.Tab + Keys.Tab + Keys.Tab);
        s.Press("spoom" + Keys.Enter);
        s.See("this is “spoon”");
        s.Run("document.querySelector('a[rel=next]').focus()");
        s.Press(Keys.Enter);
        s.See("page 2 of 2");
    }

    [Theory]
    [InlineData("/?p=0")]
    [InlineData("/?p=1000000000000")]
    [InlineData("/?p=x&sort=nosuch&stock=perhaps")]
    [InlineData("/?pick=nosuch%3Dx&pick=size%3Dgone&pick=%3D&pick=size")]
    [InlineData("/?category=no-such-category")]
    public async Task Bad_addresses_of_lists_lead_to_lists(string path)
    {
        using var reply = await _client.GetAsync(app.Url + path);
        Assert.Equal(HttpStatusCode.OK, reply.StatusCode);
        Assert.Contains("id=\"list-count\"", await reply.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_search_of_ten_thousand_characters_finds_nothing_and_says_so()
    {
        using var reply = await _client.GetAsync($"{app.Url}/?q={new string('z', 10_000)}");
        Assert.Equal(HttpStatusCode.OK, reply.StatusCode);
        Assert.Contains("Nothing is called", await reply.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    /// <summary>“In the demo a medium hive of pine is from 177.36, not 159.36”: its boards are needed, and what they add is in
    /// it.</summary>
    [Fact]
    public async Task A_price_that_cannot_be_bought_is_never_shown()
    {
        var page = await _client.GetStringAsync($"{app.Url}/p/garden-hive?o-depth=medium&o-timber=pine");
        Assert.Contains("from &#x20AC;177.36", page, StringComparison.Ordinal);
        Assert.DoesNotContain("159.36<", page, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Settings_are_read_and_replaced_over_HTTP()
    {
        using var before = await _client.GetAsync("shop");
        var shop = JsonNode.Parse(await before.Content.ReadAsStringAsync())!.AsObject();
        Assert.Equal("EUR", shop["currency"]!.GetValue<string>());
        var changed = shop.DeepClone().AsObject();
        changed["destinations"]!
            .AsArray()
            .Add(
                JsonNode.Parse(
                    """
                    { "code": "NL", "label": "Netherlands", "rates": { "standard": "21" }, "services": [
                      { "key": "parcel", "label": "Parcel", "taxClass": "standard", "rates": [
                        { "weightUpToGrams": 500, "amount": "4.00" },
                        { "weightUpToGrams": 500, "fromBasket": "5.00", "amount": "0.00" } ] } ] }
                    """
                )
            );
        using var request = new HttpRequestMessage(HttpMethod.Put, "shop") { Content = App.Json(changed.ToJsonString()) };
        request.Headers.TryAddWithoutValidation("If-Match", before.Headers.ETag!.ToString());
        using var put = await _client.SendAsync(request);
        Assert.Equal(HttpStatusCode.OK, put.StatusCode);
        var now = JsonNode.Parse(await put.Content.ReadAsStringAsync())!;
        Assert.Equal(changed.ToJsonString(), now.ToJsonString());
        // The same tag again is stale.
        using var stale = new HttpRequestMessage(HttpMethod.Put, "shop") { Content = App.Json(shop.ToJsonString()) };
        stale.Headers.TryAddWithoutValidation("If-Match", before.Headers.ETag!.ToString());
        Assert.Equal(HttpStatusCode.PreconditionFailed, (await _client.SendAsync(stale)).StatusCode);
        foreach (
            var bad in new[]
            {
                """{"taxClasses": []}""",
                """{"destinations": [{"code": "IE"}, {"code": "ie"}]}""",
                """{"destinations": [{"code": "IE", "rates": {"nosuch": "1"}}]}""",
                """{"destinations": [{"code": "IE", "rates": {"standard": "101"}}]}""",
                """{"timeZone": "Mars/Olympus"}""",
                """{"floor": {"margin": "100"}}""",
                """{"colour": "red"}""",
            }
        )
            Assert.Equal((HttpStatusCode)422, (await _client.PutAsync("shop", App.Json(bad))).StatusCode);
        Assert.Equal(HttpStatusCode.Conflict, (await _client.PutAsync("shop", App.Json("""{"currency": "BHD"}"""))).StatusCode);
        (await _client.PutAsync("shop", App.Json(shop.ToJsonString()))).EnsureSuccessStatusCode();
    }
}
