using OpenQA.Selenium;

namespace Unicus.Browser.Tests;

/// <summary>A merchant's day: what used to be a stumble in it.</summary>
[Collection("app")]
public sealed partial class DayTests(App app) : IDisposable
{
    private readonly Steps _s = new(App.Browser(), app.Url);
    private readonly HttpClient _client = app.Client();
    private readonly string _folder = Directory.CreateTempSubdirectory("unicus-day").FullName;

    public void Dispose()
    {
        _s.Dispose();
        _client.Dispose();
        Directory.Delete(_folder, recursive: true);
    }

    private async Task Put(string code, string name, string more = "", bool publish = true)
    {
        using var put = await _client.PutAsync(
            $"products/{code}",
            App.Json(
                $$"""
                { "format": "unicus-product/1", "code": "{{code}}", "name": "{{name}}", "base": { "price": "12.00", "cost": "4.00" },
                  "selling": { "counted": {{(
                    more.Contains("stock", StringComparison.Ordinal) ? "true" : "false"
                )}} }{{more}} }
                """
            )
        );
        Assert.True(put.IsSuccessStatusCode, await put.Content.ReadAsStringAsync());
        if (publish)
            (await _client.PostAsync($"products/{code}/publish", null)).EnsureSuccessStatusCode();
    }

    private void Focus(string css) =>
        _s.Until($"the focus is in {css}", () => (bool)_s.Run("return document.activeElement.matches(arguments[0])", css)!);

    private void Choose(string css, string value) =>
        _s.Run(
            """
            const box = document.querySelector(arguments[0]);
            box.value = arguments[1];
            box.dispatchEvent(new Event('change', { bubbles: true }));
            """,
            css,
            value
        );

    [Fact]
    public async Task An_empty_shop_is_opened_on_one_page_with_the_code_that_was_printed()
    {
        await using var database = await app.EmptyDatabase();
        var code = await app.Found(database);
        var url = await app.Serve(("UNICUS_DATABASE", database.Connection));
        using var s = new Steps(App.Browser(), url);
        s.Open("/office/range");
        s.See("Your new shop");
        Assert.Empty(s.SeriousFindings());
        void Fill(string code)
        {
            foreach (
                var (name, text) in new[]
                {
                    ("Shop", "Oak & Ash"),
                    ("Currency", "GBP"),
                    ("TimeZone", "Europe/London"),
                    ("Destination", "GB"),
                    ("DestinationName", "Britain"),
                    ("TaxRate", "20"),
                    ("PersonName", "Una"),
                    ("Email", "una@example.org"),
                    ("password", "seven plain oaks grow"),
                    ("Code", code),
                }
            )
                s.Type($"[name={name}]", text);
            s.Click("form .btn.do");
        }
        Fill("WRONG-WRONG-WRONG");
        s.See("That is not the code that ./start printed last");
        Assert.Equal("Oak & Ash", s.Attribute("[name=Shop]", "value"));
        Fill(code);
        s.Until("in the range", () => s.Url.EndsWith("/office/range", StringComparison.Ordinal));
        s.See("Nothing to sell yet");
        Assert.Equal("Una", s.Text("nav.person summary"));
        s.Click("details.new-product summary");
        s.Until("the cursor is in the name", () => (bool)s.Run("return document.activeElement.id === 'new-name'")!);
        s.Send("#new-name", "Oak bowl" + Keys.Enter);
        s.Type("#f-sku", "BOWL");
        s.Type("#f-gtin", "6291041500213");
        s.Until("SKU and code are kept", () => s.Text(".spine .saved").StartsWith("Saved", StringComparison.Ordinal));
        s.Open("/office/settings");
        s.Type("[name=Currency]", "USD");
        s.Type("[name='Destinations[0].Code']", "");
        s.Click(".form .do");
        s.See("Saved.");
        s.See("No tax is reckoned and nothing is charged for delivery until at least one stands here");
        s.Open("/office/range");
        s.Click(".list tbody a");
        Assert.Equal("BOWL", s.Attribute("#f-sku", "value"));
        s.Click(".spine a[href$=checks]");
        s.See("No tax is reckoned: the shop does not say yet");
        s.Open("/office/first");
        s.Until("there is no second first page", () => s.Url.Contains("/office/range") || s.Url.Contains("/office/sign-in"));
        app.Stop(url);
    }

    [Fact]
    public async Task A_product_is_put_away_and_brought_back_and_a_draft_is_deleted()
    {
        await Put("DAYA", "Day apron");
        await Put("DAYB", "Day draft", publish: false);
        _s.SignIn();
        _s.Open("/office/products/DAYA/facts");
        _s.Click("#put-away");
        _s.See("Put away by Maren");
        _s.Open("/p/day-apron");
        _s.See("There is nothing here");
        Focus("input[name=q]");
        _s.Open("/office/range?q=day+apron");
        _s.See("No product fits");
        _s.Open("/office/range?show=away");
        _s.See("Day apron");
        Assert.Empty(_s.SeriousFindings());
        _s.Open("/office/products/DAYA/facts");
        _s.Click("#bring-back");
        _s.See("Edition 1 on sale");
        _s.Open("/p/day-apron");
        _s.See("€12.00");
        _s.Open("/office/products/DAYB/facts");
        _s.Click("details.new-product:has(#delete-draft) summary");
        _s.Click("#delete-draft");
        _s.Until("in the range", () => _s.Url.EndsWith("/office/range", StringComparison.Ordinal));
        using var gone = await _client.GetAsync("products/DAYB");
        Assert.Equal(System.Net.HttpStatusCode.NotFound, gone.StatusCode);
    }

    [Fact]
    public async Task Off_for_now_acts_at_once_and_single_changes_are_taken_back()
    {
        await Put("DAYC", "Day cup", """, "variants": [ { "values": {}, "stock": 5 } ]""");
        _s.SignIn();
        _s.Open("/office/products/DAYC/facts");
        _s.Type("#f-summary", "Not yet for everybody");
        _s.See("1 change not published");
        _s.Open("/office/products/DAYC/stock");
        Choose("#f-offForNow", "yes");
        _s.See("Edition 2 on sale");
        _s.See("1 change not published");
        _s.Open("/p/day-cup");
        _s.Until("it cannot be bought", () => _s.Has("#buy-now[disabled]"));
        Assert.DoesNotContain("Not yet for everybody", _s.Text("body"), StringComparison.Ordinal);
        _s.Open("/office/products/DAYC/facts");
        _s.Click("details.changes summary");
        _s.See("Not yet for everybody");
        Assert.Empty(_s.SeriousFindings());
        _s.Click("[aria-label='Take back: summary']");
        _s.Until("it is taken back", () => _s.Attribute("#f-summary", "value") == "");
        _s.Click("details.changes summary");
        _s.See("Nothing differs from what is on sale");
    }

    [Fact]
    public async Task A_flat_list_makes_products_behind_a_preview()
    {
        var file = Path.Combine(_folder, "list.csv");
        await File.WriteAllTextAsync(
            file,
            """
            product,option: Size,option: Cloth,categories,price,on hand
            Day scarf,Long,Wool,Day wear > Scarves,20,3
            Day scarf,Short,Wool,,18,4
            """
        );
        _s.SignIn();
        _s.Open("/office/sheet");
        _s.Browser.FindElement(By.Id("sheet-file")).SendKeys(file);
        _s.Click("#read-sheet");
        _s.See("2 variants of Size (2), Cloth (1)");
        Assert.Empty(_s.SeriousFindings());
        _s.Click("#apply-sheet");
        _s.See("1 made");
        _s.Click("#sheet-made a");
        _s.See("Draft, not on sale yet");
        Assert.Equal("Scarves", _s.Attribute("#f-categories", "value"));
        _s.Open("/office/categories");
        _s.See("Day wear");
    }

    [Fact]
    public async Task Stock_of_what_is_shown_is_added_with_a_reason()
    {
        await Put(
            "DAYS",
            "Day sock",
            """
            , "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [ { "key": "s", "label": "S" },
              { "key": "m", "label": "M" }, { "key": "l", "label": "L" } ] } ]
            """
        );
        _s.SignIn();
        _s.Open("/office/products/DAYS/matrix?view=rows");
        _s.Click("[data-pick='size=s']");
        _s.Find("#change-form");
        _s.Click("[data-pick='size=m']");
        _s.See("2 ");
        Choose("#change-form [name=of]", "stock");
        Choose("#operation", "Add");
        _s.Send("#amount", "7");
        _s.Until("old and new are shown", () => _s.Text("#change-rows").Contains('7', StringComparison.Ordinal));
        _s.Send("#change-form [name=reason]", "delivery note 12");
        _s.Click("#apply-bulk");
        _s.See("Changed the on hand of 2 variants");
        _s.Open("/office/products/DAYS/stock");
        _s.See("14 on hand");
        _s.Click("table.levels a.code");
        _s.See("delivery note 12");
    }

    [Fact]
    public async Task The_basket_asks_where_it_goes_before_it_charges_delivery()
    {
        await Put("DAYD", "Day dish");
        _s.Open("/p/day-dish");
        _s.Click("#buy-now");
        _s.See("once you say where");
        Assert.DoesNotContain("Total", _s.Text(".basket tfoot"), StringComparison.Ordinal);
        Assert.Contains("€12.00", _s.Text(".basket tfoot"), StringComparison.Ordinal);
        Assert.Empty(_s.SeriousFindings());
        Choose("#where select", "DE");
        _s.See("Delivery to");
        _s.Open("/checkout");
        Assert.Equal("DE", _s.Attribute("[name=destination]", "value"));
        _s.Click("#place");
        Focus("[name=buyer]");
        _s.See("We need a name on the parcel");
    }

    [Fact]
    public async Task Values_may_have_their_surcharge_behind_them_and_a_colour_by_its_name()
    {
        await Put("DAYV", "Day vase", publish: false);
        _s.SignIn();
        _s.Open("/office/products/DAYV/options");
        _s.Send("#option-label", "Glaze" + Keys.Tab);
        _s.Press("Ochre +3, White");
        _s.Press(Keys.Enter);
        _s.Until("the surcharge is read", () => _s.Has("[aria-label='Surcharge of Ochre'][value='3.00']"));
        _s.Click("[aria-label='Use the colour of the name of Ochre']");
        _s.Until("the colour is taken", () => _s.Has("[aria-label='Swatch of Ochre'][value='#cc7722']"));
        _s.Type("[aria-label='Swatch of White']", "ivory");
        _s.Until("another is typed by its name", () => _s.Has("[aria-label='Swatch of White'][value='#fffff0']"));
        _s.Send("[id^=more-]", "12,5 cm, 15 cm" + Keys.Enter);
        _s.See("Is 12,5 one value?");
    }

    [Fact]
    public async Task One_bad_picture_does_not_refuse_the_others_and_one_named_like_a_value_shows_it()
    {
        await Put(
            "DAYP",
            "Day plate",
            """
            , "options": [ { "key": "glaze", "label": "Glaze", "role": "variant", "values": [ { "key": "sea", "label": "Sea green" },
              { "key": "sand", "label": "Sand" } ] } ]
            """,
            publish: false
        );
        var good = Path.Combine(_folder, "plate_sea-green.png");
        var bad = Path.Combine(_folder, "plate_sand.png");
        await File.WriteAllBytesAsync(good, Convert.FromBase64String(Dot));
        await File.WriteAllTextAsync(bad, "no picture");
        _s.SignIn();
        _s.Open("/office/products/DAYP/facts");
        _s.Browser.FindElement(By.CssSelector(".upload input[type=file]")).SendKeys($"{good}\n{bad}");
        _s.See("1 named like a value shows it");
        Assert.Equal("glaze=sea", _s.Attribute(".pictures-list [name=shows]", "value"));
        Assert.Equal(1, _s.Count(".pictures-list > li"));
    }

    [Fact]
    public async Task A_picture_of_an_extras_value_leads_once_it_is_chosen()
    {
        await Put(
            "DAYX",
            "Day box",
            """
            , "options": [ { "key": "bow", "label": "Bow", "role": "extra", "ask": "one", "values": [
              { "key": "none", "label": "Plain" }, { "key": "silk", "label": "Silk bow" } ] } ]
            """,
            publish: false
        );
        foreach (var (name, dot) in new[] { ("box.png", Dot), ("box_silk-bow.png", OtherDot) })
            await File.WriteAllBytesAsync(Path.Combine(_folder, name), Convert.FromBase64String(dot));
        _s.SignIn();
        _s.Open("/office/products/DAYX/facts");
        _s.Browser.FindElement(By.CssSelector(".upload input[type=file]"))
            .SendKeys($"{Path.Combine(_folder, "box.png")}\n{Path.Combine(_folder, "box_silk-bow.png")}");
        _s.See("1 named like a value shows it");
        Assert.Equal("bow=silk", _s.Attribute(".pictures-list li:last-child [name=shows]", "value"));
        _s.Open("/office/products/DAYX/facts");
        _s.Publish();
        _s.Open("/p/day-box");
        var plain = _s.Attribute(".lead-picture", "src");
        _s.Click("label:has(#o-bow-silk)");
        _s.Until("the bow leads", () => _s.Attribute(".lead-picture", "src") != plain);
        _s.Until("price and stock are announced", () =>
            _s.Run("return document.getElementById('told').textContent") is string { Length: > 0 }
        );
        Assert.Empty(_s.SeriousFindings());
    }

    [Fact]
    public async Task Removing_a_value_says_what_is_allocated_and_where_its_units_go()
    {
        await Put(
            "DAYR",
            "Day rope",
            """
            , "options": [ { "key": "length", "label": "Length", "role": "variant", "values": [ { "key": "s", "label": "Short" },
              { "key": "m", "label": "Middle" }, { "key": "l", "label": "Long" } ] } ],
              "variants": [ { "values": { "length": "s" }, "stock": 6 }, { "values": { "length": "m" }, "stock": 4 },
              { "values": { "length": "l" }, "stock": 2 } ]
            """
        );
        using var order = await _client.PostAsync(
            "orders",
            App.Json("""{ "lines": [ { "sku": "DAYR-M", "quantity": 1 } ], "buyer": { "name": "Ada", "email": "ada@example.org" } }""")
        );
        var number = System.Text.Json.JsonDocument.Parse(await order.Content.ReadAsStringAsync()).RootElement.GetProperty("number");
        _s.SignIn();
        _s.Open("/office/products/DAYR/options");
        _s.Click("[aria-label='Remove Middle']");
        _s.See("1 to retire");
        Assert.Contains($"{number}", _s.Text(".difference"), StringComparison.Ordinal);
        Assert.Empty(_s.SeriousFindings());
        Choose("[name='move-length=m']", "length=l");
        _s.Click("#apply-difference");
        _s.Until("it is applied", () => !_s.Has("#apply-difference"));
        _s.Open("/office/products/DAYR/stock");
        // All that was on hand is there; what the order allocates stays with the retired variant.
        _s.See("12 on hand");
    }
}
