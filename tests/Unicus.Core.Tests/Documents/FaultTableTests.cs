using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Unicus.Core.Tests;

/// <summary>Whatever is read: in every object of a whole example an unknown field, and a field that stands twice, is a fault at its
/// pointer, and so is each needed field that is missing.</summary>
public class FaultTableTests
{
    private const string Product = """
        { "format": "unicus-product/1", "code": "FT1", "name": "All of it", "webAddress": "all-of-it", "summary": "s",
          "specifications": [ { "label": "Width", "value": "1" } ], "passages": [ { "heading": "h", "text": "<p>t</p>" } ],
          "pictures": [ { "file": "a.png", "alt": "a", "shows": { "option": "size", "value": "s" } } ],
          "videos": [ { "address": "https://films.example.org/a.mp4", "title": "t" } ],
          "base": { "price": "10.00", "sizeMm": { "length": 1, "width": 2, "height": 3 }, "netContent": { "quantity": "5", "unit": "kg" } },
          "selling": { "counted": true, "beyond": { "units": 2 }, "offForNow": { "back": "2027-05-03" } },
          "shelf": { "listed": true, "featured": { "from": "2027-01-01", "until": "2027-02-01" } },
          "floor": { "margin": "5" },
          "options": [
            { "key": "size", "label": "Size", "role": "variant", "values": [ { "key": "s", "label": "S", "swatch": { "colour": "#112233" },
              "surcharge": { "amount": "1.00" }, "figures": { "weightGrams": 5 } }, { "key": "m", "label": "M" } ] },
            { "key": "wrap", "label": "Wrap", "role": "extra", "ask": "several", "picks": { "min": 0, "max": 1 }, "values": [
              { "key": "paper", "label": "Paper", "surcharge": { "once": "1.00" }, "part": { "sku": "P-1", "quantity": 1 } } ] },
            { "key": "width", "label": "Width", "role": "extra", "ask": "number", "number": { "min": "1", "max": "9" },
              "surcharge": { "table": { "rows": [ { "max": "9", "amount": "4.00" } ] } } },
            { "key": "day", "label": "Day", "role": "extra", "ask": "date", "date": { "earliestInDays": 1 } } ],
          "rules": [ { "key": "r1", "when": { "all": [ { "option": "size", "is": ["s"] },
            { "not": { "option": "day", "answered": true } } ] },
            "then": { "hide": ["wrap"] } } ],
          "skuPattern": [ { "code": true }, { "text": "-" }, { "option": "size" } ],
          "variants": [ { "values": { "size": "s" }, "price": "11.00", "selling": { "shipped": true } } ],
          "priceRules": [ { "key": "p1", "scope": { "skus": ["FT1-S"] }, "when": { "quantityAtLeast": 2 },
            "effect": { "reduce": { "percent": "5" } } } ] }
        """;

    private const string Set = """
        { "format": "unicus-product/1", "code": "FT2", "name": "A set", "parts": { "sold": "together",
          "price": { "rule": "sum", "reduce": { "percent": "5" } },
          "pictures": [ { "file": "a.png", "pins": [ { "slot": "a", "x": 0.5, "y": 0.5 } ] } ],
          "slots": [ { "key": "a", "label": "A", "of": [ { "product": "X" } ], "quantity": { "min": 1, "max": 2 },
            "picks": { "min": 1, "max": 1 },
            "reduce": { "amount": "1.00" }, "pick": { "follows": "size", "table": { "s": "m" } } } ] },
          "options": [ { "key": "size", "label": "Size", "role": "variant", "values": [ { "key": "s", "label": "S" } ] } ] }
        """;

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
    private static readonly HashSet<string> Maps = ["values", "answers", "rates", "table"];

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
                return DocumentReader.Read(document.RootElement, Currency.Euro).Faults.ToList();
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
        if (!(Maps.Contains(place) && fields.All(f => f.Value is JsonValue)))
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
    [InlineData("product", Product, 25)]
    [InlineData("set", Set, 12)]
    [InlineData("basket", Basket, 5)]
    [InlineData("terms", Terms, 6)]
    [InlineData("rule", Rule, 7)]
    [InlineData("packs", Packs, 3)]
    [InlineData("cheapest", Cheapest, 3)]
    [InlineData("shared", Shared, 4)]
    public void Unknown_doubled_and_missing_fields_are_told_at_their_pointer(string kind, string example, int least)
    {
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
