using OpenQA.Selenium;

namespace Unicus.Browser.Tests;

/// <summary>Several products at once, goods picked while typing, chapters and help by keys, low stock.</summary>
[Collection("app")]
public sealed class TickedTests(App app) : IDisposable
{
    private readonly Steps _s = Merchant(app);

    private static Steps Merchant(App app)
    {
        var steps = new Steps(App.Browser(), app.Url);
        steps.SignIn();
        return steps;
    }

    public void Dispose() => _s.Dispose();

    private void Make(string name)
    {
        _s.Open("/office/range?new=1");
        _s.Send("#new-name", name + Keys.Enter);
        _s.Until("it is made", () => _s.Url.Contains("/facts"));
    }

    [Fact]
    public void Ticked_products_are_published_and_what_stands_in_the_way_is_said()
    {
        Make("Ticked lamp");
        _s.Open(new Uri(_s.Url).AbsolutePath.Replace("/facts", "/money"));
        _s.Type("#f-price", "12");
        Make("Ticked lamp");
        _s.See("Another product is called so");
        _s.Open("/office/range?q=ticked");
        Assert.Equal(2, _s.Count(".range tbody tr"));
        _s.Click("[data-ticks=code]");
        _s.Click("#publish-many");
        Assert.Contains("Published: 1 of 2.", _s.Text("#done-to-many"));
        Assert.Contains("Ticked lamp: It has no price.", _s.Text("#done-to-many"));
        // Enter in a box of the bar publishes nothing and moves no price.
        _s.Click("[data-ticks=code]");
        _s.Send("[name=percent]", "10" + Keys.Enter);
        Assert.Contains("Published", _s.Text("#done-to-many"));
        _s.Click("[name=act][value=Price]");
        _s.Until("prices moved", () => _s.Text("#done-to-many").Contains("Prices moved by 10 %: 1 of 2."));
        _s.See("13.20");
        Assert.Equal("", _s.Findings());
    }

    [Fact]
    public void Goods_are_picked_by_name_while_typing_and_a_name_is_one_product()
    {
        Make("Goes with things");
        _s.Open(new Uri(_s.Url).AbsolutePath.Replace("/facts", "/shelf"));
        _s.Send("#f-companions", "hive st");
        _s.Until("it is listed with its picture", () => _s.Has("#goods [data-code=STAND] img"));
        _s.Send("#f-companions", Keys.ArrowDown + Keys.Enter);
        _s.Until("it is taken", () => _s.Attribute("#f-companions", "value") == "STAND");
        _s.Send("#f-companions", ", tool roll" + Keys.Tab);
        _s.Until("the name is one product", () => _s.Attribute("#f-companions", "value") == "STAND, ROLL");
        Assert.Equal("", _s.Findings());
    }

    [Fact]
    public void Keys_lead_from_chapter_to_chapter_and_say_what_they_are()
    {
        _s.Open("/office/products/GH1/options");
        _s.Send("[aria-label='Surcharge of Pine']", Keys.Alt + Keys.PageDown);
        _s.Until("the matrix is open", () => _s.Url.EndsWith("/matrix", StringComparison.Ordinal));
        _s.Until("it has the focus", () => _s.Focused.GetAttribute("id") == "chapter");
        _s.Press("?");
        _s.Until("the keys are listed", () => _s.Text("#keys").Contains("Alt Page Down"));
        _s.Press(Keys.Escape);
        _s.Until("they are gone", () => _s.Count("#keys[open]") == 0);
        _s.Press(Keys.Alt + Keys.PageUp);
        _s.Until("the options are open", () => _s.Url.EndsWith("/options", StringComparison.Ordinal));
    }

    [Fact]
    public async Task Low_stock_is_filtered_and_names_the_variant()
    {
        using var client = app.Client();
        const string lowly = """
            { "format": "unicus-product/1", "code": "LOWLY", "name": "Lowly tool", "base": { "price": "1.00", "lowLevel": 10 },
              "options": [ { "key": "form", "label": "Form", "role": "variant", "values": [ { "key": "s", "label": "Straight" } ] } ],
              "variants": [ { "values": { "form": "s" }, "stock": 8 } ] }
            """;
        (await client.PutAsync("products/LOWLY", App.Json(lowly))).EnsureSuccessStatusCode();
        _s.Open("/office/stock?show=low");
        _s.See("Lowly tool, Straight");
        _s.Click("a[href$='LOWLY-S']");
        Assert.Contains("the low level is 10", _s.Text("#low-note"));
        Assert.Contains("Straight", _s.Text(".title"));
    }

    [Fact]
    public void A_rule_is_said_and_tried_where_one_looks()
    {
        _s.Open("/office/pricing/new");
        Assert.True((bool)_s.Run("return document.querySelector('#rule').getBoundingClientRect().top < 300")!);
        _s.Open("/office/products/ROLL/parts");
        Assert.True(
            (bool)_s.Run("return [...document.querySelectorAll('.parts-tree, [name=of]')].findIndex(e => e.matches('.parts-tree')) === 0")!
        );
    }
}
