using OpenQA.Selenium;

namespace Unicus.Browser.Tests;

/// <summary>The merchant's and the shopper's way, from a name to a dispatched order, in the real interface.</summary>
[Collection("app")]
public class StoryTests(App app)
{
    private Steps Merchant(int width = 1280)
    {
        var steps = new Steps(App.Browser(width), app.Url);
        steps.SignIn();
        return steps;
    }

    private static string Code(Steps s) => s.Browser.Url.Split('/')[5].Split('?')[0];

    private static string Make(Steps s, string name)
    {
        s.Open("/office/range?new=1");
        s.Type("#new-name", name);
        s.Press(Keys.Enter);
        s.Find("#f-name");
        return Code(s);
    }

    private static void AddOption(Steps s, string label, string values, string size)
    {
        s.Send("#option-label", label + Keys.Tab);
        s.Press(values);
        s.Until($"the size is told while typing: {size}", () => s.Text("#size").Contains(size));
        s.Press(Keys.Enter);
        s.Until($"{label} is there", () =>
            s.Browser.FindElements(By.CssSelector(".option-label")).Any(e => e.GetAttribute("value") == label)
        );
    }

    [Fact]
    public void From_options_to_an_order()
    {
        using var s = Merchant();
        var code = Make(s, "Nucleus box");
        s.Type("#f-summary", "Five frames for a young colony.");
        s.Until("the summary is kept", () => s.Has("[name=was][value^='Five frames']"));

        s.Open($"/office/products/{code}/money");
        s.Type("#f-price", "€86");
        s.Until("the price is read", () => s.Attribute("#f-price", "value") == "86.00");
        s.Type("#f-cost", "40,50");
        s.See("42.1 %");

        s.Open($"/office/products/{code}/options");
        AddOption(s, "Depth", "Shallow, Medium, Deep", "3 variants");
        AddOption(s, "Timber", "Cedar, Larch, Pine", "3 × 3 = 9 variants");
        s.Type("[aria-label='Surcharge of Pine']", "-12");
        s.Until("the surcharge is kept", () => s.Attribute("[aria-label='Surcharge of Pine']", "value") == "-12.00");

        var sku = Rows(s, code);
        Grid(s, code);
        Proof(s, code);
        var number = Buy();

        // Back office: allocation, dispatch, ledger.
        s.Open($"/office/orders/{number}");
        s.See("172.00");
        s.Click("#dispatch");
        s.See("Dispatched");
        s.Open($"/office/stock/{sku}");
        var ledger = s.Text(".ledger");
        foreach (var kind in new[] { "receipt", "allocation", "sale" })
            Assert.Contains(kind, ledger);
    }

    /// <summary>Types in cells; Enter moves down; the margin stands beside.</summary>
    /// <returns>The SKU whose stock was typed.</returns>
    private static string Rows(Steps s, string code)
    {
        s.Open($"/office/products/{code}/matrix");
        Assert.Equal(9, s.Browser.FindElements(By.CssSelector("table.rows tbody tr")).Count);
        var sku = s.Attribute("[data-values='depth=shallow,timber=cedar'][data-figure=sku]", "value");
        Assert.Equal($"{code}-S-C", sku);
        s.Click("[data-values='depth=shallow,timber=cedar'][data-figure=stock]");
        foreach (var units in new[] { "5", "6", "7" })
            s.Press(units + Keys.Enter);
        s.Press(Keys.Tab);
        s.Until("stock is counted", () => s.Text(".spine a[href$='/stock'] .n") == "18");
        return sku!;
    }

    /// <summary>Every larch one at once, with a preview.</summary>
    private static void Grid(Steps s, string code)
    {
        s.Open($"/office/products/{code}/matrix?view=grid");
        s.Click("[data-pick='timber=larch']");
        s.Type("#amount", "10");
        s.See("96.00");
        s.Click("#apply-bulk");
        s.See("Changed the price of 3 variants");
        s.Until("larch has its own price", () => s.Attribute("[data-values='depth=deep,timber=larch']", "value") == "96.00");
        // Clearing a cell returns it to inheritance.
        s.Type("[data-values='depth=deep,timber=larch']", "");
        s.Until("it inherits again", () => s.Attribute("[data-values='depth=deep,timber=larch']", "value") == "86.00");
        // x marks a combination as not made.
        s.Click("[data-values='depth=deep,timber=pine']");
        s.Press("x");
        s.See("1 not made, 8 variants");
    }

    /// <summary>The proof is usable; what it shows is published, and then changed.</summary>
    private static void Proof(Steps s, string code)
    {
        s.Click("#proof [for], #proof label:has(#o-timber-pine)");
        s.Until("deep cannot be picked in pine and says why", () => s.Text("#proof").Contains("Deep: not made in pine"));

        s.Open($"/office/products/{code}/checks");
        s.See("It has no picture.");
        s.Click("#publish");
        s.See("Edition 1 on sale");
        s.Open($"/office/products/{code}/money");
        s.Type("#f-price", "99");
        s.See("1 change not published");
    }

    /// <summary>The shopper buys the published edition at its price.</summary>
    /// <returns>The number of the order.</returns>
    private string Buy()
    {
        using var shopper = new Steps(App.Browser(), app.Url);
        shopper.Open("/p/nucleus-box");
        shopper.Click("label:has(#o-depth-shallow)");
        shopper.Until("the pick is taken", () => shopper.Browser.Url.Contains("o-depth=shallow"));
        shopper.Click("label:has(#o-timber-cedar)");
        shopper.See("5 left");
        shopper.Type("#quantity", "2");
        shopper.See("2 × €86.00 = €172.00");
        shopper.Click("#buy-now");
        shopper.See("Nucleus box, shallow, cedar");
        Checkout(shopper);
        return shopper.Text("h1").Split(' ')[^1];
    }

    private static void Checkout(Steps s)
    {
        s.Click("#to-checkout");
        s.Click("#place");
        s.See("We need a name on the parcel.");
        s.Type("[name=buyer]", "Orla Brennan");
        s.Type("[name=email]", "orla@example.org");
        s.Type("[name=address]", "1 Skep Lane");
        s.Click("label:has([name=payment][value=no])");
        s.Click("#place");
        s.See("The bank declined");
        Assert.Equal("Orla Brennan", s.Attribute("[name=buyer]", "value"));
        s.Click("label:has([name=payment][value=yes])");
        s.Click("#place");
        s.See("Thank you. Your order is");
    }

    [Fact]
    public void The_keyboard_alone_makes_a_priced_matrix()
    {
        using var s = Merchant();
        s.Open("/office/range");
        s.Press("/");
        s.Press("new prod");
        s.See("New product");
        s.Until("the action is offered", () => s.Browser.FindElements(By.CssSelector("#found a")).Count > 0);
        s.Press(Keys.ArrowDown);
        s.Press(Keys.Enter);
        s.Until("the name is asked", () => s.Focused.GetAttribute("id") == "new-name");
        s.Press("Queen cage" + Keys.Enter);
        s.Find("#f-name");
        s.Open($"/office/products/{Code(s)}/options");
        s.Until("the option is asked", () => s.Focused.GetAttribute("id") == "option-label");
        s.Press("Size" + Keys.Tab + "S, M, L" + Keys.Enter);
        s.Until("the option is there", () => s.Has(".option-label"));
        s.Open($"/office/products/{Code(s)}/matrix");
        s.Run("document.querySelector('input.cell').focus()");
        s.Press("1,50" + Keys.Enter + "2" + Keys.Enter + "€3" + Keys.Tab);
        s.Until("all are priced", () => s.Values("input[data-figure=price]").SequenceEqual(["1.50", "2.00", "3.00"]));
        s.Press(Keys.Control + "z");
    }

    [Fact]
    public void The_price_bar_is_dragged_and_moved_with_the_arrow_keys()
    {
        using var s = Merchant();
        var code = Make(s, "Queen cage");
        s.Open($"/office/products/{code}/money");
        s.Type("#f-price", "50");
        s.Type("#f-cost", "20");
        s.See("50.8 %");
        new OpenQA.Selenium.Interactions.Actions(s.Browser).DragAndDropToOffset(s.Find("[data-grips=price]"), 60, 0).Perform();
        s.Until("the price is saved", () => s.Has(".f-price [name=was]:not([value='50.00'])"));
        var dragged = decimal.Parse(s.Attribute("#f-price", "value")!, System.Globalization.CultureInfo.InvariantCulture);
        Assert.InRange(dragged, 51, 65);
        s.Until("the bar is drawn for it", () => s.Has($".price-bar[data-price='{dragged:0.00}']"));
        s.Run("document.querySelector('[data-grips=cost]').focus()");
        new OpenQA.Selenium.Interactions.Actions(s.Browser).SendKeys(Keys.ArrowRight).Perform();
        s.Until("the cost is saved", () => s.Has(".f-cost [name=was][value='20.10']"));
        s.Until("the grip keeps the focus", () => s.Focused.GetAttribute("data-grips") == "cost");
    }

    [Fact]
    public void Stock_counted_before_there_were_options_goes_where_the_merchant_says()
    {
        using var s = Merchant();
        var code = Make(s, "Uncapping fork");
        s.Open($"/office/products/{code}/stock");
        s.Type("input[data-figure=stock]", "10");
        s.Until("it is counted", () => s.Text("[data-out=available]").Length > 0 && s.Text(".spine .here .n") == "10");
        s.Open($"/office/products/{code}/options");
        s.Send("#option-label", "Teeth" + Keys.Tab);
        s.Press("Straight, Bent, Fine" + Keys.Enter);
        s.See("+2 new, 0 lost");
        s.Click("[value=SplitEvenly]");
        s.Click("#apply-difference");
        s.See("To the matrix");
        s.Open($"/office/products/{code}/matrix");
        Assert.Equal(["4", "3", "3"], s.Values("input[data-figure=stock]"));
        // Removing a value that has stock is shown first, and left as it was.
        s.Open($"/office/products/{code}/options");
        s.Click("[aria-label='Remove Bent']");
        s.See("1 to retire: 3 units on hand");
        s.Open($"/office/products/{code}/options");
        s.See("3 values");
    }

    [Fact]
    public void Bad_input_stays_typed_and_says_what_to_do()
    {
        using var s = Merchant();
        var code = Make(s, "<b>Bold</b> & sons");
        Assert.Equal("<b>Bold</b> & sons", s.Text("h1"));
        s.Open($"/office/products/{code}/money");
        s.Type("#f-price", "eighty");
        s.See("is not a number");
        Assert.Equal("eighty", s.Attribute("#f-price", "value"));
        var file = Path.Combine(Path.GetTempPath(), $"{Guid.NewGuid():N}.png");
        File.WriteAllText(file, "no picture at all");
        s.Open($"/office/products/{code}/facts");
        s.Browser.FindElement(By.CssSelector("input[type=file]")).SendKeys(file);
        s.See("is not a picture that can be read");
        File.Delete(file);
        s.Open("/office/range?new=1");
        s.Type("#new-name", "   ");
        s.Click(".new-product form .btn");
        s.See("A product needs a name");
    }

    [Fact]
    public void Two_tabs_on_one_product_the_later_one_is_told()
    {
        using var first = Merchant();
        using var second = Merchant();
        var code = Make(first, "Honey gate");
        second.Open($"/office/products/{code}/facts");
        second.Find("#f-summary");
        first.Type("#f-summary", "Brass.");
        first.Until("it is saved", () => first.Has("[name=was][value='Brass.']"));
        second.Type("#f-summary", "Steel.");
        second.See("Changed elsewhere meanwhile");
        Assert.Equal("Steel.", second.Attribute("#f-summary", "value"));
    }

    [Fact]
    public void The_shop_works_without_script_from_product_to_order()
    {
        using var s = new Steps(App.Browser(script: false), app.Url);
        s.Open("/");
        s.See("from €74.00");
        s.Open("/?q=hive+tool");
        s.Click("a[href='/p/hive-tool']");
        s.Click("label:has(#o-form-hook)");
        s.Click("button[formaction*=Pick]");
        s.See("left");
        s.Click("#buy-now");
        s.See("Hive tool, hooked end");
        Checkout(s);
    }

    [Theory]
    [InlineData("/office/range")]
    [InlineData("/office/products/GH1/facts")]
    [InlineData("/office/products/GH1/money")]
    [InlineData("/office/products/GH1/options")]
    [InlineData("/office/products/GH1/matrix")]
    [InlineData("/office/products/SUIT/matrix?view=grid")]
    [InlineData("/office/products/GH1/extras")]
    [InlineData("/office/products/GH1/rules?o-depth=shallow&down=depth&across=roof")]
    [InlineData("/office/extras/gift-wrapping")]
    [InlineData("/p/garden-hive?o-depth=shallow&o-timber=cedar")]
    [InlineData("/office/products/GH1/stock")]
    [InlineData("/office/products/EX4/checks")]
    [InlineData("/office/products/LBL/matrix?view=grid&tint=1")]
    [InlineData("/office/products/SUIT/labels")]
    [InlineData("/office/options")]
    [InlineData("/office/options/timber")]
    [InlineData("/office/categories")]
    [InlineData("/office/variants?q=SUIT")]
    [InlineData("/office/sheet")]
    [InlineData("/office/stock")]
    [InlineData("/office/orders")]
    [InlineData("/office/settings")]
    [InlineData("/")]
    [InlineData("/p/bee-suit")]
    [InlineData("/basket")]
    [InlineData("/office/orders/1001")]
    [InlineData("/office/outbox")]
    [InlineData("/office/people")]
    [InlineData("/office/keys")]
    [InlineData("/office/events")]
    [InlineData("/office/me")]
    [InlineData("/account")]
    [InlineData("/nothing-here")]
    public void Axe_finds_nothing_serious_and_the_narrow_screen_holds(string path)
    {
        using var s = Merchant();
        s.Open(path);
        if (path.Contains("/products/") && !path.EndsWith("/labels"))
            s.Find("#proof .buy");
        Assert.Equal("", s.Findings());
        s.Browser.Shape(390, 844);
        s.Open(path);
        Assert.True((long)s.Run("return document.documentElement.scrollWidth")! <= 390, $"{path} is wider than a phone");
    }
}
