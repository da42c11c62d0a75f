using System.Globalization;
using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using OpenQA.Selenium;

namespace Unicus.Browser.Tests;

/// <summary>A merchant's and a shopper's days with prices: planned, running and over; the calendar by keys; a product's own bands; the
/// lowest margin; accounts; how it is sent.</summary>
[Collection("app")]
public sealed class PriceDayTests(App app) : IDisposable
{
    private readonly HttpClient _client = app.Client();

    public void Dispose() => _client.Dispose();

    /// <summary>A table of charges is typed, with what cannot be read said beside it; the shop charges by it.</summary>
    [Fact]
    public async Task Ways_of_delivery_and_their_tables_are_typed()
    {
        using var s = new Steps(App.Browser(), app.Url);
        s.SignIn();
        s.Open("/office/settings");
        s.Click("a[href^='/office/settings/delivery/']");
        var last = s.Count(".way") - 1;
        s.Type($"[name='Ways[{last}].Label']", "By barge");
        s.Type($"[name='Ways[{last}].Rates[0].Kilos']", "2,5");
        s.Click("#delivery .btn.do");
        s.See("needs its charge");
        s.Type($"[name='Ways[{last}].Rates[0].Charge']", "3,20");
        s.Type($"[name='Ways[{last}].Rates[1].Charge']", "9");
        s.Click("#delivery .btn.do");
        s.See("Saved");
        Assert.Equal("2.5", s.Attribute($"[name='Ways[{last}].Rates[0].Kilos']", "value"));
        Assert.Equal("", s.SeriousFindings());
        var shop = (await _client.GetFromJsonAsync<JsonNode>("shop"))!;
        var way = shop["destinations"]!.AsArray()[0]!["services"]!.AsArray()[^1]!;
        Assert.Equal("By barge", (string)way["label"]!);
        Assert.Equal((2500, "3.20"), ((int)way["rates"]![0]!["weightUpToGrams"]!, (string)way["rates"]![0]!["amount"]!));
        Assert.Equal("9.00", (string)way["rates"]![1]!["amount"]!);
        s.Type($"[name='Ways[{last}].Label']", "");
        s.Click("#delivery .btn.do");
        s.Until("it is gone", () => s.Attribute($"[name='Ways[{last}].Label']", "value")!.Length == 0);
    }

    private async Task Publish(string code, string name, string more = "", string variants = """{ "values": {}, "stock": 500 }""")
    {
        var product = $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "{{name}}", "withoutSets": ["gift-wrapping"], {{more}}
              "base": { "price": "40.00", "cost": "12.00" }, "variants": [ {{variants}} ] }
            """;
        (await _client.PutAsync($"products/{code}", App.Json(product))).EnsureSuccessStatusCode();
        (await _client.PostAsync($"products/{code}/publish", App.Json(""))).EnsureSuccessStatusCode();
    }

    private async Task Rule(string key, string rule)
    {
        using var put = await _client.PutAsync($"price-rules/{key}", App.Json(rule));
        put.EnsureSuccessStatusCode();
    }

    private static string Day(int days) =>
        DateTimeOffset.UtcNow.AddDays(days).ToString("yyyy-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture);

    [Fact]
    public async Task A_planned_reduction_runs_and_ends_on_its_days_with_the_was_price_beside_it()
    {
        await Publish("RATTLE", "Rattle");
        await Rule(
            "rattle-days",
            $$"""
            { "key": "rattle-days", "name": "Rattle days", "scope": { "products": ["RATTLE"] },
              "effect": { "reduce": { "percent": "25" } }, "when": { "from": "{{Day(
                3
            )}}", "until": "{{Day(10)}}" } }
            """
        );
        var clock = Path.GetTempFileName();
        var later = await app.Serve(("UNICUS_SET_TIME", clock));
        using var s = new Steps(App.Browser(), later);
        async Task On(int day, string phase, string price)
        {
            await File.WriteAllTextAsync(clock, (day * 86_400).ToString(CultureInfo.InvariantCulture));
            s.Open("/p/rattle");
            s.Until($"it costs {price} on day {day}", () => s.Text(".buy-price").EndsWith(price, StringComparison.Ordinal));
            s.SignIn();
            s.Open("/office/pricing/rattle-days");
            Assert.True(s.Has($"tr.at .phase-{phase}"), $"It should be {phase} on day {day}.");
        }
        await On(0, "planned", "40.00");
        Assert.False(s.Has(".was-price"));
        await On(4, "running", "30.00");
        s.Open("/p/rattle");
        Assert.Contains("40.00", s.Text(".was-price"));
        Assert.Contains("Rattle days until", s.Text(".rule-badge"));
        await On(11, "over", "40.00");
        File.Delete(clock);
        using var gone = await _client.DeleteAsync("price-rules/rattle-days");
    }

    [Fact]
    public async Task The_ends_of_a_rule_are_moved_by_keys_and_moved_back()
    {
        await Rule(
            "pushed",
            $$"""
            { "key": "pushed", "name": "Pushed", "scope": { "products": ["SMK"] }, "effect": { "reduce": { "percent": "1" } },
              "when": { "from": "{{Day(20)}}", "until": "{{Day(30)}}" } }
            """
        );
        async Task<string> Until() =>
            System.Text.Json.Nodes.JsonNode.Parse(await _client.GetStringAsync("price-rules/pushed"))!["when"]![
                "until"
            ]!.GetValue<string>();
        var before = DateTimeOffset.Parse(await Until(), CultureInfo.InvariantCulture);
        using var s = new Steps(App.Browser(), app.Url);
        s.SignIn();
        s.Open("/office/pricing");
        const string grip = "[data-url*='/pushed?'][data-end=until]";
        s.Run($"document.querySelector(\"{grip}\").focus()");
        s.Press(Keys.ArrowRight + Keys.ArrowRight + Keys.Shift + Keys.ArrowRight);
        s.See("Pushed: until");
        Assert.Equal(9, Math.Round((DateTimeOffset.Parse(await Until(), CultureInfo.InvariantCulture) - before).TotalDays));
        s.Click("#moved button");
        s.Until("it is back", () => DateTimeOffset.Parse(Until().GetAwaiter().GetResult(), CultureInfo.InvariantCulture) == before);
        Assert.Empty(s.SeriousFindings());
        using var gone = await _client.DeleteAsync("price-rules/pushed");
    }

    [Theory]
    [InlineData(1280)]
    [InlineData(390)]
    public async Task A_product_gets_bands_of_its_own_that_act_once_it_is_published(int width)
    {
        var code = $"TAMB{width}";
        await Publish(code, $"Tambour {width}");
        using var s = new Steps(App.Browser(width), app.Url);
        s.SignIn();
        s.Open($"/office/products/{code}/prices?rule=new");
        Pick(s, "effect", "bands");
        s.Until("rows are asked for", () => s.Has("#rule-form [name=row-at]"));
        Cell(s, "row-at", 0, "5");
        Cell(s, "row-gets", 0, "35.00");
        Cell(s, "row-at", 1, "10");
        Cell(s, "row-gets", 1, "25 %");
        s.Until("the chart is drawn", () => s.Has(".quantity-chart .line-total"));
        Assert.Contains("cost more than 10", s.Text(".quantity-chart"));
        Pick(s, "name", "By the five");
        Assert.Empty(s.SeriousFindings());
        s.Click("#switch-on");
        s.Until("it stands in the list", () => s.Text(".reaching-rules").Contains("By the five", StringComparison.Ordinal));
        s.Open($"/p/tambour-{width}");
        Assert.False(s.Has(".next-step"));
        (await _client.PostAsync($"products/{code}/publish", App.Json(""))).EnsureSuccessStatusCode();
        s.Open($"/p/tambour-{width}?quantity=2");
        s.Until("the step is told", () => s.Has(".next-step"));
        Assert.Equal(0L, s.Run("return document.documentElement.scrollWidth - document.documentElement.clientWidth"));
        s.Open($"/office/products/{code}/prices?rule=by-the-five");
        s.Click("#rule-form button[formaction*=PriceOut]");
        s.Until("it is removed", () => !s.Has("tr.at"));
    }

    private static void AtRest(Steps s) =>
        s.Until("the rule is at rest", () =>
            s.Run("return !document.querySelector('.htmx-request, .htmx-swapping, .htmx-settling, .htmx-added')") is true
        );

    private static void Pick(Steps s, string name, string text) => Cell(s, name, 0, text);

    private static void Cell(Steps s, string name, int place, string text)
    {
        AtRest(s);
        s.Run(
            """
            const box = document.querySelectorAll(`#rule-form [name="${arguments[0]}"]`)[arguments[1]];
            box.value = arguments[2]; box.dispatchEvent(new Event('change', { bubbles: true }));
            """,
            name,
            place,
            text
        );
        AtRest(s);
    }

    [Fact]
    public void The_lowest_margin_is_proven_and_the_whole_range_is_tried()
    {
        using var s = new Steps(App.Browser(), app.Url);
        s.SignIn();
        // Proofs and trials go through the whole range, and show how far they have come.
        var whole = TimeSpan.FromSeconds(120);
        s.Open("/office/pricing");
        s.Until("the proof is shown", () => s.Has(".proven"), patience: whole);
        s.See("can be sold below");
        s.See("none falls below");
        s.Open("/office/pricing/new");
        Pick(s, "amount", "90");
        s.Until("prices at the floor are marked", () => s.Has("#try .dia"));
        s.Click("#try-whole");
        s.Until("every price is tried", () => s.Text("#try-all").Contains("are held by the floor"), patience: whole);
        Assert.Contains("Hives", s.Text("#try-all"));
        s.Click("#prove-rule");
        s.Until("the proof with it is shown", () => s.Has("#try-proof .proven"), patience: whole);
        Assert.Empty(s.SeriousFindings());
    }

    [Fact]
    public async Task Typed_prices_are_read_back_and_that_is_undone()
    {
        string Variant(int size, string cloth)
        {
            var price = 20 + 3 * size + (cloth == "linen" ? 7 : 0);
            return $$"""{ "values": { "size": "s{{size}}", "cloth": "{{cloth}}" }, "price": "{{price}}.00" }""";
        }
        string Value(string key) => $$"""{ "key": "{{key}}", "label": "{{key}}" }""";
        var options = $$"""
            "options": [
              { "key": "size", "label": "Size", "role": "variant", "values": [ {{string.Join(
                ", ",
                new[] { "s0", "s1", "s2", "s3" }.Select(Value)
            )}} ] },
              { "key": "cloth", "label": "Cloth", "role": "variant", "values": [ {{Value("cotton")}}, {{Value("linen")}} ] } ],
            """;
        var variants = Enumerable.Range(0, 4).SelectMany(s => new[] { Variant(s, "cotton"), Variant(s, "linen") });
        await Publish("APRON", "Apron", options, string.Join(", ", variants));
        using var s = new Steps(App.Browser(), app.Url);
        s.SignIn();
        s.Open("/office/products/APRON/matrix?read=back");
        s.See("8 prices of their own become a base, 4 surcharges and 0 exceptions");
        Assert.Empty(s.SeriousFindings());
        s.Click("#read-back .btn.do");
        s.Until("they are inherited", () => s.Has(".matrix") && !s.Has("#read-back"));
        s.Open("/office/products/APRON/matrix?read=back");
        s.See("stand for these prices already");
        s.Open("/office/products/APRON/options");
        s.Until("the surcharge stands there", () => s.Has("input[value='7.00']"));
    }

    [Fact]
    public async Task Prices_of_a_time_are_a_column_of_the_matrix()
    {
        const string options = """
            "options": [ { "key": "size", "label": "Size", "role": "variant",
              "values": [ { "key": "s", "label": "S" }, { "key": "l", "label": "L" } ] } ],
            """;
        await Publish("SASH", "Sash", options, """{ "values": { "size": "s" }, "stock": 9 }, { "values": { "size": "l" }, "stock": 9 }""");
        using var s = new Steps(App.Browser(), app.Url);
        s.SignIn();
        s.Open("/office/products/SASH/matrix");
        s.Click(".dated > summary");
        s.Send("#dated-name", "Sash days");
        s.Send(".dated [name=from]", "2020-01-01");
        s.Click(".dated button");
        s.Until("the column is there", () => s.Text(".matrix thead").Contains("Sash days", StringComparison.Ordinal));
        const string cell = "input[data-figure='dated-sash-days'][data-values='size=l']";
        s.Send(cell, "31" + Keys.Enter);
        s.Until("it is saved", () => s.Attribute(cell, "value") == "31.00");
        (await _client.PostAsync("products/SASH/publish", App.Json(""))).EnsureSuccessStatusCode();
        s.Open("/p/sash?o-size=l");
        s.Until("the price of the time holds", () => s.Text(".buy-price").EndsWith("31.00", StringComparison.Ordinal));
        s.Open("/p/sash?o-size=s");
        s.Until("the other is as it was", () => s.Text(".buy-price").EndsWith("40.00", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task A_customer_keeps_an_account_and_orders_the_same_again(bool script)
    {
        await Publish("LYRE", "Lyre");
        var email = $"ada-{script}@example.org";
        using var s = new Steps(App.Browser(script: script), app.Url);
        s.Open("/account");
        void Fill(string form, string name, string text) => s.Send($"{form} [name={name}]", text);
        Fill("#sign-up", "name", "Ada");
        Fill("#sign-up", "email", email);
        s.Click("#sign-up button");
        s.See($"A message is on its way to {email}");
        using (var office = new Steps(App.Browser(), app.Url))
        {
            office.SignIn();
            s.Open(office.LinkTo(email));
        }
        s.Send("[name=password]", "three plain words" + Keys.Enter);
        s.See("Filled in at the checkout");
        Fill("#details", "address", "4 Comb Street");
        s.Click("#details button");
        s.Open("/p/lyre");
        s.Click("#buy-now");
        s.See("To the checkout");
        s.Open("/checkout");
        Assert.Equal("Ada", s.Attribute("[name=buyer]", "value"));
        Assert.Contains("4 Comb Street", s.Attribute("[name=address]", "value"));
        s.Until("ways of delivery are offered", () => s.Has("[name=service][value=courier]"));
        if (script)
        {
            s.Run("document.querySelector('[name=service][value=courier]').click()");
            s.Until("the courier is charged", () => s.Text("#checkout-totals tfoot").Contains("11.50", StringComparison.Ordinal));
            Assert.Empty(s.SeriousFindings());
        }
        s.Click("#place");
        s.See("Your order is");
        s.Open("/account");
        s.Click("[aria-label^='The same again']");
        s.See("Basket");
        Assert.Equal("1", s.Attribute("[name=quantities]", "value"));
        s.Open("/account");
        s.Click("#sign-out");
        s.Until("signed out, at the start page", () => new Uri(s.Url).AbsolutePath == "/");
        s.Open("/account");
        s.See("Nobody needs an account to buy");
        Fill("#sign-in", "email", email);
        Fill("#sign-in", "password", "wrong letters");
        s.Click("#sign-in button");
        s.See("do not belong together");
    }

    [Fact]
    public async Task Every_page_of_the_office_is_closed_to_strangers_and_an_order_has_a_customs_sheet()
    {
        await Publish("HARP", "Harp");
        using var order = await _client.PostAsync(
            "orders",
            App.Json(
                """
                { "lines": [ { "sku": "HARP", "quantity": 2 } ], "destination": "DE",
                  "buyer": { "name": "Orla", "email": "o@example.org" } }
                """
            )
        );
        order.EnsureSuccessStatusCode();
        var number = System.Text.Json.Nodes.JsonNode.Parse(await order.Content.ReadAsStringAsync())!["number"]!.ToString();
        using var stranger = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false }) { BaseAddress = new Uri(app.Url) };
        string[] places =
        [
            "range",
            "options",
            "extras",
            "pricing",
            "pricing/new",
            "pricing/groups",
            "stock",
            "orders",
            $"orders/{number}",
            $"orders/{number}/customs",
            "outbox",
            "settings",
            "products/HARP/prices",
            "products/HARP/proof",
        ];
        foreach (var place in places)
        {
            using var reply = await stranger.GetAsync($"/office/{place}");
            Assert.True(reply.StatusCode is HttpStatusCode.Redirect or HttpStatusCode.NotFound, $"{place} is open: {reply.StatusCode}");
            if (reply.StatusCode == HttpStatusCode.Redirect)
                Assert.Contains("/office/sign-in", reply.Headers.Location!.ToString());
        }
        using var s = new Steps(App.Browser(390), app.Url);
        s.SignIn();
        s.Open($"/office/orders/{number}/customs");
        s.See("80.00");
        s.See("Some goods had no code");
        Assert.Empty(s.SeriousFindings());
    }
}
