using System.Collections.Immutable;
using System.Text.Json;

namespace Unicus.CoreTests;

/// <summary>Answers, prices and their spans over a whole product.</summary>
public class ConfiguratorTests
{
    /// <summary>The product of document.md, word for word.</summary>
    internal const string Hive = """
        { "format": "unicus-product/1", "code": "GH1", "name": "Garden hive",
          "base": { "price": "184.00", "rrp": "210.00", "cost": "96.50", "weightGrams": 11500, "taxClass": "standard" },
          "options": [
            { "key": "depth", "label": "Depth", "role": "variant", "values": [
              { "key": "shallow", "label": "Shallow", "sku": "S" },
              { "key": "deep", "label": "Deep", "sku": "D", "surcharge": { "percent": "8" }, "figures": { "weightGrams": 13200 } } ] },
            { "key": "timber", "label": "Timber", "role": "variant", "values": [
              { "key": "cedar", "label": "Cedar", "sku": "CE", "swatch": { "colour": "#a8623a" } },
              { "key": "pine", "label": "Pine", "sku": "PI", "surcharge": { "amount": "-32.00" } } ] },
            { "key": "roof", "label": "Roof", "role": "extra", "ask": "one", "required": true, "default": "flat", "values": [
              { "key": "flat", "label": "Flat" },
              { "key": "gabled", "label": "Gabled", "surcharge": { "amount": "24.00" }, "cost": "11.00" } ] },
            { "key": "fittings", "label": "Fittings", "role": "extra", "ask": "several", "picks": { "min": 0, "max": 2 }, "values": [
              { "key": "stand", "label": "Stand", "part": { "sku": "STAND-1", "quantity": 1 } },
              { "key": "strap", "label": "Strap", "surcharge": { "amount": "6.50" } } ] },
            { "key": "plate", "label": "Name plate", "role": "extra", "ask": "text", "maxLength": 24, "surcharge": { "perCharacter": "0.60",
              "minimum": "6.00" } } ],
          "notMade": [ { "depth": "shallow", "timber": "pine" } ],
          "rules": [
            { "key": "gable-needs-deep", "when": { "not": { "option": "depth", "is": ["deep"] } },
              "then": { "forbid": { "roof": ["gabled"] } } },
            { "key": "plate-on-cedar", "when": { "option": "timber", "is": ["cedar"] }, "then": { "show": ["plate"] } } ],
          "skuPattern": [ { "code": true }, { "text": "-" }, { "option": "depth" }, { "text": "-" }, { "option": "timber" } ],
          "variants": [ { "values": { "depth": "deep", "timber": "cedar" }, "sku": "GH1-D-CE", "price": "199.00", "gtin": null,
            "stock": 12 } ] }
        """;

    private static readonly DateOnly Today = new(2027, 3, 5);

    private static Product Read(string json)
    {
        using var document = JsonDocument.Parse(json);
        var (product, _, faults) = DocumentReader.Read(document.RootElement, Currency.Euro);
        Assert.Empty(faults);
        return product!;
    }

    private static Configurator Of(Product product) => new(product, product.Matrix());

    private static PartFigures? Stand(string sku) =>
        sku == "STAND-1" ? new PartFigures(Sample.Eur(29), Sample.Eur(12), "Hive stand") : null;

    private static Configuration Given(Configurator of, string json)
    {
        using var document = JsonDocument.Parse(json);
        var faults = new List<Fault>();
        var given = AnswerDocument.Read(new Node(document.RootElement, "#", faults), of.Questions, Today);
        Assert.Empty(faults);
        return given;
    }

    /// <summary>The figures of the reply in document.md: count 2, 205.50 a unit, 411.00 for two, from 205.50 to 229.50.</summary>
    [Fact]
    public void The_example_of_the_document_comes_out_to_the_letter()
    {
        var hive = Of(Read(Hive));
        var given = Given(hive, """{"depth": "deep", "timber": "cedar", "fittings": ["strap"]}""");
        var reply = hive.Answer(given);
        Assert.Equal((true, false, "2"), (reply.Valid, reply.Complete, reply.Count.ToString()));
        var roof = reply.Questions.Single(q => q.Question.Key.Text == "roof");
        Assert.Equal((true, true, false), (roof.Shown, roof.Required, roof.NonePossible));
        Assert.Equal<bool>([true, true], [.. roof.Possible]);
        Assert.Equal("GH1-D-CE", hive.Decided(reply)!.Sku.Text);
        var price = hive.Price(given, 2, Stand)!;
        Assert.Equal(
            ("205.50", "411.00", "205.50", "229.50"),
            (price.Working.Unit.ToString(), price.Working.Total.ToString(), price.Lowest.ToString(), price.Highest.ToString())
        );
        Assert.Equal(
            [("Garden hive, deep, cedar", "199.00"), ("Fittings: strap", "6.50")],
            price.Working.Steps.Select(s => (s.Label, s.Amount.ToString()))
        );
    }

    [Theory]
    [InlineData("""{"depth": "deep", "timber": "cedar", "roof": "gabled", "fittings": ["stand", "strap"], "plate": "Maren"}""", "264.50")]
    [InlineData("""{"depth": "deep", "timber": "cedar", "roof": "flat", "fittings": null, "plate": "Maren and Tomas 2027"}""", "209.20")]
    [InlineData("""{"depth": "deep", "timber": "cedar", "roof": "flat", "fittings": [], "plate": " "}""", "199.00")]
    [InlineData("""{"depth": "deep", "timber": "pine", "roof": "flat", "fittings": [], "plate": "never shown on pine"}""", "166.72")]
    public void Answers_add_their_surcharges_and_hidden_ones_nothing(string json, string unit)
    {
        var hive = Of(Read(Hive));
        var given = Given(hive, json);
        var price = hive.Price(given, 1, Stand)!;
        Assert.Equal((unit, unit, unit), (price.Working.Unit.ToString(), price.Lowest.ToString(), price.Highest.ToString()));
        Assert.True(hive.Answer(given).Complete);
    }

    [Fact]
    public void The_parts_of_answers_are_known()
    {
        var hive = Of(Read(Hive));
        var given = Given(hive, """{"depth": "deep", "timber": "cedar", "roof": "gabled", "fittings": ["stand"]}""");
        Assert.Equal(new ValuePart("STAND-1", 1), Assert.Single(hive.Parts(given)));
    }

    [Fact]
    public void A_conflict_is_told_in_the_products_own_words_and_a_change_is_offered()
    {
        var hive = Of(Read(Hive));
        var given = Given(hive, """{"depth": "shallow"}""");
        var why = hive.Why(given, Key.Of("roof"), Key.Of("gabled"))!.Value;
        Assert.Equal("Depth shallow and Roof gabled cannot stand together: when Depth is not Deep, Roof cannot be Gabled.", why.Text);
        Assert.Equal(
            [(Key.Of("depth"), new Answer.Value(Key.Of("deep")))],
            hive.Rules.WhatToChange(given, Key.Of("roof"), Key.Of("gabled"))!.Value.Select(c => (c.Question, (Answer.Value)c.Becomes))
        );
        var pine = hive.Conflict(Given(hive, """{"depth": "shallow", "timber": "pine"}"""))!.Value;
        Assert.Equal("Depth shallow and Timber pine cannot stand together: it is not made.", pine.Text);
    }

    [Fact]
    public void Open_questions_are_filled_by_their_default_then_by_none()
    {
        var hive = Of(Read(Hive));
        var filled = hive.Filled(Given(hive, """{"depth": "shallow"}"""), restNone: true);
        Assert.Equal(
            ["depth=shallow", "timber=cedar", "roof=flat", "fittings="],
            filled
                .Given.OrderBy(g => Array.IndexOf(["depth", "timber", "roof", "fittings", "plate"], g.Question.Text))
                .Select(g => $"{g.Question}={string.Join(",", AnswerText.Write(g.Answer))}")
        );
        Assert.True(hive.Answer(filled).Complete);
    }

    /// <summary>A list with one value left answers itself, a needed yes does not; in the price an open question counts at its default or
    /// nothing.</summary>
    [Fact]
    public void A_needed_yes_is_not_said_for_the_shopper()
    {
        var box = Of(
            Read(
                """
                { "format": "unicus-product/1", "code": "B", "name": "Box", "base": { "price": "10.00" }, "options": [
                  { "key": "terms", "label": "Terms", "role": "extra", "ask": "yes-no", "required": true, "values": [ { "key": "yes",
                    "label": "Yes", "surcharge": { "amount": "1.00" } } ] },
                  { "key": "lid", "label": "Lid", "role": "extra", "ask": "one", "required": true, "values": [ { "key": "oak",
                    "label": "Oak", "surcharge": { "amount": "2.00" } } ] } ] }
                """
            )
        );
        Assert.Equal(["lid"], box.Filled(Configuration.Empty, restNone: true).Given.Select(g => g.Question.Text));
        Assert.Equal(
            (10m, 13m),
            (box.Price(Configuration.Empty, 1, _ => null)!.Working.Unit.Amount, box.Price(Configuration.Empty, 1, _ => null)!.Lowest.Amount)
        );
    }

    [Theory]
    [InlineData("""{ "day": null }""", 10)]
    [InlineData("""{ "day": "2027-03-10" }""", 10.25)]
    [InlineData("""{ "day": null, "gift": true }""", 10)]
    [InlineData("""{ "day": "2027-03-10", "gift": true }""", 10)]
    public void A_percentage_of_what_is_typed_counts_only_where_it_is_answered_and_shown(string answers, double unit)
    {
        var box = Of(
            Read(
                """
                { "format": "unicus-product/1", "code": "B", "name": "Box", "base": { "price": "10.00" }, "options": [
                  { "key": "day", "label": "Day", "role": "extra", "ask": "date", "surcharge": { "percent": "2.5" } },
                  { "key": "gift", "label": "Gift", "role": "extra", "ask": "yes-no", "values": [ { "key": "yes", "label": "Yes" } ] } ],
                  "rules": [ { "key": "r", "when": { "option": "gift", "answered": true }, "then": { "hide": ["day"] } } ] }
                """
            )
        );
        var given = Given(box, answers);
        var price = box.Price(given, 1, _ => null)!;
        Assert.Equal(
            ((decimal)unit, given[Key.Of("gift")] is null ? 10m : (decimal)unit, (decimal)unit),
            (price.Working.Unit.Amount, price.Lowest.Amount, price.Highest.Amount)
        );
    }

    /// <summary>Export then import is identity, with every kind of extra, surcharge and rule.</summary>
    [Fact]
    public void Documents_with_extras_and_rules_come_back_the_same()
    {
        var json = DocumentWriter.Write(Read(Hive), ListedVariants.Differing).ToJsonString();
        Assert.Equal(json, DocumentWriter.Write(Read(json), ListedVariants.Differing).ToJsonString());
        var all = $$"""
            { "format": "unicus-product/1", "code": "X", "name": "X", "base": { "price": "10.00" }, "options": [
              { "key": "early", "label": "Early", "role": "extra", "ask": "yes-no", "values": [ { "key": "yes", "label": "Yes",
                "surcharge": { "once": "5.00" } } ] },
              { "key": "size", "label": "Size", "role": "variant", "values": [ { "key": "s", "label": "S" } ] },
              { "key": "width", "label": "Width", "role": "extra", "ask": "number", "number": { "min": "1", "max": "90", "step": "0.5",
                "unit": "cm" }, "surcharge": { "perUnit": "0.25" } },
              { "key": "height", "label": "Height", "role": "extra", "ask": "number", "default": "10",
                "surcharge": { "table": { "by": "width", "rows": [ { "max": "30", "columns": [ { "max": "20", "amount": "4.00" },
                { "max": "90", "amount": "6.00" } ] }, { "max": "60", "columns": [ { "max": "90", "amount": "9.00" } ] } ] } } },
              { "key": "day", "label": "Day", "role": "extra", "ask": "date", "date": { "earliestInDays": 2, "latestInDays": 60,
                "notOn": ["sun", "mon"] }, "surcharge": { "percent": "2.5" } },
              { "key": "words", "label": "Words", "role": "extra", "ask": "text", "maxLength": 10, "characters": "A-Z .", "default": "HI" },
              { "key": "more", "label": "More", "role": "extra", "ask": "several", "default": ["a"], "values": [ { "key": "a", "label": "A",
                "part": { "sku": "STAND-1", "quantity": 2 } }, { "key": "b", "label": "B", "surcharge": { "percent": "10" } } ] } ],
              "rules": [ { "key": "r1", "when": { "all": [ { "option": "width", "atLeast": "5" },
                { "any": [ { "option": "day", "answered": true }, { "not": { "option": "more", "is": ["a"] } } ] } ] },
                "then": { "hide": ["words"] }, "off": true },
                { "key": "r2", "then": { "allowOnly": { "more": ["a", "b"] } } },
                  { "key": "r3", "when": { "option": "width", "atMost": "80" }, "then": { "require": ["height"] } } ] }
            """;
        var first = DocumentWriter.Write(Read(all), ListedVariants.Differing).ToJsonString();
        Assert.Equal(first, DocumentWriter.Write(Read(first), ListedVariants.Differing).ToJsonString());
        Assert.Equal(["early", "size", "width", "height", "day", "words", "more"], Read(first).Questions.Select(q => q.Key.Text));
        var x = Of(Read(all));
        var price = x.Price(
            Given(x, """{"width": "20.5", "height": 30, "more": ["b"], "early": true, "day": "2027-03-10", "words": "HI"}"""),
            3,
            Stand
        )!;
        // 10.00 + 20.5 × 0.25 = 5.13 + 6.00 + 0.25 + 1.00; 5.00 once for the line.
        Assert.Equal(("22.38", "72.14"), (price.Working.Unit.ToString(), price.Working.Total.ToString()));
        Assert.Contains("beyond the last band", x.PriceProblem(Given(x, """{"width": 40, "height": 61}""")), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(
        "\"rules\": [{ \"key\": \"r\", \"when\": { \"option\": \"colour\", \"is\": [\"red\"] }, \"then\": { \"hide\": [\"note\"] } }]",
        "#/rules/0"
    )]
    [InlineData("\"rules\": [{ \"key\": \"r\", \"then\": { \"forbid\": { \"size\": [\"xl\"] } } }]", "#/rules/0")]
    [InlineData("\"rules\": [{ \"key\": \"r\", \"then\": { \"hide\": [\"size\"] } }]", "#/rules/0")]
    [InlineData(
        "\"rules\": [{ \"key\": \"r\", \"when\": { \"option\": \"note\", \"answered\": true }, \"then\": { \"show\": [\"note\"] } }]",
        "#/rules/0"
    )]
    [InlineData("\"rules\": [{ \"key\": \"r\", \"then\": { \"explode\": [\"note\"] } }]", "#/rules/0/then/explode")]
    [InlineData(
        "\"rules\": [{ \"key\": \"r\", \"when\": { \"option\": \"note\", \"is\": [\"a\"], \"answered\": true }, \"then\": { "
            + "\"hide\": [\"note\"] } }]",
        "#/rules/0/when"
    )]
    [InlineData(
        "\"rules\": [{ \"key\": \"r\", \"then\": { \"require\": [\"note\"] } }, { \"key\": \"r\", \"then\": { \"require\": "
            + "[\"note\"] } }]",
        "#/rules"
    )]
    public void Rules_that_cannot_be_meant_are_refused_with_their_place(string member, string pointer)
    {
        using var document = JsonDocument.Parse(
            $$"""
            { "format": "unicus-product/1", "code": "X", "name": "X", {{member}}, "options": [ { "key": "size", "label": "Size",
              "role": "variant", "values": [ { "key": "s", "label": "S" } ] },
              { "key": "note", "label": "Note", "role": "extra", "ask": "text" } ] }
            """
        );
        Assert.Contains(DocumentReader.Read(document.RootElement, Currency.Euro).Faults, f => f.Where == pointer);
    }

    [Theory]
    [InlineData("words", "\"hello\"", "cannot have")]
    [InlineData("words", "\"AAAAAAAAAAAA\"", "at most 10")]
    [InlineData("words", "\"A\\u0007\"", "control character")]
    [InlineData("words", "7", "not answered like this")]
    [InlineData("width", "0.4", "at least 1")]
    [InlineData("width", "1.25", "steps of 0.5")]
    [InlineData("width", "\"wide\"", "not answered like this")]
    [InlineData("width", "\"5,5\"", "not answered like this")]
    [InlineData("day", "\"10 March 2027\"", "not answered like this")]
    [InlineData("day", "\"2027-03-06\"", "is the earliest day")]
    [InlineData("day", "\"2027-03-08\"", "not on a Monday")]
    [InlineData("day", "\"2027-06-01\"", "is the latest day")]
    [InlineData("more", "[\"a\", \"a\"]", "twice")]
    [InlineData("more", "[\"a\", \"b\", \"c\"]", "at most 2")]
    [InlineData("more", "[\"z\"]", "no value z")]
    [InlineData("more", "\"a\"", "not answered like this")]
    [InlineData("size", "\"\"", "not answered like this")]
    public void Answers_out_of_their_limits_say_why(string question, string answer, string why)
    {
        var x = Of(
            Read(
                """
                { "format": "unicus-product/1", "code": "X", "name": "X", "base": { "price": "10.00" }, "options": [
                  { "key": "width", "label": "Width", "role": "extra", "ask": "number", "number": { "min": "1", "max": "90", "step": "0.5",
                    "unit": "cm" } },
                  { "key": "day", "label": "Day", "role": "extra", "ask": "date", "date": { "earliestInDays": 2, "latestInDays": 60,
                    "notOn": ["sun", "mon"] } },
                  { "key": "words", "label": "Words", "role": "extra", "ask": "text", "maxLength": 10, "characters": "A-Z ." },
                  { "key": "more", "label": "More", "role": "extra", "ask": "several", "picks": { "max": 2 }, "values": [ { "key": "a",
                    "label": "A" }, { "key": "b", "label": "B" }, { "key": "c", "label": "C" } ] },
                  { "key": "size", "label": "Size", "role": "variant", "values": [ { "key": "s", "label": "S" } ] } ] }
                """
            )
        );
        Assert.Equal(
            x.Questions.Select(q => (q.Key, (Answer)new Answer.None())),
            Given(x, """{ "width": null, "day": [], "words": [], "more": null, "size": [] }""").Given.Select(g => (g.Question, g.Answer))
        );
        using var document = JsonDocument.Parse($$"""{ "{{question}}": {{answer}} }""");
        var faults = new List<Fault>();
        AnswerDocument.Read(new Node(document.RootElement, "#/answers", faults), x.Questions, Today);
        var fault = Assert.Single(faults);
        Assert.Equal($"#/answers/{question}", fault.Where);
        Assert.Contains(why, fault.What, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("24", Ask.One, "24.00")]
    [InlineData("-3,50", Ask.One, "-3.50")]
    [InlineData("8 %", Ask.Several, "8 %")]
    [InlineData("6.5 once", Ask.One, "6.50 once")]
    [InlineData("0,60 a character, at least 6", Ask.Text, "0.60 a character, at least 6.00")]
    [InlineData("0.60 per character", Ask.Text, "0.60 a character")]
    [InlineData("0.25/unit", Ask.Number, "0.25 a unit")]
    [InlineData("0.25 a unit", Ask.Text, null)]
    [InlineData("a lot", Ask.One, null)]
    [InlineData("6 at least 2", Ask.Text, null)]
    public void Surcharges_are_read_as_people_type_them(string typed, Ask ask, string? shown)
    {
        var read = TypedSurcharge.Read(typed, Currency.Euro, ask);
        Assert.Equal(shown, read.Ok ? read.Value!.ForPeople() : null);
        if (shown is not null)
            Assert.Equal(read.Value, TypedSurcharge.Read(shown, Currency.Euro, ask).Value);
    }

    [Fact]
    public void A_table_of_two_measures_is_pasted_from_a_spreadsheet()
    {
        var table = (Surcharge.Table)TypedSurcharge.Table("\t20\t90\n30\t4,00\t6\n60\t7.5\t9\n", Key.Of("width"), Currency.Euro).Value!;
        Assert.Equal(("6.00", "7.50"), (table.Look(30, 20.5m).ToString(), table.Look(30.5m, 20).ToString()));
        Assert.Null(table.Look(61, 1));
        Assert.Equal(table, TypedSurcharge.Table(TypedSurcharge.Write(table), Key.Of("width"), Currency.Euro).Value);
        Assert.Contains("rise", TypedSurcharge.Table("30\t4\n20\t5", null, Currency.Euro).Problem, StringComparison.Ordinal);
        Assert.Contains("1 is needed", TypedSurcharge.Table("30\t4\t5", null, Currency.Euro).Problem, StringComparison.Ordinal);
    }

    /// <summary>The lowest and highest price of 1,500 random models, with own prices, percentages and hidden typed answers, equal pricing
    /// every valid configuration one by one; so does the cheapest variant.</summary>
    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void The_price_span_equals_pricing_every_configuration(int part)
    {
        var compared = 0;
        for (var seed = part * 500; seed < (part + 1) * 500; seed++)
        {
            var random = new Random(seed + 50_000);
            var model = Priced(random, RandomModels.Model(random));
            if (!model.Book.Loops.IsEmpty)
                continue;
            var variants = model.Questions.Where(q => q.Role == OptionRole.Variant).ToImmutableArray();
            var own = Sample
                .All(variants)
                .Where(_ => random.Next(3) == 0)
                .Select(c => new Variant(c)
                {
                    Own = new Figures { Price = Sample.Eur(random.Next(2000, 20000) / 100m) },
                    Retired = random.Next(8) == 0,
                });
            var product = new Product(ProductCode.Of("X"), "x")
            {
                Base = new Figures { Price = Sample.Eur(random.Next(5000, 20000) / 100m) },
                Options = variants,
                Extras = [.. model.Questions.Where(q => q.Role == OptionRole.Extra)],
                Rules = model.Rules,
                NotMade = model.NotMade,
                Variants = [.. own],
            };
            var configurator = Of(product);
            var matrix = product.Matrix();
            var given = RandomModels.Answers(random, model);
            var listing = new PlainListing(model, given);
            var prices = listing.Valid().Where(w => listing.AgreesWithAll(w)).Select(w => PriceOf(w)).OfType<Money>().ToList();
            var span = configurator.Span(given, Stand);
            Assert.Equal(prices.Count == 0 ? null : new PriceSpan(prices.Min(), prices.Max()), span);
            compared += prices.Count > 0 ? 1 : 0;
            // The same over the solutions that CP-SAT finds.
            var solutions = new CpSatModel(model, given)
                .Solutions()
                .Select(s => s.ToDictionary(p => p.Key, p => Whole(model.Questions.First(q => q.Key == p.Key), p.Value)));
            var solved = solutions.Where(w => listing.AgreesWithAll(w)).Select(w => PriceOf(w)).OfType<Money>().ToList();
            Assert.Equal(solved.Count == 0 ? null : new PriceSpan(solved.Min(), solved.Max()), span);

            Money? PriceOf(Dictionary<Key, Answer> whole)
            {
                var variant = matrix.Find(Combination.Of(variants.Select(o => (o.Key, ((Answer.Value)whole[o.Key]).Key))))!;
                if (variant.Variant.Retired)
                    return null;
                var list = variant.Price.Figure!.Value;
                var shown = new Configuration([
                    .. model
                        .Questions.Select(q => (q.Key, Answer: whole.TryGetValue(q.Key, out var a) ? a : given[q.Key]))
                        .Where(a => a.Answer is not null && listing.IsShown(a.Key, whole))
                        .Select(a => (a.Key, a.Answer!)),
                ]);
                return list
                    + new AnswerPricing(model.Questions, Stand)
                        .Steps(shown, list)
                        .Where(s => !s.PerLine)
                        .Select(s => s.Amount)
                        .Sum(Currency.Euro);
            }
        }
        Assert.InRange(compared, 120, 500);
    }

    /// <summary>Percentages on many questions: by list price where these are few, in one diagram where sums and prices are many, and told
    /// where even that is too much.</summary>
    [Theory]
    [InlineData(3, 40)]
    [InlineData(40, 3)]
    [InlineData(90, 3)]
    [InlineData(90, 40)]
    public void Percentages_on_many_questions_are_exact(int wide, int extras)
    {
        var random = new Random(wide + extras);
        var options = new[] { "x", "y" }
            .Select(k => new Option(Key.Of(k), k, OptionRole.Variant)
            {
                Values = [.. Enumerable.Range(0, wide).Select(i => new OptionValue(Key.Of($"v{i}"), $"v{i}"))],
            })
            .ToImmutableArray();
        var asked = Enumerable
            .Range(0, extras)
            .Select(e => new Option(Key.Of($"e{e}"), $"e{e}", OptionRole.Extra)
            {
                Required = true,
                Values =
                [
                    .. Enumerable
                        .Range(0, 4)
                        .Select(i => new OptionValue(Key.Of($"v{i}"), $"v{i}")
                        {
                            Surcharge = new Surcharge.Percent(new Percentage(random.Next(-200, 700) / 10m)),
                        }),
                ],
            })
            .ToImmutableArray();
        var own = Sample
            .All(options)
            .Select(c => new Variant(c) { Own = new Figures { Price = Sample.Eur(random.Next(1000, 90_000) / 100m) } })
            .ToImmutableArray();
        var rule = new SelectionRule(
            Key.Of("r"),
            new Condition.Is(Key.Of("x"), [Key.Of("v1")]),
            [new Effect.Forbid(Key.Of("e0"), [Key.Of("v0"), Key.Of("v1")])]
        );
        var configurator = Of(
            new Product(ProductCode.Of("X"), "x")
            {
                Options = options,
                Extras = asked,
                Variants = own,
                Rules = [rule],
            }
        );
        if (wide > 80 && extras > 30)
        {
            Assert.Contains("too interwoven", Assert.Single(configurator.Faults).What, StringComparison.Ordinal);
            Assert.Null(configurator.Span(Configuration.Empty, Stand));
            return;
        }
        Assert.Empty(configurator.Faults);
        foreach (var given in new[] { Configuration.Empty, Configuration.Of(Combination.Of([(Key.Of("x"), Key.Of("v1"))])) })
        {
            decimal Share(Variant v, Func<IEnumerable<decimal>, decimal> best) =>
                asked.Sum(q =>
                    best(
                        q.Values.Where((_, i) => q.Key != Key.Of("e0") || i > 1 || v.Values[Key.Of("x")] != Key.Of("v1"))
                            .Select(a => ((Surcharge.Percent)a.Surcharge!).Rate.Of(v.Own.Price!.Value).Amount)
                    )
                );
            var fitting = own.Where(v => given[Key.Of("x")] is not Answer.Value x || v.Values[Key.Of("x")] == x.Key).ToList();
            Assert.Equal(
                new PriceSpan(
                    Sample.Eur(fitting.Min(v => v.Own.Price!.Value.Amount + Share(v, s => s.Min()))),
                    Sample.Eur(fitting.Max(v => v.Own.Price!.Value.Amount + Share(v, s => s.Max())))
                ),
                configurator.Span(given, Stand)
            );
        }
    }

    private static Answer Whole(Option question, List<Key> picked) =>
        picked.Count == 0 ? new Answer.None()
        : question.Ask == Ask.Several ? new Answer.Ticks([.. picked])
        : new Answer.Value(picked[0]);

    private static RuleModel Priced(Random random, RuleModel model) =>
        model with
        {
            Questions =
            [
                .. model.Questions.Select(q =>
                    q.Role == OptionRole.Variant
                        ? q with
                        {
                            Values =
                            [
                                .. q.Values.Select(v =>
                                    v with
                                    {
                                        Surcharge =
                                            random.Next(2) == 0
                                                ? new Surcharge.PerUnit(Sample.Eur(random.Next(-5, 30)))
                                                : new Surcharge.Percent(new Percentage(random.Next(0, 20))),
                                    }
                                ),
                            ],
                        }
                        : q with
                        {
                            Surcharge = q.Ask switch
                            {
                                Ask.Text => new Surcharge.PerCharacter(Sample.Eur(0.60m), Sample.Eur(random.Next(0, 5))),
                                Ask.Number => random.Next(2) == 0
                                    ? new Surcharge.PerMeasure(Sample.Eur(0.35m))
                                    : new Surcharge.Percent(new Percentage(random.Next(1, 9))),
                                Ask.Date => new Surcharge.Percent(new Percentage(2.5m)),
                                _ => null,
                            },
                            Values =
                            [
                                .. q.Values.Select(v =>
                                    v with
                                    {
                                        Part = random.Next(5) == 0 ? new ValuePart("STAND-1", 2) : null,
                                        Surcharge = random.Next(4) switch
                                        {
                                            0 => new Surcharge.PerUnit(Sample.Eur(random.Next(-5, 40))),
                                            1 => new Surcharge.Percent(new Percentage(random.Next(-10, 25))),
                                            2 => new Surcharge.Once(Sample.Eur(3)),
                                            _ => null,
                                        },
                                    }
                                ),
                            ],
                        }
                ),
            ],
        };

    [Theory]
    [InlineData("one", false, 3)]
    [InlineData("several", false, 3)]
    [InlineData("one", true, 0)]
    public void An_extra_without_values_asks_for_nothing_and_is_pointed_out(string ask, bool required, int count)
    {
        var hive = Read(Hive) with { Rules = [] };
        hive = hive with
        {
            Extras =
            [
                new Option(Key.Of("empty"), "Empty", OptionRole.Extra) { Ask = ask == "one" ? Ask.One : Ask.Several, Required = required },
            ],
        };
        var reply = Of(hive).Answer(Configuration.Empty);
        Assert.Equal(count, (int)reply.Count);
        Assert.Contains(
            ProductChecks.Look(
                hive,
                hive.Matrix(),
                new TradeTerms(Currency.Euro, true, [new TaxClass(Key.Of("standard"), "Standard")], []),
                new Dictionary<Sku, StockLevel>(),
                Of(hive)
            ),
            c => c.Text == "Empty has no values, so there is nothing to pick."
        );
    }

    [Fact]
    public void A_shared_set_reaches_by_category_by_name_and_all_and_can_be_left_out()
    {
        var wrap = new Option(Key.Of("wrap"), "Gift wrapping", OptionRole.Extra)
        {
            Ask = Ask.YesNo,
            Values = [new OptionValue(Key.Of("yes"), "Yes")],
        };
        ExtraSet Set(bool everything, params string[] categories) =>
            new(Key.Of("wrapping"), "Gift wrapping", everything, [.. categories], [wrap], []);
        var hive = Read(Hive) with { Categories = ["Hives"] };
        Assert.Contains(wrap with { FromSet = Key.Of("wrapping") }, hive.Taking([Set(true)]).Extras);
        Assert.Single(hive.Taking([Set(false, "hives")]).Questions, q => q.Key == wrap.Key);
        Assert.DoesNotContain(hive.Taking([Set(false, "Jars")]).Questions, q => q.Key == wrap.Key);
        Assert.DoesNotContain((hive with { WithoutSets = [Key.Of("wrapping")] }).Taking([Set(true)]).Questions, q => q.Key == wrap.Key);
        Assert.Single((hive with { ExtraSets = [Key.Of("wrapping")] }).Taking([Set(false)]).Questions, q => q.Key == wrap.Key);
        var written = DocumentWriter.Write(hive.Taking([Set(true)]), ListedVariants.None).ToJsonString();
        Assert.Equal(DocumentWriter.Write(hive, ListedVariants.None).ToJsonString(), written);
    }
}
