using OpenQA.Selenium;

namespace Unicus.Browser.Tests;

/// <summary>Choices that depend on each other, from the merchant's first extra to the shopper's order.</summary>
[Collection("app")]
public partial class ExtrasStoryTests(App app)
{
    private Steps Merchant()
    {
        var steps = new Steps(App.Browser(), app.Url);
        steps.SignIn();
        return steps;
    }

    private static void Option(Steps s, string label, string values)
    {
        s.Send("#option-label", label + Keys.Tab);
        s.Press(values + Keys.Enter);
        s.Until($"{label} is there", () =>
            s.Browser.FindElements(By.CssSelector(".option-label")).Any(e => e.GetAttribute("value") == label)
        );
    }

    /// <summary>With the keyboard alone: name, what it asks for, values.</summary>
    private static void Extra(Steps s, string label, string asks, string values = "")
    {
        s.Until("the form is empty", () => s.Attribute("#extra-label", "value") == "");
        s.Send("#extra-label", label + Keys.Tab);
        s.Press(asks + Keys.Tab);
        s.Press(values + Keys.Enter);
        s.Until($"{label} is there", () => s.Has($".extra[aria-label='{label}']"));
    }

    private static void Choose(Steps s, string css, string text) => s.Until($"{text} is chosen", () =>
        {
            s.Find(css).FindElements(By.TagName("option")).First(o => o.Text == text).Click();
            return true;
        });

    private static void Settled(Steps s) => s.Until("nothing is under way", () => !s.Has(".htmx-request, .htmx-swapping, .htmx-settling"));

    /// <summary>One rule in the builder: when a question is, or is not, a value, then an effect on a question.</summary>
    private static void Rule(
        Steps s,
        string when,
        string how,
        string value,
        string then,
        string target,
        string targetValue = "",
        string sentence = ""
    )
    {
        foreach (
            var (css, text) in new[]
            {
                ("#new-rule [name='c.0.q']", when),
                ("#new-rule [name='c.0.kind']", how),
                ("#new-rule [name='e.0.q']", target),
                ("#new-rule [name='e.0.kind']", then),
            }
        )
        {
            Choose(s, css, text);
            Settled(s);
        }
        if (value.Length > 0)
            Tick(s, "c.0.v", value);
        if (targetValue.Length > 0)
            Tick(s, "e.0.v", targetValue);
        s.Until($"it says: {sentence}", () => s.Text("#draft-sentence") == sentence);
        s.Click("#add-rule");
        s.Until("the rule is kept", () => s.Browser.FindElements(By.CssSelector(".rule-list .sentence")).Any(e => e.Text == sentence));
    }

    private static void Tick(Steps s, string name, string value)
    {
        bool Ticked(string label) =>
            s.Browser.FindElement(By.XPath($"//form[@id='new-rule']//label[span='{label}']/input[@name='{name}']")).Selected;
        void Toggle(string label)
        {
            s.Run(
                "arguments[0].click()",
                s.Browser.FindElement(By.XPath($"//form[@id='new-rule']//label[span='{label}']/input[@name='{name}']"))
            );
            Settled(s);
        }
        s.Until("the values are there", () => s.Browser.FindElements(By.CssSelector($"#new-rule [name='{name}']")).Count > 0);
        if (!Ticked(value))
            Toggle(value);
        foreach (
            var other in s
                .Browser.FindElements(By.CssSelector($"#new-rule label:has([name='{name}']:checked) span"))
                .Select(e => e.Text)
                .Where(t => t != value)
                .ToList()
        )
            Toggle(other);
    }

    [Fact]
    public void Values_of_an_extra_are_typed_with_what_they_add()
    {
        using var s = Merchant();
        s.Open("/office/range?new=1");
        s.Send("#new-name", "Sherbet" + Keys.Enter);
        s.Until("it is made", () => s.Url.Contains("/facts"));
        s.Open(new Uri(s.Url).AbsolutePath.Replace("/facts", "/extras"));
        Extra(s, "Taste", "one of", "Lemon, Chocolate +2, Plain -0.50");
        Assert.Equal("2.00", s.Attribute("[aria-label='Surcharge of Chocolate']", "value"));
        Assert.Equal("-0.50", s.Attribute("[aria-label='Surcharge of Plain']", "value"));
        Assert.Equal("", s.Attribute("[aria-label='Surcharge of Lemon']", "value"));
    }

    [Fact]
    public void The_hive_is_built_from_nothing_and_the_shopper_meets_every_effect()
    {
        using var s = Merchant();
        s.Open("/office/range?new=1");
        s.Type("#new-name", "Log hive");
        s.Press(Keys.Enter);
        s.Find("#f-name");
        var code = s.Browser.Url.Split('/')[5];
        s.Open($"/office/products/{code}/money");
        s.Type("#f-price", "184");
        s.Until("it is priced", () => s.Attribute("#f-price", "value") == "184.00");
        s.Open($"/office/products/{code}/stock");
        s.Until("it is not counted", () =>
        {
            s.Find("#f-counted").FindElement(By.CssSelector("option[value=no]")).Click();
            return true;
        });
        Settled(s);
        s.Open($"/office/products/{code}/options");
        Option(s, "Depth", "Shallow, Deep");
        Option(s, "Timber", "Cedar, Pine");

        s.Open($"/office/products/{code}/extras");
        Extra(s, "Roof", "one of", "Flat, Gabled");
        Extra(s, "Boards", "one of", "Plain, Oiled");
        Extra(s, "Window", "yes");
        Extra(s, "Name plate", "a text");
        s.Type("[aria-label='Surcharge of Gabled']", "24");
        s.Until("the surcharge is read", () => s.Attribute("[aria-label='Surcharge of Gabled']", "value") == "24.00");
        s.Type("[aria-label='Surcharge of Name plate']", "0,60 a character, at least 6");
        s.Until("the surcharge is kept", () =>
            s.Attribute("[aria-label='Surcharge of Name plate']", "value") == "0.60 a character, at least 6.00"
        );
        // Bad input stays typed and says why; nothing is lost.
        s.Type("[aria-label='Surcharge of Flat']", "a lot");
        s.See("is not a number");
        Assert.Equal("a lot", s.Attribute("[aria-label='Surcharge of Flat']", "value"));
        s.Type("[aria-label='Surcharge of Flat']", "");
        s.Until("it is mended", () => !s.Text("#chapter").Contains("is not a number"));

        s.Open($"/office/products/{code}/rules");
        Rule(s, "Timber", "is not", "Cedar", "hide", "Name plate", sentence: "When Timber is not Cedar, hide Name plate.");
        Rule(s, "Depth", "is", "Shallow", "cannot be:", "Roof", "Gabled", "When Depth is Shallow, Roof cannot be Gabled.");
        Rule(s, "Timber", "is", "Pine", "can only be:", "Boards", "Oiled", "When Timber is Pine, Boards can only be Oiled.");
        Rule(s, "Roof", "is", "Gabled", "needs an answer:", "Boards", sentence: "When Roof is Gabled, Boards needs an answer.");
        Rule(s, "Boards", "is", "Oiled", "show", "Window", sentence: "When Boards is Oiled, show Window.");
        // A rule that can never hold is pointed out beside it, then taken out.
        Rule(s, "Timber", "is", "Pine", "cannot be:", "Boards", "Plain", "When Timber is Pine, Boards cannot be Plain.");
        s.Until("it changes nothing, and says so", () =>
            s.Browser.FindElements(By.CssSelector(".rule .trouble")).Any(t => t.Text.Contains("Changes nothing"))
        );
        s.Click("[aria-label='Remove: When Timber is Pine, Boards cannot be Plain.']");
        s.Until("five are left", () => s.Browser.FindElements(By.CssSelector(".rule-list .rule:not(.from-set)")).Count == 5);
        // The map and the table say the same.
        s.Until("the map has its arcs", () =>
            s.Browser.FindElements(By.CssSelector(".rule-map a.arc-forbid")).Count == 1
            && s.Browser.FindElements(By.CssSelector(".rule-map a.arc-show")).Count > 0
        );
        s.Open($"/office/products/{code}/rules?down=depth&across=roof#table");
        s.Until("the table names the rule", () => s.Has(".combos a[aria-label^='Shallow, Gabled: by a rule, When Depth is Shallow']"));
        s.Open($"/office/products/{code}/checks");
        s.Click("#publish");
        s.See("Edition 1 on sale");

        Shop(s);
    }

    [Fact]
    public void A_pick_in_the_proof_lights_the_map_and_the_table_writes_a_rule()
    {
        using var s = Merchant();
        s.Open("/office/products/GH1/rules?down=depth&across=boards");
        s.Click("#proof label:has(#o-depth-shallow)");
        s.Until("the map follows the proof", () =>
            s.Has(".rule-map .chip-link.picked[aria-label^='Shallow']")
            && s.Has(".rule-map .chip-link.cannot[aria-label^='Gabled']")
            && s.Has(".rule-map a.arc-forbid.holds")
        );
        s.Click(".rule-map .chip-link[aria-label^='Deep']");
        s.Until("the proof follows the map", () =>
            s.Has("#proof #o-depth-deep:checked") && s.Has(".rule-map .chip-link.picked[aria-label^='Deep']")
        );
        s.Click("#proof label:has(#o-depth-shallow)");
        s.Until("the map follows again", () => s.Has(".rule-map a.arc-forbid.holds"));
        s.Run("document.querySelector('.rule-map a.arc-forbid').focus()");
        s.Press(Keys.Enter);
        s.Until("an arc leads to its sentence", () =>
            s.Browser.Url.Contains("#rule-") && s.Text(".rule:target .sentence").StartsWith("When Depth is not Deep")
        );
        s.Click(".combos button[aria-label^='Shallow, Oiled can be picked']");
        s.Until("the rule is written", () =>
            s
                .Browser.FindElements(By.CssSelector(".rule-list .sentence"))
                .Any(e => e.Text == "When Depth is Shallow, Boards cannot be Oiled.")
        );
        s.Click("[aria-label='Switch off: When Depth is Shallow, Boards cannot be Oiled.']");
        s.Until("it is off, and stays", () => s.Text(".rule.is-off").Contains("switched off"));
        s.Click("[aria-label='Remove: When Depth is Shallow, Boards cannot be Oiled.']");
        s.Until("it is gone", () => !s.Has(".rule.is-off"));
        // An option called like an extra gets a key of its own.
        s.Open("/office/range?new=1");
        s.Type("#new-name", "Comb box");
        s.Press(Keys.Enter);
        s.Find("#f-name");
        var code = s.Browser.Url.Split('/')[5];
        s.Open($"/office/products/{code}/extras");
        Extra(s, "Size", "a text");
        s.Open($"/office/products/{code}/options");
        Option(s, "Size", "Small, Large");
        s.Until("both are asked", () => s.Has("#proof #o-size-2-small") && s.Has("#proof #o-size"));
    }

    private static void Shop(Steps s)
    {
        s.Open("/p/log-hive");
        s.Click("label:has(#o-depth-shallow)");
        s.Until("a greyed value says why and what would change it", () =>
            s.Has("#take-roof-gabled") && s.Text("#buy").Contains("Gabled: not with shallow")
        );
        Assert.False(s.Find("label:has(#o-roof-gabled) span").Displayed && s.Browser.FindElement(By.Id("o-roof-gabled")).Enabled);
        s.Click("label:has(#o-timber-cedar)");
        s.Until("the name plate is asked", () => s.Has("#o-name-plate"));
        s.Click("#take-roof-gabled");
        s.Until("one click changed the depth", () => s.Browser.Url.Contains("o-depth=deep") && s.Browser.Url.Contains("o-roof=gabled"));
        s.Until("what is needed stands beside the button", () => s.Text("#still-open").Contains("Boards"));
        s.Type("#o-name-plate", "Maren");
        s.See("214.00");
        s.Click("label:has(#o-boards-oiled)");
        s.Until("the window is asked", () => s.Has("#o-window-yes"));
        s.Click("label:has(#o-timber-pine)");
        s.Until("the plate is hidden and not charged", () => !s.Has("#o-name-plate") && s.Text(".buy-price") == "€208.00");
        s.Click("label:has(#o-timber-cedar)");
        s.Until("it comes back with its answer", () =>
            s.Has("#o-name-plate") && s.Attribute("#o-name-plate", "value") == "Maren" && s.Text(".buy-price") == "€214.00"
        );
        s.Click("#buy-now");
        s.See("Log hive, deep, cedar");
        s.See("Name plate: “Maren”");
        s.See("214.00");
        s.Click("#to-checkout");
        s.Type("[name=buyer]", "Orla Brennan");
        s.Type("[name=email]", "orla@example.org");
        s.Type("[name=address]", "1 Skep Lane");
        s.Click("label:has([name=payment][value=yes])");
        s.Click("#place");
        s.See("Thank you. Your order is");
        s.See("Name plate: “Maren”");
        s.Open($"/office/orders/{s.Text("h1").Split(' ')[^1]}");
        s.See("Name plate: “Maren”");
        s.See("Boards: Oiled");
    }

    [Fact]
    public void The_hive_of_the_demo_is_configured_with_the_keyboard_alone()
    {
        using var s = new Steps(App.Browser(), app.Url);
        s.Open("/p/garden-hive?o-depth=deep&o-timber=cedar");
        s.Run("document.getElementById('o-boards-oiled').focus()");
        s.Press(Keys.Space);
        s.Until("the window is asked", () => s.Has("#o-window-yes"));
        Settled(s);
        s.Run("document.getElementById('o-plate').focus()");
        s.Press("Apiary of Orla");
        // 199.00 or the list price of the demo, oiled boards 18.00, twelve characters 7.20: the price follows the typing and the box keeps
        // the focus.
        s.Until("the price follows the typing", () =>
            s.Has("#o-plate-note") && s.Text("#o-plate-note").StartsWith("14 of 24", StringComparison.Ordinal)
        );
        Assert.Equal("o-plate", s.Focused.GetAttribute("id"));
        s.Press(Keys.Tab);
        Settled(s);
        s.Run("document.getElementById('o-roof-gabled').focus()");
        s.Press(Keys.Space);
        s.Until("the cover is needed now", () => s.Text("#still-open").Contains("Roof cover"));
        Settled(s);
        s.Run("document.getElementById('buy-now').focus()");
        s.Press(Keys.Enter);
        s.See("Still to answer: Roof cover.");
    }

    [Fact]
    public void Typing_on_loses_neither_place_nor_text_and_two_people_do_not_overwrite_each_other()
    {
        using var s = Merchant();
        using var other = Merchant();
        s.Open("/office/range?new=1");
        s.Type("#new-name", "Wax mould");
        s.Press(Keys.Enter);
        s.Find("#f-name");
        var code = s.Browser.Url.Split('/')[5];
        s.Open($"/office/products/{code}/extras");
        Extra(s, "Shape", "one of a list", "Round, Square");
        other.Open($"/office/products/{code}/extras");
        other.Find("[aria-label='Surcharge of Round']");
        // Typed on without waiting: from cell to cell, while the reply to the first is on its way.
        s.Send("[aria-label='Surcharge of Round']", "4" + Keys.Tab);
        s.Press("1.50" + Keys.Tab);
        s.Until("both are saved", () =>
            s.Attribute("[aria-label='Surcharge of Round']", "value") == "4.00"
            && s.Attribute("[aria-label='Cost of Round']", "value") == "1.50"
        );
        Assert.Equal("Part of Round", s.Focused.GetAttribute("aria-label"));
        other.Type("[aria-label='Surcharge of Square']", "9");
        other.See("was changed elsewhere meanwhile");
        Assert.Equal("9", other.Attribute("[aria-label='Surcharge of Square']", "value"));
        other.Open($"/office/products/{code}/extras");
        Assert.Equal(
            ("4.00", ""),
            (other.Attribute("[aria-label='Surcharge of Round']", "value"), other.Attribute("[aria-label='Surcharge of Square']", "value"))
        );
        // The same in Options; what cannot be stays typed beside the reason.
        s.Open($"/office/products/{code}/options");
        Option(s, "Size", "Small, Large");
        s.Send("[aria-label='Surcharge of Large']", "lots" + Keys.Tab);
        s.See("is not a number");
        s.Until("it is still there", () => s.Attribute("[aria-label='Surcharge of Large']", "value") == "lots");
        Assert.Equal("Swatch of Large", s.Focused.GetAttribute("aria-label"));
    }

    [Fact]
    public async Task Every_value_can_be_picked_in_the_map()
    {
        const string code = "PAINTBOX";
        string[] colours = ["Ochre", "Umber", "Sienna", "Vermilion", "Ultramarine", "Verdigris", "Madder"];
        var values = string.Join(", ", colours.Select(c => $$"""{ "key": "{{c.ToLowerInvariant()}}", "label": "{{c}}" }"""));
        var pots = Enumerable
            .Range(1, 20)
            .Select(i => $$"""{ "key": "pot-{{i}}", "label": "Pot {{i}}", "role": "extra", "ask": "one", "values": [ {{values}} ] }""");
        var box = $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "Paint box", "options": [ {{string.Join(", ", pots)}} ] }
            """;
        using (var client = app.Client())
            (await client.PutAsync($"products/{code}", App.Json(box))).EnsureSuccessStatusCode();
        using var s = Merchant();
        s.Open($"/office/products/{code}/rules");
        Rule(s, "Pot 1", "is", "Madder", "cannot be:", "Pot 2", "Madder", "When Pot 1 is Madder, Pot 2 cannot be Madder.");
        Assert.False(s.Has(".chip-link[aria-label='Madder, Pot 1 Madder']"));
        s.Click(".more-values[aria-label$='of Pot 1']");
        s.Click(".chip-link[aria-label='Madder, Pot 1 Madder']");
        s.Until("it is picked, and the map stays unfolded", () => s.Has(".chip-link.picked[aria-label^='Madder, Pot 1']"));
        s.Click(".more-values[aria-label$='of Pot 2']");
        s.Until("the other is greyed", () => s.Has(".chip-link.cannot[aria-label^='Madder, Pot 2']"));
    }

    [Fact]
    public void Without_script_a_hive_is_configured_by_the_button()
    {
        using var s = new Steps(App.Browser(script: false), app.Url);
        s.Open("/p/garden-hive");
        s.Click("label:has(#o-depth-shallow)");
        s.Click("label:has(#o-timber-cedar)");
        s.Click("button[formaction*=Pick]");
        s.See("Gabled: not with shallow");
        s.Click("#take-roof-gabled");
        s.Until("the depth is changed", () => s.Browser.Url.Contains("o-depth=deep"));
        s.Click("label:has(#o-cover-felt)");
        s.Send("#o-plate", "Orla");
        s.Click("#buy-now");
        s.See("Roof cover: Felt");
        s.See("Name plate: “Orla”");
    }
}
