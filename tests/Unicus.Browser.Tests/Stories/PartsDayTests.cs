using System.Globalization;
using System.Net.Http.Json;
using System.Text.Json.Nodes;
using OpenQA.Selenium;

namespace Unicus.Browser.Tests;

/// <summary>A day with parts: pins, sets made up ahead, a page for a few, parts of orders, sets offered beside goods.</summary>
[Collection("app")]
public sealed class PartsDayTests(App app) : IDisposable
{
    private readonly HttpClient _client = app.Client();

    public void Dispose() => _client.Dispose();

    private async Task Publish(string code, string name, string body)
    {
        var json = $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "{{name}}", "withoutSets": ["gift-wrapping"], {{body}} }
            """;
        var reply = await _client.PutAsync($"products/{code}", App.Json(json));
        Assert.True(reply.IsSuccessStatusCode, await reply.Content.ReadAsStringAsync());
        var published = await _client.PostAsync($"products/{code}/publish", null);
        Assert.True(published.IsSuccessStatusCode, await published.Content.ReadAsStringAsync());
    }

    private Task Plain(string code, string name, string price, int stock, string more = "") =>
        Publish(code, name, $$""" "base": { "price": "{{price}}" }, "variants": [ { "values": {}, "stock": {{stock}} } ]{{more}}""");

    private static string Slot(string key, string code) => $$"""{ "key": "{{key}}", "of": [ { "product": "{{code}}" } ] }""";

    private async Task<JsonNode> Order(string lines)
    {
        var json = $$"""{ "lines": [ {{lines}} ], "buyer": { "name": "Brid", "email": "brid@example.org", "address": "x" } }""";
        var reply = await _client.PostAsync("orders", App.Json(json));
        Assert.True(reply.IsSuccessStatusCode, await reply.Content.ReadAsStringAsync());
        return (await reply.Content.ReadFromJsonAsync<JsonNode>())!;
    }

    private async Task<int> Available(string sku) => (int)(await _client.GetFromJsonAsync<JsonNode>($"stock/{sku}"))!["available"]!;

    /// <summary>Pins of a lookbook by keyboard alone, then taken out and put back; the shop's picture leads to the piece.</summary>
    [Fact]
    public void Pins_are_placed_by_keyboard()
    {
        using var s = new Steps(App.Browser(), app.Url);
        s.SignIn();
        s.Open("/office/products/APIARY/parts");
        s.Until("the pin stands", () => s.Has("#pin-0-hive"));
        var before = s.Attribute("[name=x-hive]", "value");
        s.Run("document.querySelector('#pin-0-hive').focus()");
        s.Press(Keys.ArrowRight);
        s.Press(Keys.ArrowRight);
        var wanted = decimal.Parse(before!, CultureInfo.InvariantCulture) + 2;
        s.Until("the pin was kept further right", () => Pin("hive") == wanted, () => $"{before} {Pin("hive")}");
        Assert.Equal("", s.SeriousFindings());
        s.Click("[data-put-pin=feeder]");
        s.Until("the feeder has one", () => s.Has("#pin-0-feeder"));
        Assert.Equal(50m, Pin("feeder"));
        s.Click("[data-take-pin=feeder]");
        s.Until("it is gone", () => !s.Has("#pin-0-feeder"));
        s.Type("[name=y-hive]", "140");
        s.See("a pin stands at 0 to 100 per cent");
        s.Open("/p/first-year-apiary");
        s.Click(".look-pins a[href='#piece-hive']");
        Assert.EndsWith("#piece-hive", s.Url, StringComparison.Ordinal);
    }

    private decimal? Pin(string slot)
    {
        using var read = new HttpRequestMessage(HttpMethod.Get, "products/APIARY");
        var json = JsonNode.Parse(_client.Send(read).Content.ReadAsStringAsync().Result)!;
        var pin = json["parts"]!["pictures"]![0]!["pins"]!.AsArray().FirstOrDefault(p => (string)p!["slot"]! == slot);
        return pin is null ? null : (decimal)pin["x"]! * 100;
    }

    private static string Sizes(string one, string other) =>
        $$"""
            "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [ { "key": "{{one}}", "label": "Part {{one}}" },
              { "key": "{{other}}", "label": "Part {{other}}" } ] } ]
            """;

    private JsonNode SlotOf(string product, int slot)
    {
        using var read = new HttpRequestMessage(HttpMethod.Get, $"products/{product}");
        return JsonNode.Parse(_client.Send(read).Content.ReadAsStringAsync().Result)!["parts"]!["slots"]![slot]!;
    }

    /// <summary>The part's values are led to from the set's by a table, and the quantity is changed in the tree.</summary>
    [Fact]
    public async Task A_part_follows_by_a_table_and_its_quantity_is_changed_in_the_tree()
    {
        await Publish("FOLL", "Follower", $$""" "base": { "price": "5.00" }, {{Sizes("m", "xl")}} """);
        var parts = $$"""
            "parts": { "slots": [ { "key": "a", "of": [ { "product": "FOLL" } ], "pick": { "follows": "size" } } ] }
            """;
        await Publish("LEADER", "Leader", $"{Sizes("m", "l")}, {parts}");
        using var s = new Steps(App.Browser(), app.Url);
        s.SignIn();
        s.Open("/office/products/LEADER/parts");
        s.Choose("[name=follow-l]", "xl");
        s.Until("the table is kept", () => (string?)SlotOf("LEADER", 0)["pick"]?["table"]?["l"] == "xl");
        Assert.Equal("m", (string?)SlotOf("LEADER", 0)["pick"]!["table"]!["m"]);
        // What is kept is shown a moment later; what is picked before that would go with the boxes that are replaced.
        s.See("1 change not published");
        s.Choose("[name=follow-l]", "");
        // By equal keys again, without a table.
        s.Until("the table is gone", () => SlotOf("LEADER", 0)["pick"]!["table"] is null);
        s.Send("#units-a", Keys.Control + "a" + Keys.Control + "3" + Keys.Enter);
        s.Until("the quantity is kept", () => (int)SlotOf("LEADER", 0)["quantity"]!["min"]! == 3);
        s.Send("#units-a", Keys.Control + "a" + Keys.Control + "none" + Keys.Enter);
        s.See("A quantity is written 1");
        Assert.Equal(3, (int)SlotOf("LEADER", 0)["quantity"]!["min"]!);
        Assert.Equal("", s.SeriousFindings());
    }

    /// <summary>What one piece of a group shows is switched for it alone; what is only a part is found by each of those it is in.</summary>
    [Fact]
    public async Task A_piece_shows_its_own_and_what_is_only_a_part_is_found_by_what_it_is_in()
    {
        await Plain("QUILL", "Quill", "4.00", 9);
        await Plain("INKPOT", "Inkpot", "3.00", 9);
        await Publish(
            "DESK",
            "Desk things",
            $$""" "parts": { "sold": "separately", "slots": [ {{Slot("a", "QUILL")}}, {{Slot("b", "INKPOT")}} ] }"""
        );
        await Publish("WRITER", "Writing set", $$""" "parts": { "slots": [ {{Slot("a", "QUILL")}} ] }""");
        await Plain("QUILL", "Quill", "4.00", 9, """, "shelf": { "alone": false }""");
        using var s = new Steps(App.Browser(), app.Url);
        s.SignIn();
        s.Open("/office/products/DESK/parts");
        s.Choose("#slot-a [name=showsOwn]", "yes");
        s.Until("its switches are there", () => s.Has("#slot-a [name=shows][value=Price]"));
        s.Click("#slot-a [name=shows][value=Price]");
        s.Until("they are kept", () => SlotOf("DESK", 0)["shows"]?.AsArray().Count == 4);
        Assert.Null(SlotOf("DESK", 1)["shows"]);
        s.Until("the proof shows one price", () => s.Has("#piece-b") && s.Text("#piece-a").Contains("4.00") == false);
        Assert.Contains("3.00", s.Text("#piece-b"));
        s.Open("/?q=quill");
        s.See("Desk things");
        s.See("Writing set");
        Assert.False(s.Has("a[href='/p/quill']"));
    }

    /// <summary>Sets are made up and taken apart in the workbench; two presses at once make up once.</summary>
    [Fact]
    public async Task A_set_is_made_up_and_taken_apart()
    {
        await Plain("UPA", "Upper", "5.00", 9);
        var parts = $$""" "parts": { "stock": "own-then-parts", "slots": [ {{Slot("a", "UPA")}} ] }""";
        await Publish("UPSET", "Upset", parts);
        using var s = new Steps(App.Browser(), app.Url);
        s.SignIn();
        s.Open("/office/products/UPSET/parts");
        s.See("9 more can be made");
        s.Send(".made-up [name=units]", "4");
        s.Run("const b = document.querySelector('.made-up [value=up]'); b.click(); b.click();");
        s.See("4 made up and free");
        Assert.Equal((4, 5), (await Available("UPSET"), await Available("UPA")));
        s.Send(".made-up [name=units]", "5");
        s.Click(".made-up [value=apart]");
        s.See("5 of UPSET are needed");
        s.Type(".made-up [name=units]", "4");
        s.Click(".made-up [value=apart]");
        s.See("0 made up and free");
        Assert.Equal((0, 9), (await Available("UPSET"), await Available("UPA")));
    }

    /// <summary>A page off the shelf with a password, a price of its own and a last day, with and without script; then what was ordered
    /// through it by person and piece.</summary>
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task A_page_for_a_few_has_its_password_and_prices(bool script)
    {
        var code = script ? "FEW" : "FEWPLAIN";
        await Plain(code + "A", $"Sugar {code}", "10.00", 50);
        await Publish(
            code,
            $"Beekeepers {code}",
            $$"""
            "shelf": { "listed": false, "searchable": true, "password": "Skep 7", "until": "2099-01-31" },
            "parts": { "sold": "separately", "slots": [ {{Slot("a", code + "A")}} ] }
            """
        );
        var rule = $$"""
            { "key": "few-{{code.ToLowerInvariant()}}", "name": "Few", "scope": { "through": "{{code}}" },
              "effect": { "reduce": { "percent": "10" } } }
            """;
        (await _client.PutAsync($"price-rules/few-{code.ToLowerInvariant()}", App.Json(rule))).EnsureSuccessStatusCode();
        using var s = new Steps(App.Browser(script ? 390 : 1280, script: script), app.Url);
        s.Open($"/?q=Beekeepers+{code}");
        s.See("1 product");
        s.Open("/?q=Beekeepers");
        Assert.DoesNotContain($"Beekeepers {code}", s.Text("main"), StringComparison.Ordinal);
        s.Open($"/p/beekeepers-{code.ToLowerInvariant()}");
        s.Send("#page-password", "guess");
        s.Click(".page-lock button");
        s.See("That is not the password.");
        if (script)
            Assert.Equal("", s.SeriousFindings());
        s.Send("#page-password", "Skep 7");
        s.Click(".page-lock button");
        s.See("9.00");
        s.See("until 31 January 2099");
        s.Send($"[name=n-{code}A]", "3");
        s.Click("#buy-now");
        s.See("Basket");
        s.See("27.00");
        if (script)
            Assert.Equal("", s.SeriousFindings());

        await Order($$"""{ "product": "{{code}}", "pieces": [ { "product": "{{code}}A", "quantity": 4 } ] }""");
        using var office = new Steps(App.Browser(), app.Url);
        office.SignIn();
        office.Open($"/office/orders/through/{code}");
        Assert.Contains("brid@example.org", office.Text("table.through tbody"), StringComparison.Ordinal);
        Assert.Equal("36.00", office.Text("table.through tfoot td:last-child"));
        Assert.Equal("", office.SeriousFindings());
    }

    /// <summary>A part of an order is sent, another cancelled with its refund, the rest dispatched.</summary>
    [Fact]
    public async Task An_order_is_sent_and_cancelled_a_part_at_a_time()
    {
        await Plain("BIT", "Bit", "7.00", 20);
        var number = (await Order("""{ "sku": "BIT", "quantity": 5 }"""))["number"]!;
        using var s = new Steps(App.Browser(), app.Url);
        s.SignIn();
        s.Open($"/office/orders/{number}");
        s.Click("#by-parts summary");
        s.Send("#by-parts td input", "9");
        s.Click("#send-parts");
        s.See("5 are still to be sent");
        Assert.Equal("9", s.Attribute("#by-parts td input", "value"));
        s.Type("#by-parts td input", "2");
        s.Click("#send-parts");
        s.See("2 sent");
        s.Send("#by-parts td input", "1");
        s.Send("#parts-reason", "cracked");
        s.Click("#cancel-parts");
        s.See("1 cancelled, 7.00 refunded");
        Assert.Equal("", s.SeriousFindings());
        s.Click("#dispatch");
        s.Until("all of it left", () => !s.Has("#dispatch"));
        Assert.Equal(16, await Available("BIT"));
        var order = (await _client.GetFromJsonAsync<JsonNode>($"orders/{number}"))!;
        Assert.Equal(
            ("7.00", 4, 1),
            ((string)order["refunded"]!, (int)order["lines"]![0]!["sent"]!, (int)order["lines"]![0]!["cancelled"]!)
        );
    }

    /// <summary>A set stands on the page of what is in it; in the basket its parts become the set in one press; companions are
    /// shown.</summary>
    [Fact]
    public async Task A_set_is_offered_beside_its_parts()
    {
        await Plain("OFA", "Offer pan", "30.00", 9, """, "companions": ["OFC"], "stepUps": ["OFB"] """);
        await Plain("OFB", "Offer lid", "20.00", 9);
        await Plain("OFC", "Offer cloth", "4.00", 9);
        await Publish(
            "OFSET",
            "Offer pair",
            $$"""
            "parts": { "price": { "rule": "sum", "reduce": { "amount": "8.00" } },
              "slots": [ {{Slot("a", "OFA")}}, {{Slot("b", "OFB")}} ] }
            """
        );
        using var s = new Steps(App.Browser(), app.Url);
        s.Open("/p/offer-pan");
        s.See("8.00 less than one by one");
        s.See("Offer cloth");
        s.See("Or rather Offer lid");
        Assert.Equal("", s.SeriousFindings());
        s.Click("#buy-now");
        s.See("Goes with it");
        s.Open("/p/offer-lid");
        s.Click("#buy-now");
        s.See("The parts of the Offer pair are in it: as the set €8.00 less");
        Assert.Equal("", s.SeriousFindings());
        s.Click("#as-sets button");
        s.Until("one line is left", () => s.Count("[name=quantities]") == 1);
        s.See("42.00");
        s.Open("/p/offer-lid");
        s.Click("[aria-label='Take the set Offer pair']");
        s.Until("two of the set", () => s.Attribute("[name=quantities]", "value") == "2");
    }

    [Fact]
    public async Task A_set_that_is_sold_from_two_on_is_taken_twice_from_the_page_of_what_is_in_it()
    {
        await Plain("PEG", "Tent peg", "1.00", 90);
        await Publish("PEGS", "Pegs by six", $$""" "selling": { "minimumQuantity": 2 }, "parts": { "slots": [ {{Slot("a", "PEG")}} ] }""");
        using var s = new Steps(App.Browser(), app.Url);
        s.Open("/p/tent-peg");
        s.Click("[aria-label='Take the set Pegs by six']");
        s.Until("two of the set", () => s.Attribute("[name=quantities]", "value") == "2");
        s.See("2.00");
    }

    /// <summary>A candidate of which there is not enough for the quantity says so; with fewer it can be picked.</summary>
    [Fact]
    public async Task A_candidate_says_that_there_is_not_enough_of_it()
    {
        await Plain("ENA", "Enough jar", "5.00", 9);
        await Plain("ENB", "Scarce jar", "5.00", 2);
        var choice = """{ "key": "jar", "of": [ { "product": "ENA" }, { "product": "ENB" } ], "quantity": { "min": 2, "max": 2 } }""";
        await Publish("ENSET", "Jars by two", $$""" "parts": { "slots": [ {{choice}} ] }""");
        using var s = new Steps(App.Browser(), app.Url);
        s.Open("/p/jars-by-two");
        s.See("Scarce jar");
        Assert.DoesNotContain("not enough", s.Text("#buy"), StringComparison.Ordinal);
        s.Open("/p/jars-by-two?quantity=2");
        s.See("not enough for 2");
        s.Open("/p/jars-by-two?quantity=5");
        s.See("not enough for 5");
        Assert.Equal("", s.SeriousFindings());
    }

    /// <summary>A set without a picture gets one of its parts' pictures, which the shop shows.</summary>
    [Fact]
    public async Task A_set_gets_a_picture_of_its_parts()
    {
        await Publish("PICSET", "Pictured set", $$""" "parts": { "slots": [ {{Slot("a", "SMK")}}, {{Slot("b", "SCR")}} ] }""");
        using var s = new Steps(App.Browser(), app.Url);
        s.SignIn();
        s.Open("/office/products/PICSET/facts");
        s.Click("#picture-of-parts");
        s.Until("it has one, and is offered none", () => s.Count(".pictures-list li") == 1 && !s.Has("#picture-of-parts"));
        (await _client.PostAsync("products/PICSET/publish", null)).EnsureSuccessStatusCode();
        s.Open("/p/pictured-set");
        s.Until("the shop shows it", () =>
            (bool)s.Run("const i = document.querySelector('.lead-picture'); return !!i && i.naturalWidth > 0")!
        );
        Assert.Equal("What is in Pictured set", s.Attribute(".lead-picture", "alt"));
    }

    /// <summary>What leads on the start page, with its badge, switched on in the chapter Shelf.</summary>
    [Fact]
    public async Task The_start_page_leads_with_what_is_featured()
    {
        await Plain("LEAD", "Leading goods", "5.00", 9);
        using var s = new Steps(App.Browser(), app.Url);
        s.SignIn();
        s.Open("/office/products/LEAD/shelf");
        s.Type("[name=field][value=badge] ~ input[name=value], form:has([value=badge]) input[name=value]:not([type=hidden])", "Fresh");
        s.Type("form:has([value=featuredUntil]) input[name=value]", "31 January 2099");
        s.Type("form:has([value=featuredFrom]) input[name=value]", "1 February 2099");
        s.See("It would end before it begins.");
        (await _client.PostAsync("products/LEAD/publish", null)).EnsureSuccessStatusCode();
        s.Open("/");
        Assert.Contains("Leading goods", s.Text(".featured"), StringComparison.Ordinal);
        Assert.Contains("Fresh", s.Text(".featured"), StringComparison.Ordinal);
        Assert.Equal("", s.SeriousFindings());
    }
}
