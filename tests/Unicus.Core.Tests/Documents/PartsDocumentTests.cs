using System.Text.Json;

namespace Unicus.CoreTests;

/// <summary>What a document may say of parts, and what it may not.</summary>
public class PartsDocumentTests
{
    private static (Product? Product, IReadOnlyList<Fault> Faults) Read(string parts, string more = "")
    {
        var json = $$"""
            { "format": "unicus-product/1", "code": "SET", "name": "Set",
              "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [ { "key": "s", "label": "S" } ] } ],
              "parts": {{parts}}{{more}} }
            """;
        var (product, _, faults) = DocumentReader.Read(JsonDocument.Parse(json).RootElement, Currency.Euro);
        return (product, faults);
    }

    private static string Slot(string more, string of = """{ "product": "A" }""") =>
        $$"""{ "slots": [ { "key": "one", "of": [ {{of}} ]{{more}} } ] }""";

    [Theory]
    [InlineData("""{ "sold": "apart" }""", "#/parts/sold", "One of together, separately")]
    [InlineData("""{ "stock": "mine" }""", "#/parts/stock", "One of parts, own, own-then-parts")]
    [InlineData("""{ "colour": "red" }""", "#/parts/colour", "")]
    [InlineData("""{ "price": { "rule": "guess" } }""", "#/parts/price/rule", "sum or fixed")]
    [InlineData("""{ "price": { "rule": "fixed" } }""", "#/parts/price/amount", "")]
    [InlineData("""{ "price": { "rule": "sum", "amount": "1.00" } }""", "#/parts/price/amount", "Only a fixed price")]
    [InlineData("""{ "price": { "rule": "sum", "reduce": { "percent": "101" } } }""", "#/parts/price/reduce/percent", "at most 100")]
    [InlineData(
        """{ "price": { "rule": "sum", "reduce": { "percent": "5", "amount": "1.00" } } }""",
        "#/parts/price/reduce",
        "or an amount"
    )]
    [InlineData("""{ "price": { "rule": "fixed", "amount": "1.005" } }""", "#/parts/price/amount", "")]
    [InlineData("""{ "slots": [ { "key": "one" } ] }""", "#/parts/slots/0/of", "")]
    [InlineData("""{ "slots": [ { "key": "one", "of": [] } ] }""", "#/parts/slots/0/of", "at least one part")]
    [InlineData("""{ "slots": [ { "key": "size", "of": [ { "product": "A" } ] } ] }""", "#/parts/slots/0/key", "keys of their own")]
    [InlineData(
        """{ "pictures": [ { "file": "a.svg", "pins": [ { "slot": "none", "x": 0, "y": 0 } ] } ] }""",
        "#/parts/pictures/0/pins/0/slot",
        "no slot"
    )]
    public void What_is_wrong_about_a_whole_is_told_with_its_place(string parts, string pointer, string what) => Told(parts, pointer, what);

    [Theory]
    [InlineData(""", "quantity": { "min": 0, "max": 0 }""", "quantity/min", "1 to 10,000")]
    [InlineData(""", "quantity": { "min": 3, "max": 2 }""", "quantity/max", "fewer than the least")]
    [InlineData(""", "quantity": { "min": 1, "max": 2, "default": 3 }""", "quantity/default", "between 1 and 2")]
    [InlineData(""", "picks": { "min": 2 }""", "picks/min", "2 picks are needed and 1 are there")]
    [InlineData(""", "picks": { "min": 2, "max": 1 }""", "picks/max", "")]
    [InlineData(""", "pick": "guess" """, "pick", "")]
    [InlineData(""", "pick": { "follows": "colour" }""", "pick/follows", "no option colour")]
    [InlineData(""", "pick": { "follows": "size", "table": { "xl": "m" } }""", "pick/table/xl", "no value xl")]
    [InlineData(""", "reduce": { "percent": "0" }""", "reduce/percent", "above 0")]
    [InlineData(""", "setUnit": "-1.00" """, "setUnit", "")]
    [InlineData(""", "included": true, "reduce": { "percent": "5" }""", "included", "no price that could be reduced")]
    [InlineData(""", "setUnit": "1.00", "reduce": { "percent": "5" }""", "setUnit", "not both")]
    [InlineData(""", "default": [ "b" ]""", "default", "No part of this slot is called b")]
    public void What_is_wrong_about_a_slot_is_told_with_its_place(string more, string place, string what) =>
        Told(Slot(more), $"#/parts/slots/0/{place}", what);

    [Theory]
    [InlineData("""{ "product": "SET" }""", "/product", "a part of itself")]
    [InlineData("""{ "product": "A", "sku": "A" }""", "", "one of them")]
    [InlineData("""{ "sku": "A", "variants": [ { "size": "s" } ] }""", "/variants", "one variant already")]
    [InlineData("""{ "product": "A", "extra": "x" }""", "/extra", "")]
    public void What_is_wrong_about_a_part_is_told_with_its_place(string part, string place, string what) =>
        Told(Slot("", part), $"#/parts/slots/0/of/0{place}", what);

    [Fact]
    public void Two_parts_with_one_key_are_refused() =>
        Told(Slot("", """{ "product": "A-B" }, { "sku": "A.B" }"""), "#/parts/slots/0/of/1", "both be called a-b");

    private static void Told(string parts, string pointer, string what)
    {
        var (product, faults) = Read(parts);
        Assert.Null(product);
        Assert.Contains(faults, f => f.Where == pointer && f.What.Contains(what, StringComparison.Ordinal));
    }

    /// <summary>A rule may name a slot and its candidates like any question; a candidate that is not there is refused, unless a category
    /// may bring it.</summary>
    [Theory]
    [InlineData("""{ "product": "A" }, { "product": "B" }""", "b", true)]
    [InlineData("""{ "product": "A" }, { "product": "B" }""", "c", false)]
    [InlineData("""{ "product": "A" }, { "category": "Tools" }""", "c", true)]
    public void Rules_name_slots_like_questions(string of, string candidate, bool isTaken)
    {
        var rule = $$"""
            , "rules": [ { "key": "r", "when": { "option": "size", "is": [ "s" ] }, "then": { "forbid": { "one": [ "{{candidate}}" ] } } } ]
            """;
        var (product, faults) = Read(Slot("", of), rule);
        Assert.Equal(isTaken, product is not null);
        if (!isTaken)
            Assert.Equal("#/rules/0", faults[0].Where);
    }

    [Theory]
    [InlineData("HT-J", "ht-j")]
    [InlineData("..A__b//C9..", "a-b-c9")]
    [InlineData("ÄÖ", null)]
    [InlineData("", null)]
    public void A_candidate_is_called_by_its_code_in_small_letters(string code, string? key) => Assert.Equal(key, KeyOf(code));

    private static string? KeyOf(string code) => Unicus.Core.Parts.Slot.KeyOf(code)?.Text;
}
