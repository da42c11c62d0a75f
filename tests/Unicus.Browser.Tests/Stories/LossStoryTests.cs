using System.Net;
using OpenQA.Selenium;
using OpenQA.Selenium.Interactions;

namespace Unicus.Browser.Tests;

/// <summary>Nothing typed is lost and nothing is charged that was not shown: what happens when the world does not wait.</summary>
[Collection("app")]
public class LossStoryTests(App app)
{
    private const string Price = "input.cell[data-figure=price]";

    private Steps Merchant()
    {
        var steps = new Steps(App.Browser(), app.Url);
        steps.SignIn();
        return steps;
    }

    /// <summary>A published product with one variant, or as said.</summary>
    private async Task<string> Product(string code, string more = """, "variants": [ { "values": {}, "stock": 50 } ]""")
    {
        using var client = app.Client();
        var json = $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "Story {{code}}", "withoutSets": ["gift-wrapping"],
              "base": { "price": "20.00" }{{more}} }
            """;
        (await client.PutAsync($"products/{code}", App.Json(json))).EnsureSuccessStatusCode();
        (await client.PostAsync($"products/{code}/publish", null)).EnsureSuccessStatusCode();
        return $"/p/story-{code.ToLowerInvariant()}";
    }

    private async Task Reprice(string code, string price)
    {
        using var client = app.Client();
        var json = $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "Story {{code}}", "withoutSets": ["gift-wrapping"],
              "base": { "price": "{{price}}" } }
            """;
        (await client.PutAsync($"products/{code}", App.Json(json))).EnsureSuccessStatusCode();
        (await client.PostAsync($"products/{code}/publish", null)).EnsureSuccessStatusCode();
    }

    private static void SignOutElsewhere(Steps s) => s.Browser.Manage().Cookies.DeleteCookieNamed("unicus-person");

    private static void TypeInCell(Steps s, string css, string text)
    {
        s.Click(css);
        s.Press(Keys.Control + "a");
        s.Press(text + Keys.Enter);
    }

    private static string Value(Steps s, string css) => s.Attribute(css, "value")!;

    [Fact]
    public async Task A_sign_in_that_ends_in_the_middle_of_the_work_loses_nothing()
    {
        await Product("LOS1");
        using var s = Merchant();
        s.Open("/office/products/LOS1/stock");
        SignOutElsewhere(s);
        TypeInCell(s, "input[data-figure=stock]", "61");
        s.Until("it says that one is signed out", () => s.Text("#trouble").Contains("You are signed out"));
        Assert.Equal("61", Value(s, "input[data-figure=stock]"));
        s.Find("#beside-demo");
        Assert.Equal("", s.SeriousFindings());
        s.Click("#beside-demo");
        s.Until("it is saved afterwards", () => s.Text("[data-out=available]") == "61" && !s.Has("#trouble p"));

        // A field, which htmx sends, and with a password that is wrong first.
        s.Open("/office/products/LOS1/facts");
        SignOutElsewhere(s);
        s.Type("#f-summary", "Kept all the same.");
        s.Send(".sign-beside [name=email]", "maren@thistle-and-skep.example");
        s.Send(".sign-beside [name=password]", "wrong" + Keys.Enter);
        s.Until("the password is wrong", () => s.Text("#trouble").Contains("do not belong together"));
        Assert.Equal("Kept all the same.", Value(s, "#f-summary"));
        s.Browser.FindElement(By.CssSelector(".sign-beside [name=password]")).Clear();
        s.Send(".sign-beside [name=password]", "Skep-and-thistle-1" + Keys.Enter);
        s.Until("it is saved", () => s.Has(".f-summary [name=was][value='Kept all the same.']"));

        // A form that leads to another page.
        s.Open("/office/stock/LOS1");
        SignOutElsewhere(s);
        s.Send("#quantity", "4");
        s.Send("[name=reason]", "found in the loft");
        s.Click("main .btn.do");
        s.Click("#beside-demo");
        s.Until("it is written", () => s.Text(".ledger").Contains("found in the loft"));
    }

    [Fact]
    public async Task A_database_that_stops_and_comes_back_loses_nothing()
    {
        await Product("LOS2");
        using var s = Merchant();
        s.Open("/office/products/LOS2/stock");
        s.Find("#proof #buy");
        using var client = new HttpClient();
        await app.LetConnect(false);
        try
        {
            TypeInCell(s, "input[data-figure=stock]", "7");
            s.Until("it says what is wrong", () => s.Text("#trouble").Contains("What you typed is still here"));
            Assert.Equal("7", Value(s, "input[data-figure=stock]"));
            var reply = await client.GetAsync(app.Url + "/p/garden-hive");
            Assert.Equal(HttpStatusCode.ServiceUnavailable, reply.StatusCode);
            Assert.Contains("default-src 'none'", reply.Headers.GetValues("Content-Security-Policy").Single(), StringComparison.Ordinal);
            Assert.Contains("shop-head", await reply.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        }
        finally
        {
            await app.LetConnect(true);
        }
        s.Until("it is saved by itself", () => s.Text("[data-out=available]") == "7" && !s.Has("#trouble p"));
    }

    [Fact]
    public async Task Fields_save_while_one_types_and_nothing_is_drawn_under_the_hands()
    {
        await Product("LOS3");
        using var s = Merchant();
        s.Open("/office/products/LOS3/money");
        s.Send("#f-price", Keys.Control + "a");
        s.Press("31");
        s.Until("it is saved without leaving", () => s.Has(".f-price [name=was][value='31.00']"));
        Assert.Equal("31", Value(s, "#f-price"));
        s.Press(".5");
        s.Until("what is typed on is saved too", () => s.Has(".f-price [name=was][value='31.50']"));
        s.Press(Keys.Tab);
        s.Until("left, it is drawn as it is kept", () => Value(s, "#f-price") == "31.50");
        s.Until("one stay is one change", () => s.Text("#title").Contains("1 change not published"));

        s.Open("/office/products/LOS3/facts");
        s.Click("#rich-description");
        s.Press("Made of straw");
        s.Until("the description is saved", () => s.Has(".f-description [name=was][value*='Made of straw']"));

        // A specification that is typed and not added holds the tab, and is there again after Back.
        s.Send(".pair [name=label]", "Reach");
        Assert.True(
            (bool)s.Run("const e = new Event('beforeunload', { cancelable: true }); dispatchEvent(e); return e.defaultPrevented")!
        );
        s.Open("/office/products/LOS3/shelf");
        s.Browser.Navigate().Back();
        s.Until("it is back", () => Value(s, ".pair [name=label]") == "Reach");

        // A link waits for what is on its way.
        s.Send("#f-summary", "Typed and left at once");
        s.Browser.FindElement(By.LinkText("Shelf")).Click();
        s.Until("the link leads on", () => s.Browser.Url.Contains("/shelf"));
        s.Open("/office/products/LOS3/facts");
        Assert.Equal("Typed and left at once", Value(s, "#f-summary"));
    }

    [Fact]
    public async Task Two_people_in_one_cell_and_undo_from_within_it()
    {
        var options = """
            , "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [ { "key": "s", "label": "Small" },
              { "key": "l", "label": "Large" } ] },
              { "key": "words", "label": "Words", "role": "variant", "sharesSku": true, "values": [ { "key": "en", "label": "English" },
                { "key": "de", "label": "German" } ] } ]
            """;
        await Product("LOS4", options);
        using var s = Merchant();
        using var other = Merchant();
        other.Open("/office/products/LOS4/matrix?view=rows");
        other.Click(Price);
        s.Open("/office/products/LOS4/matrix?view=rows");
        TypeInCell(s, Price, "22");
        s.Until("it is saved", () => Value(s, Price) == "22.00");
        other.Press("23" + Keys.Enter);
        other.Until("theirs stands there, and mine is named", () =>
            Value(other, Price) == "22.00" && other.Text("#cell-fault").Contains("your 23 is not saved")
        );
        TypeInCell(other, Price, "23");
        other.Until("typed again it is saved", () => Value(other, Price) == "23.00");
        other.Click(Price);
        other.Press(Keys.Control + "z");
        other.Until("undone from within the cell", () => Value(other, Price) == "22.00");

        // Variants of one SKU show the same stock at once.
        TypeInCell(s, "[data-values='size=s,words=en'][data-figure=stock]", "9");
        s.Until("the other one follows", () => Value(s, "[data-values='size=s,words=de'][data-figure=stock]") == "9");
        Assert.Equal("0", Value(s, "[data-values='size=l,words=de'][data-figure=stock]"));
    }

    private static void FillCheckout(Steps s)
    {
        s.Type("[name=buyer]", "Orla Brennan");
        s.Type("[name=email]", "orla@example.org");
        s.Type("[name=address]", "1 Skep Lane");
    }

    [Theory]
    [InlineData("LOS5", true)]
    [InlineData("LOS6", false)]
    public async Task A_price_that_changed_at_the_checkout_is_shown_before_it_is_charged(string code, bool script)
    {
        var page = await Product(code);
        using var s = new Steps(App.Browser(script: script), app.Url);
        s.Open(page);
        s.Click("#buy-now");
        s.Click("#to-checkout");
        FillCheckout(s);
        await Reprice(code, "27.00");
        s.Click("#place");
        s.Until("old and new stand there", () =>
            s.Text("main").Contains("The price has changed") && s.Text("#checkout-totals tbody").Contains("€20.00 €27.00")
        );
        Assert.Equal("Orla Brennan", Value(s, "[name=buyer]"));
        if (script)
            Assert.Equal("", s.SeriousFindings());
        s.Click("#place");
        s.See("Thank you. Your order is");
        s.See("27.00");
    }

    [Fact]
    public async Task A_double_click_orders_once_and_what_was_typed_in_the_basket_goes_along()
    {
        var page = await Product("LOS7");
        using var s = new Steps(App.Browser(), app.Url);
        s.Open(page);
        s.Type("#quantity", "1.5");
        s.Until("it is refused and stays", () =>
            s.Text("#quantity-problem").Contains("whole number from 1") && Value(s, "#quantity") == "1.5"
        );
        s.Type("#quantity", "2");
        s.See("2 × €20.00 = €40.00");
        s.Click("#buy-now");
        s.Send("[name=quantities]", Keys.Control + "a");
        s.Press("0");
        s.Click("#to-checkout");
        s.Until("nought is refused and stays", () =>
            s.Text(".note.bad").Contains("whole number from 1") && Value(s, "[name=quantities]") == "0"
        );
        s.Send("[name=quantities]", Keys.Control + "a");
        s.Press("3");
        s.Click("#to-checkout");
        s.See("3 × Story LOS7");
        FillCheckout(s);
        new Actions(s.Browser).DoubleClick(s.Find("#place")).Perform();
        s.See("Thank you. Your order is");
        var address = s.Browser.Url;
        using var client = app.Client();
        var orders = System.Text.Json.Nodes.JsonNode.Parse(await client.GetStringAsync("orders?size=50"))!["orders"]!.AsArray();
        Assert.Equal(1, orders.Count(o => o!["lines"]![0]!["product"]!.ToString() == "LOS7"));

        // Pressed once more from a page that was kept, it leads to the same order.
        s.Browser.Navigate().Back();
        if (s.Has("#place"))
        {
            s.Click("#place");
            s.Until("it leads to the order, or to the empty basket", () =>
                s.Browser.Url == address || s.Browser.Url.EndsWith("/basket", StringComparison.Ordinal)
            );
        }
        orders = System.Text.Json.Nodes.JsonNode.Parse(await client.GetStringAsync("orders?size=50"))!["orders"]!.AsArray();
        Assert.Equal(1, orders.Count(o => o!["lines"]![0]!["product"]!.ToString() == "LOS7"));
    }

    [Fact]
    public async Task What_is_beyond_stock_is_said_before_and_after_and_a_cancelled_order_can_stand_again()
    {
        var page = await Product("LOS8", """, "selling": { "beyond": { "units": 5 } }, "variants": [ { "values": {}, "stock": 2 } ]""");
        const string later = "2 in stock, 1 follows when it comes in.";
        using var shopper = new Steps(App.Browser(), app.Url);
        shopper.Open(page);
        shopper.Type("#quantity", "3");
        shopper.See(later);
        shopper.Click("#buy-now");
        shopper.See(later);
        shopper.Click("#to-checkout");
        FillCheckout(shopper);
        shopper.Click("#place");
        shopper.See("Thank you. Your order is");
        shopper.See(later);
        var number = shopper.Text("h1").Split(' ')[^1];

        using var s = Merchant();
        s.Open($"/office/orders/{number}");
        s.See(later);
        s.Click("#cancel");
        s.Click("#do-cancel");
        s.See("Say why; the buyer is told.");
        Assert.Equal("", s.SeriousFindings());
        s.Type("#cancel-reason", "Supplier closed");
        s.Click("#do-cancel");
        s.Find("#reinstate");
        s.See("Supplier closed. 66.50 refunded (simulated).");
        shopper.Browser.Navigate().Refresh();
        shopper.See("It was cancelled: Supplier closed");
        s.Click("#reinstate");
        s.Find("#dispatch");
        s.Open("/office/outbox");
        s.See($"your order {number} was cancelled");
        s.See($"your order {number} stands again");
    }

    /// <summary>Every main view, and what is fetched into it while one works, leaves nothing in the browser's console.</summary>
    [Fact]
    public void No_view_writes_into_the_console()
    {
        using var s = Merchant();
        string[] views =
        [
            "/office/range",
            "/office/products/GH1/facts",
            "/office/products/GH1/money",
            "/office/products/GH1/options",
            "/office/products/GH1/matrix?view=rows",
            "/office/products/LBL/matrix?view=grid",
            "/office/products/GH1/extras",
            "/office/products/GH1/rules",
            "/office/products/GH1/stock",
            "/office/products/GH1/shelf",
            "/office/products/GH1/checks",
            "/office/stock",
            "/office/stock/SMK",
            "/office/orders",
            "/office/outbox",
            "/office/settings",
            "/office/options",
            "/office/extras",
            "/office/categories",
            "/office/variants",
            "/office/sheet",
            "/",
            "/p/garden-hive",
            "/basket",
            "/nothing-here",
        ];
        foreach (var view in views)
        {
            s.Open(view);
            if (s.Has("#proof"))
            {
                s.Find("#proof #buy");
                s.Run("document.querySelector('#proof #buy-form input[type=radio]:not(:checked):not(:disabled)')?.click()");
                s.Until("the proof has answered", () => !s.Has("#proof .htmx-request"));
            }
            var said = s
                .Browser.Manage()
                .Logs.GetLog(LogType.Browser)
                .Select(l => l.Message)
                .Where(m => !(view == "/nothing-here" && m.Contains("404")))
                .ToList();
            Assert.True(said.Count == 0, $"{view}: {string.Join(" | ", said)}");
        }
        s.Open("/p/garden-hive");
        s.Click("label:has(#o-depth-deep)");
        s.Until("the pick is taken", () => s.Browser.Url.Contains("o-depth=deep"));
        Assert.Empty(s.Browser.Manage().Logs.GetLog(LogType.Browser));
    }
}
