using OpenQA.Selenium;

namespace Unicus.Browser.Tests;

/// <summary>What the shop says on the way: price and day in the bar, surcharges, days, parts without a page.</summary>
[Collection("app")]
public sealed class ShopBarTests(App app)
{
    private async Task Publish(string code, string json)
    {
        using var client = app.Client();
        (await client.PutAsync($"products/{code}", App.Json(json))).EnsureSuccessStatusCode();
        (await client.PostAsync($"products/{code}/publish", App.Json(""))).EnsureSuccessStatusCode();
    }

    [Fact]
    public void The_bar_says_price_and_day_and_values_say_what_they_add()
    {
        using var s = new Steps(App.Browser(390, 844), app.Url);
        s.Open("/p/garden-hive?o-depth=medium&o-timber=larch");
        Assert.Equal("€173.36", s.Text("#foot-total"));
        Assert.Contains("can be sent today", s.Text("#foot-day"));
        // 191.36 is that of cedar, 7.36 less is shallow larch at 166.00.
        Assert.Equal("+€18.00", s.Text("label:has(#o-timber-cedar) .adds"));
        Assert.Equal("−€7.36", s.Text("label:has(#o-depth-shallow) .adds"));
        s.Click("label:has(#o-timber-cedar)");
        s.Until("cedar is picked", () => s.Text("#foot-total") == "€191.36");
        Assert.Equal("Hives", s.Text(".trail a:last-child"));
        Assert.Equal("", s.Findings());
        s.Click("#buy-now");
        s.See("Basket");
        Assert.True((bool)s.Run("return document.documentElement.scrollWidth <= innerWidth")!);
    }

    [Fact]
    public async Task Days_are_typed_and_read_in_words()
    {
        await Publish(
            "DAYS1",
            """
            { "format": "unicus-product/1", "code": "DAYS1", "name": "Dated course", "base": { "price": "30.00" },
              "selling": { "counted": false, "shipped": false }, "withoutSets": ["gift-wrapping"],
              "options": [ { "key": "day", "label": "Day", "role": "extra",
                "ask": "date", "required": true, "date": { "earliestInDays": 0, "latestInDays": 3650 } } ] }
            """
        );
        using var s = new Steps(App.Browser(), app.Url);
        s.Open("/p/dated-course");
        Assert.Contains(" to ", s.Text("#o-day-note"));
        s.Type("#o-day", "3/5/2028");
        s.Until("it is read", () => s.Attribute("#o-day", "value") == "3 May 2028");
        // A course is not sent.
        Assert.False(s.Has("#foot-day"));
        s.Click("#buy-now");
        s.See("Day: 3 May 2028");
        s.Open("/p/dated-course");
        s.Type("#o-day", "31 February 2028");
        s.Until("it is refused", () => s.Has("#o-day[aria-invalid=true]"));
        Assert.Equal("31 February 2028", s.Attribute("#o-day", "value"));
    }

    [Fact]
    public async Task A_piece_that_is_sold_only_through_its_group_is_picked_there_and_links_nowhere()
    {
        var sizes = string.Join(',', Enumerable.Range(1, 14).Select(i => $$"""{ "key": "n{{i}}", "label": "No. {{i}}" }"""));
        await Publish(
            "LONE1",
            $$"""
            { "format": "unicus-product/1", "code": "LONE1", "name": "Lone bolt", "base": { "price": "2.00" },
              "selling": { "counted": false }, "shelf": { "alone": false }, "withoutSets": ["gift-wrapping"],
              "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [{{sizes}}] } ] }
            """
        );
        await Publish(
            "LONES",
            """
            { "format": "unicus-product/1", "code": "LONES", "name": "All bolts", "parts": { "sold": "separately",
              "slots": [ { "key": "bolt", "label": "Bolt", "of": [ { "product": "LONE1" } ] } ] } }
            """
        );
        using var s = new Steps(App.Browser(), app.Url);
        s.Open("/p/all-bolts");
        Assert.Equal(14, s.Count(".group-list input.num"));
        Assert.False(s.Has(".group-list a"));
        s.Send("[name^=n-LONE1]", "2" + Keys.Tab);
        s.Until("it counts", () => s.Text(".group-foot").Contains("2 pieces"));
        s.Click("#buy-now");
        s.See("Basket");
        Assert.False(s.Has("a[href^='/p/lone-bolt']"));
    }

    [Fact]
    public void Delivery_is_chosen_before_it_is_paid()
    {
        using var s = new Steps(App.Browser(), app.Url);
        s.Open("/p/hive-stand");
        s.Click("#buy-now");
        s.Click("#to-checkout");
        s.See("Order and pay");
        Assert.True(
            (bool)
                s.Run(
                    """
                    const totals = document.querySelector('#checkout-totals');
                    return !!(totals.compareDocumentPosition(document.querySelector('[name=payment]')) & Node.DOCUMENT_POSITION_FOLLOWING);
                    """
                )!
        );
    }
}
