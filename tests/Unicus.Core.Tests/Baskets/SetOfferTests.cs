using System.Text.Json;
using System.Text.Json.Nodes;

namespace Unicus.CoreTests;

/// <summary>Sets whose parts lie in a basket already.</summary>
public class SetOfferTests
{
    private static Edition Read(int id, string code, string body)
    {
        var json = $$"""{ "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}", {{body}} }""";
        var (product, _, faults) = DocumentReader.Read(JsonDocument.Parse(json).RootElement, Currency.Euro);
        Assert.Empty(faults);
        return RandomRules.Edition(product!, id);
    }

    private const string Sizes = """
        "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [
          { "key": "s", "label": "S" }, { "key": "m", "label": "M" } ] } ]
        """;

    private static Edition Goods(int id, string code, string price) => Read(id, code, $$""" "base": { "price": "{{price}}" }""");

    private static readonly Edition[] Plain =
    [
        Goods(1, "A", "10.00"),
        Goods(2, "B", "20.00"),
        Goods(3, "C", "30.00"),
        Read(4, "SUIT", $$""" "base": { "price": "80.00" }, {{Sizes}} """),
    ];

    private static SetOffer? Find(Edition set, int stock, params (string Code, string Answers, int Quantity)[] basket)
    {
        var range = new PublishedRange.Of([.. Plain, set]);
        var faults = new List<Fault>();
        var completion = new LineCompletion(range, default, Sample.Plain);
        var lines = basket
            .Select(l => new LineRequest(l.Code, null, JsonNode.Parse(l.Answers)!.AsObject(), l.Quantity, null))
            .Select(l => completion.Complete(l, "#", faults)!)
            .ToList();
        Assert.Empty(faults);
        return SetOffer.Find(
            set,
            lines,
            new ConfigurationTerms(range, new StockOutlook(_ => new StockLevel(stock, 0, 0, 0), default), Sample.Plain)
        );
    }

    private static Edition Kit(string slots, string more = "") =>
        Read(9, "KIT", $$"""{{(more.Length > 0 ? more + "," : "")}} "parts": { "slots": [ {{slots}} ] }""");

    private const string TwoTools = """
        { "key": "tools", "of": [ { "product": "A" }, { "product": "B" }, { "product": "C" } ], "picks": { "min": 2, "max": 2 } }
        """;

    [Fact]
    public void The_parts_of_a_set_are_found_with_the_units_that_it_takes()
    {
        var kit = Kit($$"""{{TwoTools}}, { "key": "more", "of": [ { "product": "A" } ], "quantity": { "min": 2, "max": 2 } }""");
        // A stands in both slots: 2 of it are needed for one, so only three of it, or B and C for the tools, are enough.
        Assert.Null(Find(kit, 50, ("A", "{}", 2), ("B", "{}", 1)));
        var offer = Find(kit, 50, ("B", "{}", 1), ("A", "{}", 5))!;
        Assert.Equal([1, 3], offer.Used.AsEnumerable());
        Assert.Equal(["a", "b"], Assert.IsType<Answer.Ticks>(offer.Answers[Key.Of("tools")]).Keys.Select(k => k.Text).Order());
        Assert.Equal([2, 1], Find(kit, 50, ("A", "{}", 2), ("B", "{}", 1), ("C", "{}", 9))!.Used.Take(2));
        Assert.Null(Find(kit, 2, ("B", "{}", 1), ("A", "{}", 5)));
    }

    [Fact]
    public void A_part_that_follows_an_option_answers_it()
    {
        var kit = Kit(
            """
            { "key": "suit", "of": [ { "product": "SUIT" } ], "pick": { "follows": "size" } },
            { "key": "tool", "of": [ { "product": "A" } ] }
            """,
            Sizes
        );
        var offer = Find(kit, 5, ("A", "{}", 1), ("SUIT", """{ "size": "m" }""", 1))!;
        Assert.Equal(new Answer.Value(Key.Of("m")), offer.Answers[Key.Of("size")]);
        Assert.Equal("SUIT-M", offer.Assembled.Parts[0].Status!.Variant!.Sku.Text);
    }

    [Fact]
    public void Nothing_is_offered_that_lies_in_the_basket_or_asks_something()
    {
        var kit = Kit("""{ "key": "tool", "of": [ { "product": "A" } ] }""");
        Assert.NotNull(Find(kit, 5, ("A", "{}", 1)));
        Assert.Null(Find(kit, 5, ("A", "{}", 1), ("KIT", "{}", 1)));
        var asking = Kit(
            """{ "key": "tool", "of": [ { "product": "A" } ] }""",
            """ "options": [ { "key": "name", "label": "Name", "role": "extra", "ask": "text", "required": true } ] """
        );
        Assert.Null(Find(asking, 5, ("A", "{}", 1)));
    }

    /// <summary>A set lying in the basket fills a slot as it is; one of whose parts something was asked does not.</summary>
    [Fact]
    public void A_set_of_whose_parts_something_was_asked_fills_no_slot()
    {
        var inner = Read(5, "INNER", """ "parts": { "slots": [ { "key": "any", "of": [ { "product": "A" } ] } ] } """);
        var kit = Kit("""{ "key": "set", "of": [ { "product": "INNER" } ] }, { "key": "more", "of": [ { "product": "B" } ] }""");
        var range = new PublishedRange.Of([.. Plain, inner, kit]);
        SetOffer? With(JsonObject? parts)
        {
            var faults = new List<Fault>();
            var completion = new LineCompletion(range, default, Sample.Plain);
            var set = completion.Complete(new LineRequest("INNER", null, [], 1, null) { Parts = parts }, "#", faults);
            var more = completion.Complete(new LineRequest("B", null, [], 1, null), "#", faults);
            Assert.Empty(faults);
            var terms = new ConfigurationTerms(range, new StockOutlook(_ => new StockLevel(9, 0, 0, 0), default), Sample.Plain);
            return SetOffer.Find(kit, [set!, more!], terms);
        }
        Assert.NotNull(With(null));
        Assert.Null(With(JsonNode.Parse("""{ "any": [ { "product": "A" } ] }""")!.AsObject()));
    }
}
