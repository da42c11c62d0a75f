using System.Text.Json;
using System.Text.Json.Nodes;

namespace Unicus.CoreTests;

/// <summary>Two documents that use every field there is: all of it is read, and all of it is written again.</summary>
public class WholeDocumentTests
{
    /// <summary>Only price rules of the whole shop have these; their round trip is a law of its own.</summary>
    private static readonly string[] OfTheShop = ["basketAtLeast", "products", "reduceBasket", "reduceDelivery", "through"];

    /// <summary>The example of a kind: <c>product</c> or <c>set</c>.</summary>
    public static JsonObject Of(string kind) =>
        JsonNode.Parse(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "Documents", $"whole-{kind}.json")))!.AsObject();

    /// <summary>The shared set that the product takes.</summary>
    public static ExtraSet Gifts { get; } = new(Key.Of("gifts"), "Gifts", false, [], [], []);

    private static IEnumerable<string> Named(JsonNode? node) =>
        node switch
        {
            JsonObject fields => fields
                .SelectMany(f => Named(f.Value))
                .Concat((fields["properties"] as JsonObject ?? []).Select(p => p.Key)),
            JsonArray list => list.SelectMany(Named),
            _ => [],
        };

    private static IEnumerable<string> Used(JsonNode? node) =>
        node switch
        {
            JsonObject fields => fields.SelectMany(f => Used(f.Value).Prepend(f.Key)),
            JsonArray list => list.SelectMany(Used),
            _ => [],
        };

    private static IEnumerable<(string Pointer, string Value)> Leaves(JsonNode? node, string pointer) =>
        node switch
        {
            JsonObject fields => fields.SelectMany(f => Leaves(f.Value, $"{pointer}/{f.Key}")),
            JsonArray list => list.SelectMany((item, i) => Leaves(item, $"{pointer}/{i}")),
            _ => [(pointer, node?.ToJsonString() ?? "null")],
        };

    [Fact]
    public void Every_field_of_the_schema_is_used() =>
        Assert.Equal(
            OfTheShop,
            Named(JsonNode.Parse(ProductSchema.Text))
                .Distinct()
                .Except(Used(Of("product")))
                .Except(Used(Of("set")))
                .Order(StringComparer.Ordinal)
        );

    [Theory]
    [InlineData("product")]
    [InlineData("set")]
    public void What_is_read_is_written_again(string kind)
    {
        var example = Of(kind);
        var (product, _, faults) = DocumentReader.Read(JsonSerializer.SerializeToElement(example), Currency.Euro, sets: [Gifts]);
        Assert.Empty(faults.Select(f => $"{f.Where}: {f.What}"));
        var written = DocumentWriter.Write(product!, ListedVariants.Differing);
        Assert.Empty(Leaves(example, "#").Except(Leaves(written, "#")));
    }

    /// <summary>The longest text of a field is taken, and not one letter more.</summary>
    [Theory]
    [InlineData("brand", 80)]
    [InlineData("partNumber", 80)]
    [InlineData("badge", 30)]
    [InlineData("summary", 500)]
    [InlineData("name", 200)]
    public void A_text_is_as_long_as_the_schema_says(string field, int longest)
    {
        var example = Of("product");
        IEnumerable<string> Faults(int length)
        {
            example[field] = new string('a', length);
            var read = DocumentReader.Read(JsonSerializer.SerializeToElement(example), Currency.Euro, sets: [Gifts]);
            return read.Faults.Select(f => f.Where);
        }
        Assert.Empty(Faults(longest));
        Assert.Equal([$"#/{field}"], Faults(longest + 1));
        Assert.Equal(longest, JsonNode.Parse(ProductSchema.Text)!["properties"]![field]!["maxLength"]!.GetValue<int>());
    }

    [Fact]
    public void A_line_names_goods_by_64_letters_at_most()
    {
        static IEnumerable<string> Faults(string field, int length)
        {
            var line = new JsonObject { ["product"] = "A", ["quantity"] = 1 };
            if (field == "sku")
                line.Remove("product");
            line[field] = new string('A', length);
            var faults = new List<Fault>();
            var basket = new JsonObject { ["lines"] = new JsonArray(line) };
            return BasketRequest.Read(new Node(JsonSerializer.SerializeToElement(basket), "#", faults)).Faults.Select(f => f.Where);
        }
        foreach (var field in new[] { "product", "sku", "through" })
        {
            Assert.Empty(Faults(field, 64));
            Assert.Equal([$"#/lines/0/{field}"], Faults(field, 65));
        }
    }

    [Fact]
    public void A_question_of_yes_or_no_needs_no_values_and_a_rule_stands_once()
    {
        var asked = JsonNode
            .Parse(
                """
                { "format": "unicus-product/1", "code": "YN", "name": "Yes or no",
                  "options": [ { "key": "stand", "label": "Stand", "role": "extra", "ask": "yes-no", "surcharge": { "amount": "2.00" } },
                    { "key": "open", "label": "Open", "role": "extra", "ask": "one", "values": [ { "key": "a", "label": "A" } ] } ],
                  "rules": [ { "key": "r", "then": { "require": ["stand"] } }, { "key": "r", "then": { "hide": ["open"] } } ] }
                """
            )!
            .AsObject();
        var (product, _, faults) = DocumentReader.Read(JsonSerializer.SerializeToElement(asked), Currency.Euro);
        Assert.Equal(["#/rules"], faults.Select(f => f.Where));
        asked["rules"]!.AsArray().RemoveAt(1);
        (product, _, faults) = DocumentReader.Read(JsonSerializer.SerializeToElement(asked), Currency.Euro);
        Assert.Empty(faults);
        var yes = Assert.Single(product!.Extras[0].Values);
        Assert.Equal(("yes", new Surcharge.PerUnit(Sample.Eur(2))), (yes.Key.Text, yes.Surcharge));
    }
}
