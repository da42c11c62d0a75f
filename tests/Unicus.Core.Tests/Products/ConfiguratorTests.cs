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

    internal static readonly DateOnly Today = new(2027, 3, 5);

    internal static Product Read(string json)
    {
        using var document = JsonDocument.Parse(json);
        var (product, _, faults) = DocumentReader.Read(document.RootElement, Currency.Euro);
        Assert.Empty(faults);
        return product!;
    }

    internal static Configurator Of(Product product) => new(product, product.Matrix());

    internal static PartFigures? Stand(string sku) =>
        sku == "STAND-1" ? new PartFigures(Sample.Eur(29), Sample.Eur(12), "Hive stand") : null;

    internal static Configuration Given(Configurator of, string json)
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
