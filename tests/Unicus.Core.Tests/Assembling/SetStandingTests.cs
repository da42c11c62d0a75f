using System.Text.Json;
using System.Text.Json.Nodes;

namespace Unicus.CoreTests;

/// <summary>How sets stand while picks are made: what is asked, what is open, what it costs.</summary>
public class SetStandingTests
{
    private static Edition Plain(string code, int id, string price) =>
        Sample.OnSale(
            id,
            $$"""{ "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}", "base": { "price": "{{price}}" } }"""
        );

    private static Edition Suit { get; } =
        Sample.OnSale(
            3,
            """
            { "format": "unicus-product/1", "code": "SUIT", "name": "Suit", "base": { "price": "80.00" },
              "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [
                { "key": "s", "label": "S" }, { "key": "m", "label": "M" }, { "key": "l", "label": "L" } ] } ],
              "notMade": [ { "size": "l" } ] }
            """
        );

    private static Edition Set(string slots, string more = "") =>
        Sample.OnSale(
            9,
            $$"""{ "format": "unicus-product/1", "code": "SET", "name": "Set", "parts": { "slots": [ {{slots}} ] }{{more}} }"""
        );

    private static ConfigurationStatus Of(Edition set, string answers, string parts = "{}", Filling filling = Filling.None, int stock = 5)
    {
        var range = new PublishedRange.Of([Plain("A", 1, "10.00"), Plain("B", 2, "25.00"), Suit, set]);
        var terms = new ConfigurationTerms(range, new StockOutlook(_ => new StockLevel(stock, 0, 0, 0), default), Sample.Plain);
        var faults = new List<Fault>();
        Node Of(string json, string at) => new(JsonDocument.Parse(json).RootElement, at, faults);
        var said = PartAnswersDocument.Read(Of(parts, "#/parts"), set, range, default);
        var given = AnswerDocument.Read(Of(answers, "#/answers"), set.Configurator.Questions, default);
        given = PartAnswersDocument.Picks(said, set, given, Of(parts, "#/parts"));
        Assert.Empty(faults);
        return ConfigurationStatus.Of(set, given, filling, terms, said);
    }

    private const string Choice = """{ "key": "tool", "of": [ { "product": "A" }, { "product": "B" } ] }""";

    [Fact]
    public void A_slot_with_a_choice_is_a_question_and_one_without_is_none()
    {
        var set = Set(
            $$"""
            {{Choice}}, { "key": "suit", "of": [ { "product": "SUIT" } ] },
            { "key": "more", "of": [ { "sku": "A" } ], "optional": true }
            """
        );
        var status = Of(set, "{}");
        Assert.Equal(["tool", "more"], status.Reply.Questions.Select(q => q.Question.Key.Text));
        // Which tool, and with or without more; sizes do not count.
        Assert.Equal(4, status.Reply.Count);
        Assert.Equal(["tool", "suit", "more"], status.Assembled!.Open.Select(s => s.Key.Text));
        Assert.Null(SetCounts.Of(status)!.Available);
    }

    [Fact]
    public void Several_picks_count_as_subsets_within_their_limits()
    {
        var set = Set(
            """
            { "key": "tools", "of": [ { "product": "A" }, { "product": "B" }, { "product": "SUIT" } ],
              "picks": { "min": 1, "max": 2 } }
            """
        );
        Assert.Equal(6, Of(set, "{}").Reply.Count);
        Assert.Equal(1, Of(set, """{ "tools": [ "a", "suit" ] }""").Reply.Count);
    }

    [Fact]
    public void Price_and_number_are_those_of_what_is_picked()
    {
        var set = Set($$"""{{Choice}}, { "key": "suit", "of": [ { "product": "SUIT" } ], "quantity": { "min": 2, "max": 2 } }""");
        var status = Of(set, """{ "tool": "b" }""", """{ "suit": [ { "product": "SUIT", "answers": { "size": "m" } } ] }""");
        Assert.Equal("185.00", status.Price!.Working.Unit.ToString());
        var counts = SetCounts.Of(status)!;
        Assert.Equal((2, 2), (counts.Available, counts.Most));
        Assert.Equal(["SUIT-M"], counts.RunsOut.Select(g => g.Variant.Sku.Text));
        // Open picks: 5 of each suit in two sizes.
        Assert.Equal(4, SetCounts.Of(Of(set, """{ "tool": "b" }"""))!.Most);
        var open = Of(set, "{}").Price!;
        Assert.Equal(("170.00", "185.00", true), (open.Lowest.ToString(), open.Highest.ToString(), open.IsExact));
    }

    /// <summary>A part whose name has to be typed is picked, so its slot is not open; but nothing can be ordered without it, however deep
    /// it lies.</summary>
    [Theory]
    [InlineData("PLATE", "sign/name", "sign, name", "{ \"sign\": [ { \"product\": \"PLATE\", \"answers\": { \"name\": \"Ida\" } } ] }")]
    [InlineData(
        "INNER",
        "sign/plate/name",
        "sign, plate, name",
        """
            { "sign": [ { "product": "INNER", "parts": { "plate": [ { "product": "PLATE", "answers": { "name": "Ida" } } ] } } ] }
            """
    )]
    public void What_a_part_needs_is_asked_before_it_is_ordered(string part, string open, string asks, string said)
    {
        var plate = Sample.OnSale(
            4,
            """
            { "format": "unicus-product/1", "code": "PLATE", "name": "Plate", "base": { "price": "12.00" },
              "options": [ { "key": "name", "label": "Name", "role": "extra", "ask": "text", "required": true } ] }
            """
        );
        var inner = Sample.OnSale(
            5,
            """
            { "format": "unicus-product/1", "code": "INNER", "name": "Inner",
              "parts": { "slots": [ { "key": "plate", "of": [ { "product": "PLATE" } ] } ] } }
            """
        );
        var set = Set($$"""{ "key": "sign", "of": [ { "product": "{{part}}" } ] }""");
        var range = new PublishedRange.Of([plate, inner, set]);
        var asked = new LineRequest("SET", null, [], 1, "SET");
        var faults = new List<Fault>();
        Assert.Null(new LineCompletion(range, default, Sample.Plain).Complete(asked, "#", faults));
        Assert.Equal([$"Still open: {open}."], faults.Select(f => f.What));
        var status = ConfigurationStatus.Of(
            set,
            Configuration.Empty,
            Filling.Rest,
            new ConfigurationTerms(range, StockOutlook.Empty(default), Sample.Plain)
        );
        Assert.Equal((true, false, true), (status.IsOpen, status.IsWhole, status.Assembled!.Open.IsEmpty));
        faults.Clear();
        var answered = asked with { Parts = JsonNode.Parse(said)!.AsObject() };
        var line = new LineCompletion(range, default, Sample.Plain).Complete(answered, "#", faults)!;
        Assert.Equal((asks, "“Ida”"), Assert.Single(PriceRun.Of([line], Sample.Plain, range).Basket!.Lines[0].Extras));
    }

    /// <summary>A kit in a size takes the suit in that size; one that the suit is not made in is not made for the kit.</summary>
    [Fact]
    public void A_part_follows_an_option_of_the_set()
    {
        var bare = Set(
            """{ "key": "suit", "of": [ { "product": "SUIT" } ], "pick": { "follows": "size" } }""",
            """
            , "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [
              { "key": "s", "label": "S" }, { "key": "m", "label": "M" }, { "key": "l", "label": "L" } ] } ]
            """
        );
        var slot = bare.Product.SlotsInRange[0];
        var filled = slot with { Candidates = [slot.Candidates[0] with { Counterparts = [Key.Of("s"), Key.Of("m")] }] };
        var set = RandomRules.Edition(bare.Product with { Filled = [filled] }, 9);
        var open = Of(set, "{}");
        Assert.Equal([true, true, false], open.Reply.Questions[0].Possible.AsEnumerable());
        Assert.Equal(2, open.Reply.Count);
        Assert.Equal("SUIT-M", Of(set, """{ "size": "m" }""").Needs.Value[0].Goods.Variant.Sku.Text);
        var (conflict, _) = set.Configurator.Conflict(Configuration.Empty.With(Key.Of("size"), new Answer.Value(Key.Of("l"))))!.Value;
        Assert.True(conflict.NotMade);
        Assert.Empty(conflict.Rules);
    }

    [Fact]
    public void Both_ways_to_pick_must_agree()
    {
        var set = Set(Choice);
        var faults = new List<Fault>();
        var range = new PublishedRange.Of([Plain("A", 1, "10.00"), Plain("B", 2, "25.00"), set]);
        var node = new Node(JsonDocument.Parse("""{ "tool": [ { "product": "A" } ] }""").RootElement, "#/parts", faults);
        var said = PartAnswersDocument.Read(node, set, range, default);
        var given = Configuration.Empty.With(Key.Of("tool"), new Answer.Value(Key.Of("b")));
        PartAnswersDocument.Picks(said, set, given, node);
        Assert.Equal(["#/parts/tool"], faults.Select(f => f.Where));
    }

    [Theory]
    [InlineData("""{ "hat": [] }""", "#/parts/hat")]
    [InlineData("""{ "tool": {} }""", "#/parts/tool")]
    [InlineData("""{ "tool": [ { "product": "C" } ] }""", "#/parts/tool/0")]
    [InlineData("""{ "tool": [ { "product": "A", "quantity": 2 } ] }""", "#/parts/tool/0/quantity")]
    [InlineData("""{ "tool": [ { "product": "A", "answers": { "x": 1 } } ] }""", "#/parts/tool/0/answers/x")]
    [InlineData("""{ "tool": [ { "product": "A" }, { "product": "A" } ] }""", "#/parts/tool")]
    public void What_is_asked_of_parts_wrongly_is_told_with_its_place(string parts, string pointer)
    {
        var set = Set(Choice);
        var faults = new List<Fault>();
        var range = new PublishedRange.Of([Plain("A", 1, "10.00"), Plain("B", 2, "25.00"), set]);
        PartAnswersDocument.Read(new Node(JsonDocument.Parse(parts).RootElement, "#/parts", faults), set, range, default);
        Assert.Contains(faults, f => f.Where == pointer);
    }

    /// <summary>A part that is not on sale, or a set that came to contain itself, is said and sold by nobody; nothing breaks.</summary>
    [Fact]
    public void What_is_gone_is_said()
    {
        var set = Set("""{ "key": "gone", "of": [ { "product": "GONE" } ] }""");
        var status = Of(set, "{}", filling: Filling.Rest);
        Assert.Equal("gone: GONE is not on sale.", status.Assembled!.Problem);
        Assert.Equal(0, status.Available!.Units);
        var self = Sample.OnSale(
            9,
            """
            { "format": "unicus-product/1", "code": "SET", "name": "Set",
              "parts": { "slots": [ { "key": "x", "of": [ { "sku": "SET" } ] } ] } }
            """
        );
        Assert.Contains("contains Set", Of(self, "{}", filling: Filling.Rest).Assembled!.Problem, StringComparison.Ordinal);
    }

    /// <summary>Rules of the shop about a part stay outside unless the set says that they act inside.</summary>
    [Theory]
    [InlineData("", "35.00")]
    [InlineData(""", "rulesReachParts": true""", "30.00")]
    public void A_rule_about_a_part_acts_inside_only_where_the_set_says_so(string more, string total)
    {
        var rule = new PriceRule(Key.Of("half"), "Half", new PriceEffect.Reduce(50, null)) { Scope = new PriceScope { Products = ["A"] } };
        var set = Sample.OnSale(
            9,
            $$"""
            { "format": "unicus-product/1", "code": "SET", "name": "Set", "parts": { "slots": [
              { "key": "a", "of": [ { "product": "A" } ] }, { "key": "b", "of": [ { "product": "B" } ] } ]{{more}} } }
            """
        );
        var range = new PublishedRange.Of([Plain("A", 1, "10.00"), Plain("B", 2, "25.00"), set]);
        var faults = new List<Fault>();
        var line = new LineCompletion(range, default, RuleTerms.Under([rule])).Complete(
            new LineRequest("SET", null, [], 1, null),
            "#",
            faults
        );
        Assert.Equal(total, PriceRun.Of([line!], RuleTerms.Under([rule]), range).Basket!.Lines[0].Total.ToString());
    }
}
