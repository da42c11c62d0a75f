using System.Collections.Immutable;
using System.Text.Json;
using static Unicus.CoreTests.ConfiguratorTests;

namespace Unicus.CoreTests;

/// <summary>Extras, rules, answers and surcharges as documents and people write them.</summary>
public class ExtraDocumentTests
{
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
}
