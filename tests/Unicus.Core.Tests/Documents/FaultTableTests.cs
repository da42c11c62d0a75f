using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Unicus.CoreTests;

/// <summary>Whatever is read: in every object of a whole example an unknown field, and a field that stands twice, is a fault at its
/// pointer, and so is each needed field that is missing.</summary>
public class FaultTableTests
{
    private const string Basket = """
        { "lines": [ { "product": "A", "answers": { "x": "y" }, "quantity": 2, "through": "G" }, { "sku": "B" },
          { "product": "G", "pieces": [ { "sku": "C", "quantity": 1 } ] } ], "coupons": ["M"], "destination": "IE" }
        """;

    private const string Terms = """
        { "currency": "EUR", "pricesIncludeTax": true, "taxClasses": [ { "key": "standard", "label": "S" } ],
          "destinations": [ { "code": "IE", "label": "Ireland", "rates": { "standard": "20" }, "services": [
            { "key": "post", "label": "Post",
            "taxClass": "standard", "rates": [ { "weightUpToGrams": 1000, "amount": "5.00" } ],
            "bulky": { "tags": ["big"], "amount": "9.00" } } ] } ], "floor": { "margin": "5" } }
        """;

    private const string Rule = """
        { "key": "r", "name": "R", "scope": { "products": ["A"], "where": { "option": "size", "is": ["s"] } }, "when": { "coupon": "M" },
          "effect": { "bands": { "mode": "all-units", "rows": [ { "from": 2, "unit": "1.00" } ] } }, "limits": { "inAll": 1 } }
        """;

    private const string Packs = """
        { "key": "r", "effect": { "packs": [ { "units": 2, "total": "5.00" } ] } }
        """;

    private const string Cheapest = """
        { "key": "r", "effect": { "cheapestOff": { "inEvery": 3, "units": 1, "percent": "100" } } }
        """;

    private const string Shared = """
        { "key": "s", "name": "S", "categories": ["C"], "options": [ { "key": "w", "label": "W", "role": "extra", "ask": "one", "values": [
          { "key": "a", "label": "A" } ] } ], "rules": [ { "key": "r", "then": { "require": ["w"] } } ] }
        """;

    /// <summary>Objects whose fields are named by the merchant.</summary>
    private static readonly HashSet<string> Maps =
    [
        "values",
        "answers",
        "rates",
        "table",
        "notMade",
        "variants",
        "setBySku",
        "forbid",
        "allowOnly",
    ];

    /// <summary>What may not be missing, by the name of the list or field that the object stands in.</summary>
    private static readonly Dictionary<string, string[]> Needed = new()
    {
        ["specifications"] = ["label", "value"],
        ["passages"] = ["heading", "text"],
        ["options"] = ["key", "label", "role"],
        ["rules"] = ["key", "then"],
        ["variants"] = ["values"],
        ["slots"] = ["key", "of"],
        ["priceRules"] = ["key", "effect"],
        ["floor"] = ["margin"],
        ["bands"] = ["mode", "rows"],
        ["packs"] = ["units", "total"],
        ["cheapestOff"] = ["inEvery", "units", "percent"],
        ["taxClasses"] = ["key"],
        ["destinations"] = ["code"],
        ["services"] = ["key", "rates"],
        ["bulky"] = ["amount"],
        ["part"] = ["sku"],
    };

    private static IReadOnlyList<Fault> Read(string kind, string json)
    {
        using var document = JsonDocument.Parse(json);
        var faults = new List<Fault>();
        var root = new Node(document.RootElement, "#", faults);
        switch (kind)
        {
            case "product" or "set":
                return DocumentReader.Read(document.RootElement, Currency.Euro, sets: [WholeDocumentTests.Gifts]).Faults.ToList();
            case "basket":
                return BasketRequest.Read(root).Faults;
            case "terms":
                root.Only([.. TermsDocument.Members]);
                TermsDocument.Read(root, new TradeTerms(Currency.Euro, true, [new TaxClass(Key.Of("standard"), "S")], []));
                return faults;
            case "shared":
                return ExtraSetDocument.Read(document.RootElement, Currency.Euro).Faults;
            default:
                new PriceRuleReader(Currency.Euro).Rule(root);
                return faults;
        }
    }

    /// <summary>Every object of the example with its pointer and the name of what it stands in.</summary>
    private static IEnumerable<(JsonObject Object, string Pointer, string In)> Objects(JsonNode? node, string pointer, string place)
    {
        if (node is JsonArray list)
            foreach (var (i, item) in list.Index())
                foreach (var found in Objects(item, $"{pointer}/{i}", place))
                    yield return found;
        if (node is not JsonObject fields)
            yield break;
        if (!(Maps.Contains(place) && fields.All(f => f.Value is JsonValue or JsonArray)))
            yield return (fields, pointer, place);
        foreach (var (name, value) in fields)
            foreach (var found in Objects(value, $"{pointer}/{name}", name))
                yield return found;
    }

    /// <summary>The text of a document in which one object begins with a member more.</summary>
    private static string With(JsonNode document, JsonObject at, string member)
    {
        var mark = $"mark-{Guid.NewGuid():N}";
        at.Insert(0, mark, 0);
        var text = document.ToJsonString();
        at.Remove(mark);
        return text.Replace($"\"{mark}\":0", member, StringComparison.Ordinal)
            .Replace($"{member},}}", $"{member}}}", StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("product", null, 60)]
    [InlineData("set", null, 19)]
    [InlineData("basket", Basket, 5)]
    [InlineData("terms", Terms, 6)]
    [InlineData("rule", Rule, 7)]
    [InlineData("packs", Packs, 3)]
    [InlineData("cheapest", Cheapest, 3)]
    [InlineData("shared", Shared, 4)]
    public void Unknown_doubled_and_missing_fields_are_told_at_their_pointer(string kind, string? given, int least)
    {
        var example = given ?? WholeDocumentTests.Of(kind).ToJsonString();
        Assert.Empty(Read(kind, example).Select(f => $"{f.Where}: {f.What}"));
        var document = JsonNode.Parse(example)!;
        var objects = Objects(document, "#", kind).ToList();
        Assert.True(objects.Count >= least, $"{objects.Count} objects");
        var untold = new StringBuilder();
        foreach (var (at, pointer, place) in objects)
        {
            Tell(With(document, at, "\"no-such\":1"), $"{pointer}/no-such", "unknown");
            var (first, value) = at.First();
            Tell(With(document, at, $"{JsonSerializer.Serialize(first)}:{value!.ToJsonString()}"), $"{pointer}/{first}", "twice");
            foreach (var needed in Needed.GetValueOrDefault(place, []).Where(at.ContainsKey))
            {
                var kept = at[needed];
                at.Remove(needed);
                Tell(document.ToJsonString(), pointer, $"without {needed}");
                at[needed] = kept;
            }
        }
        Assert.True(untold.Length == 0, untold.ToString());

        void Tell(string json, string pointer, string what)
        {
            if (!Read(kind, json).Any(f => f.Where.StartsWith(pointer, StringComparison.Ordinal)))
                untold.AppendLine($"{pointer} {what}: {string.Join("; ", Read(kind, json).Select(f => $"{f.Where} {f.What}"))}");
        }
    }
}
