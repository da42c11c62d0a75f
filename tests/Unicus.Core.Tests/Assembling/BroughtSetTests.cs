using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using CsCheck;
using static Unicus.CoreTests.RuleTerms;

namespace Unicus.CoreTests;

/// <summary>Sets that come with the answer to an extra: they come apart like any set (domain.md, section 6).</summary>
public class BroughtSetTests
{
    private static Edition Plain(string code, int id, string more = "") =>
        Sample.OnSale(
            id,
            $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}",
              "base": { "price": "{{id}}0.00", "cost": "{{id}}.00" }{{more}} }
            """
        );

    /// <summary>Goods for 90.00 with an extra that brings some parts.</summary>
    private static Edition Hive(params (string Sku, int Quantity)[] parts)
    {
        var values = parts.Select(
            (p, i) => $$"""{ "key": "v{{i}}", "label": "V{{i}}", "part": { "sku": "{{p.Sku}}", "quantity": {{p.Quantity}} } }"""
        );
        return Plain(
            "HIVE",
            9,
            $$""", "options": [ { "key": "with", "label": "With", "role": "extra", "ask": "several", "values": [ {{string.Join(
                ',',
                values
            )}} ] } ]"""
        );
    }

    private static Edition Set(string code, int id, string slots, string more = "") =>
        Sample.OnSale(
            id,
            $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}", "parts": { "slots": [ {{slots}} ]{{more}} } }
            """
        );

    private static string Slot(string code, int units = 1) =>
        $$"""
            { "key": "{{code.ToLowerInvariant()}}", "of": [ { "product": "{{code}}" } ],
              "quantity": { "min": {{units}}, "max": {{units}} } }
            """;

    private static (RunLine? Line, List<Fault> Faults) Complete(PublishedRange range, int quantity, params string[] with)
    {
        var faults = new List<Fault>();
        var answers = new JsonObject { ["with"] = new JsonArray([.. with.Select(w => (JsonNode)w)]) };
        var request = new LineRequest("HIVE", null, answers, quantity, null);
        return (new LineCompletion(range, new DateOnly(2027, 3, 1), Under([])).Complete(request, "#", faults), faults);
    }

    /// <summary>What is picked of a set of which nothing is open, as a request; null where something is.</summary>
    private static JsonObject? Settled(RandomSets range, string code, string? size)
    {
        var (doc, picked) = (range.Docs[code], new JsonObject());
        foreach (var slot in doc["parts"]!["slots"]!.AsArray())
        {
            picked[(string)slot!["key"]!] = new JsonArray();
            // What may stay empty does, where nothing is picked.
            if (slot["optional"] is not null)
                continue;
            if (slot["of"]!.AsArray().Count > 1)
                return null;
            if ((int)slot["quantity"]!["min"]! != (int)slot["quantity"]!["max"]!)
                return null;
            var entry = slot["of"]![0]!;
            var (name, bySku) = (RandomSets.CodeOf(entry), entry["sku"] is not null);
            var goods = name.Split('-')[0];
            var part = new JsonObject { [bySku ? "sku" : "product"] = name, ["quantity"] = (int)slot["quantity"]!["min"]! };
            var isSized = range.Docs[goods]["options"]?.AsArray().Any(o => (string)o!["key"]! == "size") == true;
            var follows = isSized && slot["pick"] is JsonObject;
            if (isSized && !bySku && !follows)
                return null;
            if (follows && bySku && name.Split('-')[1].ToLowerInvariant() != size)
                return null;
            if (follows && entry["variants"] is not null && size == "l")
                return null;
            if (isSized && !bySku)
                part["answers"] = new JsonObject { ["size"] = size };
            if (goods[0] == 'S')
            {
                if (Settled(range, goods, isSized ? size : null) is not { } inner)
                    return null;
                part["parts"] = inner;
            }
            picked[(string)slot["key"]!] = new JsonArray(part);
        }
        return picked;
    }

    /// <summary>Whether anything is in it, made up ahead or not.</summary>
    private static bool IsFilled(RandomSets range, string code, JsonObject picked) =>
        code[0] != 'S'
        || (string)range.Docs[code]["parts"]!["stock"]! != "parts"
        || picked
            .SelectMany(s => s.Value!.AsArray())
            .Any(p => p!["parts"] is not JsonObject inner || IsFilled(range, RandomSets.CodeOf(p).Split('-')[0], inner));

    /// <summary>Random sets within sets behind an answer, beside a plain part, against the second reading of the text: what is paid and
    /// what comes to each leaf. A set of which something is open cannot come with an answer.</summary>
    [Fact]
    public void Price_and_leaves_are_those_of_a_second_reading()
    {
        var (priced, refused) = (0, 0);
        Gen.Select(Gen.Int, Gen.Int[1, 3], Gen.Int[1, 4])
            .Sample(
                (seed, units, quantity) =>
                {
                    var sets = new RandomSets(seed);
                    var code = $"S{1 + (seed & int.MaxValue) % 3}";
                    var size = sets.Docs[code]["options"] is null ? null : RandomSets.Sizes[(seed & int.MaxValue) % 7 % 3];
                    var sku = size is null ? code : $"{code}-{size.ToUpperInvariant()}";
                    var hive = Hive((sku, units), ("P1", 2));
                    var range = new PublishedRange.Of([.. sets.Editions.Select((e, i) => e with { ProductId = i + 20 }), hive]);
                    var (line, faults) = Complete(range, quantity, "v0", "v1");
                    var picked = Settled(sets, code, size);
                    // A set within it may be left with one size, which then answers itself.
                    if (picked is null && line is not null && sets.Docs.Any(d => d.Key[0] == 'S' && d.Value["options"] is not null))
                        return;
                    if (picked is null || !IsFilled(sets, code, picked))
                    {
                        Assert.Null(line);
                        Assert.Matches("cannot be had|has no|nothing is there|not on sale", faults[0].What);
                        Interlocked.Increment(ref refused);
                        return;
                    }
                    Assert.Empty(faults);
                    Interlocked.Increment(ref priced);
                    var basket = PriceRun.Of([line!], Under([]), range).Basket!.Lines[0];
                    var reading = new SetReading(sets.Docs);
                    var list = reading.Set(code, picked).List;
                    var plain = decimal.Parse((string)sets.Docs["P1"]["base"]!["price"]!, CultureInfo.InvariantCulture);
                    var total = quantity * (90 + units * list + 2 * plain);
                    Assert.Equal(total, basket.Total.Amount);
                    Assert.Equal(basket.Total, basket.Working.Total);
                    // What each comes to is its weight, so nothing is rounded before the set divides its share.
                    SetReading.Share[] expected =
                    [
                        new("", "HIVE", quantity, quantity * 90),
                        .. reading.Shares(code, picked, quantity * units, quantity * units * list, "with"),
                        new("with", "P1", quantity * 2, quantity * 2 * plain),
                    ];
                    Assert.Equal(
                        expected,
                        basket.Leaves.Select(l => new SetReading.Share(
                            l.Path.Text,
                            l.Goods.Variant.Sku.Text,
                            (int)l.Units,
                            l.Allocated.Amount
                        ))
                    );
                },
                iter: 3_000
            );
        Assert.True(priced > 100 && refused > 100, $"{priced} priced, {refused} refused");
    }

    /// <summary>A kit of two A and a B behind an answer; A is taken by the kit's own slots and by itself, and counts once.</summary>
    [Fact]
    public void It_is_sold_as_far_as_its_parts_reach()
    {
        var kit = Set("KIT", 5, $"{Slot("A", 2)}, {Slot("B")}");
        var range = new PublishedRange.Of([Plain("A", 1), Plain("B", 2), kit, Hive(("KIT", 2), ("A", 1))]);
        var stock = new StockOutlook(sku => new StockLevel(sku.Text == "A" ? 14 : 9, 0, 0, 0), default);
        var terms = new ConfigurationTerms(range, stock, Under([]));
        Availability? Available(params string[] with) =>
            ConfigurationStatus
                .Of(
                    range.Product("HIVE")!,
                    Configuration.Empty.With(Key.Of("with"), new Answer.Ticks([.. with.Select(Key.Of)])),
                    Filling.Rest,
                    terms
                )
                .Available;
        Assert.Equal(3, Available("v0")!.Units);
        Assert.Equal(2, Available("v0", "v1")!.Units);
        Assert.Equal(9, Available("v1")!.Units);
        Assert.True(stock.Has(new ValuePart("KIT", 7), range));
        Assert.False(stock.Has(new ValuePart("KIT", 8), range));
    }

    /// <summary>What runs out first is named, the goods themselves aside.</summary>
    [Theory]
    [InlineData(9, 14, "7 left with A")]
    [InlineData(9, 1, "A: none left")]
    [InlineData(5, 14, "5 left")]
    [InlineData(7, 14, "7 left")]
    [InlineData(0, 0, "None left")]
    public void A_part_that_an_answer_brings_is_named_where_it_runs_out(int hives, int parts, string words)
    {
        var range = new PublishedRange.Of([Plain("A", 1), Hive(("A", 2))]);
        var stock = new StockOutlook(sku => new StockLevel(sku.Text == "A" ? parts : hives, 0, 0, 0), default);
        var (line, _) = Complete(range, 1, "v0");
        Assert.Equal(words, stock.Of(line!.Needs).Words);
    }

    /// <summary>Three kits lie made up, the rest is taken from parts; leaves are those of the parts all the same.</summary>
    [Fact]
    public void Own_stock_of_the_kit_is_taken_first()
    {
        var kit = Set("KIT", 5, $"{Slot("A", 2)}, {Slot("B")}", """, "stock": "own-then-parts" """);
        var holder = Set("HOLDER", 6, """{ "key": "hive", "of": [ { "product": "HIVE" }, { "product": "A" } ] }""");
        var range = new PublishedRange.Of([Plain("A", 1), Plain("B", 2), kit, Hive(("KIT", 1)), holder]);
        var stock = new StockOutlook(sku => new StockLevel(sku.Text == "KIT" ? 3 : 8, 0, 0, 0), default);
        var (line, _) = Complete(range, 5, "v0");
        var taking = new SetDemand(stock.CapacityOf);
        taking.Take(line!.Needs, 5);
        Assert.Equal([("HIVE", 5L), ("KIT", 3L), ("A", 4L), ("B", 2L)], taking.Taken.Select(t => (t.Goods.Variant.Sku.Text, t.Units)));
        // Eight hives would do for more; that the kit's parts run out first is said.
        Assert.Equal((7, "7 left", "7 left; A runs out first"), Said(stock.Of(line.Needs)));
        static (int?, string, string) Said(Availability there) => (there.Units, there.Words, there.MerchantWords);
        var leaves = PriceRun.Of([line], Under([]), range).Basket!.Lines[0].Leaves;
        Assert.Equal(["", "with/a", "with/b"], leaves.Select(l => l.Path.Text));
        // The same as a candidate of a set's open slot: eight hives, or as many A as are left.
        var picked = PartAnswersDocument.Read(
            new Node(JsonDocument.Parse("""{ "hive": [ { "product": "HIVE", "answers": { "with": [ "v0" ] } } ] }""").RootElement, "#", []),
            holder,
            range,
            default
        );
        var given = Configuration.Empty.With(Key.Of("hive"), new Answer.Value(Key.Of("hive")));
        var sets = SetCounts.Of(
            ConfigurationStatus.Of(holder, given, Filling.None, new ConfigurationTerms(range, stock, Under([])), picked)
        )!;
        Assert.Equal(7, sets.Most);
    }

    /// <summary>The least margin counts what the parts of the set cost: 91.00 is paid, 9.00 and 2 × 1.00 and 2.00 are spent.</summary>
    [Fact]
    public void The_proof_of_the_floor_counts_its_leaves()
    {
        var kit = Set("KIT", 5, $"{Slot("A", 2)}, {Slot("B")}", """, "price": { "rule": "fixed", "amount": "1.00" }""");
        var hive = Hive(("KIT", 1));
        var range = new PublishedRange.Of([Plain("A", 1), Plain("B", 2), kit, hive]);
        var lowest = new LowestMargin(Under([]), range).Of(hive)!.Lowest!;
        Assert.Equal(["v0"], ((Answer.Ticks)lowest.Answers[Key.Of("with")]!).Keys.Select(k => k.Text));
        Assert.Equal((9100, 1300), (lowest.Paid, lowest.Cost));
    }

    /// <summary>What comes with an answer must not hold what it comes with, at any depth and whoever asks first.</summary>
    [Fact]
    public void One_that_contains_what_it_comes_with_is_refused()
    {
        var kit = Set("KIT", 5, $"{Slot("A")}, {Slot("BOX")}");
        var box = Set("BOX", 6, Slot("HIVE"));
        var range = new PublishedRange.Of([Plain("A", 1), kit, box, Hive(("KIT", 1))]);
        for (var i = 0; i < 2; i++)
        {
            var (line, faults) = Complete(range, 1, "v0");
            Assert.Null(line);
            Assert.Contains("contains", faults[0].What, StringComparison.Ordinal);
            _ = range.Figures("KIT");
        }
    }

    [Fact]
    public void One_that_leaves_a_pick_open_says_what()
    {
        var kit = Set("KIT", 5, """{ "key": "tool", "label": "Tool", "of": [ { "product": "A" }, { "product": "B" } ] }""");
        var range = new PublishedRange.Of([Plain("A", 1), Plain("B", 2), kit, Hive(("KIT", 1))]);
        var (_, faults) = Complete(range, 1, "v0");
        Assert.Contains("With: V0 cannot be had: KIT leaves something to be picked: Tool.", faults[0].What, StringComparison.Ordinal);
    }
}
