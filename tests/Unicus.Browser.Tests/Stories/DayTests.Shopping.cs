using OpenQA.Selenium;

namespace Unicus.Browser.Tests;

/// <summary>What shoppers meet in a day.</summary>
public sealed partial class DayTests
{
    [Fact]
    public async Task Goods_that_are_sold_from_so_many_up_begin_there_and_say_what_is_said_after_an_order()
    {
        await Put("DAYM", "Day foil", """, "variants": [ { "values": {}, "stock": 50 } ]""");
        _s.SignIn();
        _s.Open("/office/products/DAYM/stock");
        _s.Type("#f-minimumQuantity", "6");
        _s.Type("#f-maximumPerOrder", "4");
        _s.See("none could be bought");
        _s.Type("#f-maximumPerOrder", "12");
        _s.Type("#f-afterOrderNote", "Keep it cool");
        _s.See("changes not published");
        _s.Open("/office/products/DAYM/stock");
        Assert.Equal("12", _s.Attribute("#f-maximumPerOrder", "value"));
        _s.Publish();
        _s.Open("/p/day-foil");
        Assert.Equal("6", _s.Attribute("#quantity", "value"));
        _s.See("From 6 up, at most 12 in one order.");
        _s.Open("/p/day-foil?quantity=3");
        _s.See("Day foil is sold from 6 up.");
        Assert.Empty(_s.SeriousFindings());
        _s.Type("#quantity", "1");
        _s.Click("#buy-now");
        _s.See("Day foil is sold from 6 up.");
        _s.Open("/p/day-foil");
        _s.Click("#buy-now");
        Assert.Equal("6", _s.Attribute("[name=quantities]", "value"));
        _s.Type("[name=quantities]", "13");
        _s.Click("button[value=checkout]");
        _s.See("At most 12 of Day foil go into one order.");
        Assert.Equal("13", _s.Attribute("[name=quantities]", "value"));
        _s.Type("[name=quantities]", "12");
        _s.Click("button[value=checkout]");
        foreach (var (name, text) in new[] { ("buyer", "Ada"), ("email", "ada@example.org"), ("address", "4 Comb Street") })
            _s.Type($"[name={name}]", text);
        _s.Click("#place");
        _s.See("Keep it cool");
    }

    [Fact]
    public async Task What_is_missing_when_buying_gets_the_focus_with_and_without_script()
    {
        await Put(
            "DAYQ",
            "Day plaque",
            """
            , "options": [ { "key": "line", "label": "Line", "role": "extra", "ask": "text", "required": true, "maxLength": 20 } ]
            """
        );
        _s.Open("/p/day-plaque");
        _s.Click("#buy-now");
        Focus("#o-line");
        using var plain = new Steps(App.Browser(script: false), app.Url);
        plain.Open("/p/day-plaque");
        plain.Click("#buy-now");
        plain.See("Line");
        Assert.Contains("/p/day-plaque", plain.Url, StringComparison.Ordinal);
        plain.SignIn();
        plain.Open("/office/products/DAYQ/matrix");
        plain.See("Cells save themselves by script, which this browser does not run");
        foreach (var place in new[] { "people", "keys", "events", "me", "sheet", "settings" })
        {
            plain.Open($"/office/{place}");
            plain.Find("h1");
        }
    }

    /// <summary>A picture of one dot, PNG.</summary>
    private const string Dot = "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==";

    /// <summary>Another one.</summary>
    private const string OtherDot = "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAIAAACQd1PeAAAADElEQVR4nGM4IRcFAALyAUHXL9FmAAAAAElFTkSuQmCC";
}
