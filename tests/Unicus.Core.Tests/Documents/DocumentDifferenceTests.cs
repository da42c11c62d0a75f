using System.Text.Json.Nodes;
using CsCheck;

namespace Unicus.CoreTests;

/// <summary>What differs between what is on sale and what is being worked on.</summary>
public sealed class DocumentDifferenceTests
{
    private static JsonObject Hive(string change = "") =>
        (JsonObject)
            JsonNode.Parse(
                """
                { "name": "Hive", "base": { "price": "100.00", "weightGrams": 900 }, "tags": ["new", "wood"],
                  "options": [
                    { "key": "timber", "label": "Timber", "values": [
                      { "key": "cedar", "label": "Cedar" },
                      { "key": "pine", "label": "Pine", "surcharge": { "amount": "-32.00" } } ] } ],
                  "variants": [ { "values": { "timber": "pine" }, "sku": "H-PI" } ] }
                """.Replace(change.Split('|')[0] is { Length: > 0 } old ? old : "\n", change.Split('|')[^1] is { Length: > 0 } n ? n : "\n")
            )!;

    [Theory]
    [InlineData("100.00|90.00", "price", "100.00", "90.00")]
    [InlineData("900|1000", "weight grams", "900", "1000")]
    [InlineData("-32.00|-30.00", "Timber, Pine, surcharge, amount", "-32.00", "-30.00")]
    [InlineData("\"H-PI\"|\"X\"", "Pine, sku", "H-PI", "X")]
    [InlineData("\"new\", |", "tags", "new, wood", "wood")]
    [InlineData("\"sku\": \"H-PI\"|\"price\": \"3.00\"", "Pine, price", "", "3.00")]
    public void A_field_is_named_with_old_and_new(string change, string place, string old, string @new)
    {
        change = change.EndsWith('|') ? change + " " : change;
        var found = DocumentDifference.Between(Hive(), Hive(change));
        Assert.Contains(found, f => (f.Place, f.Old, f.New) == (place, old, @new));
        Assert.All(found, f => Assert.NotEqual(f.Old, f.New));
    }

    [Fact]
    public void An_added_value_does_not_make_those_behind_it_differ_and_another_order_is_one_difference()
    {
        var added = Hive();
        ((JsonArray)added["options"]![0]!["values"]!).Insert(0, JsonNode.Parse("""{ "key": "ash", "label": "Ash" }"""));
        Assert.Equal("Timber, Ash", Assert.Single(DocumentDifference.Between(Hive(), added)).Place);
        var turned = Hive();
        var values = (JsonArray)turned["options"]![0]!["values"]!;
        var first = values[0]!.DeepClone();
        values.RemoveAt(0);
        values.Add(first);
        var order = Assert.Single(DocumentDifference.Between(Hive(), turned));
        Assert.Equal(("Timber, values, order", "Cedar, Pine", "Pine, Cedar"), (order.Place, order.Old, order.New));
    }

    /// <summary>Law: taking every difference back, one by one and in any order, leads back to the older document but for the order of
    /// its members and of items that came back.</summary>
    [Fact]
    public void Every_difference_taken_back_leaves_none() =>
        Gen.Select(Document, Document)
            .Sample(
                (older, newer) =>
                {
                    var now = (JsonObject)newer.DeepClone();
                    for (var i = 0; i < 60; i++)
                    {
                        var left = DocumentDifference.Between(older, now);
                        if (left.Count == 0)
                            return true;
                        var next = left[i * 7 % left.Count];
                        now = DocumentDifference.TakenBack(older, now, next.Path)!;
                        Assert.DoesNotContain(DocumentDifference.Between(older, now), f => f == next);
                    }
                    return false;
                },
                iter: 400
            );

    private static readonly Gen<JsonObject> Document = Gen.Select(
        Gen.Int[0, 3],
        Gen.Int[0, 3].Array[0, 4],
        Gen.Bool,
        (price, values, hasNote) =>
        {
            var document = new JsonObject { ["base"] = new JsonObject { ["price"] = $"{price}.00" } };
            if (hasNote)
                document["note"] = new JsonObject { ["back"] = null, ["days"] = price };
            document["options"] = new JsonArray(
                new JsonObject
                {
                    ["key"] = "size",
                    ["label"] = "Size",
                    ["values"] = new JsonArray([
                        .. values
                            .Distinct()
                            .Select(v => new JsonObject
                            {
                                ["key"] = $"v{v}",
                                ["label"] = $"V{v}",
                                ["cost"] = price + v,
                            }),
                    ]),
                }
            );
            if (values.Length > 0)
                document["variants"] = new JsonArray([
                    .. values
                        .Distinct()
                        .Select(v => new JsonObject
                        {
                            ["values"] = new JsonObject { ["size"] = $"v{v}" },
                            ["sku"] = $"S{v}",
                            [v > 1 ? "price" : "cost"] = $"{price}.00",
                        }),
                ]);
            return document;
        }
    );

    [Fact]
    public void A_path_that_leads_nowhere_takes_nothing_back() =>
        Assert.Null(DocumentDifference.TakenBack(Hive(), Hive(), ["options", "none", "label"]));
}
