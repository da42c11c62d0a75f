namespace Unicus.Core.Documents;

using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Nodes;
using Unicus.Core.Money;
using Unicus.Core.Products;
using Unicus.Core.Variants;

/// <summary>A shared set of extras as JSON: its name, what it reaches, and <c>options</c> and <c>rules</c> as in product
/// documents.</summary>
public static class ExtraSetDocument
{
    /// <summary>Reads a set; its extras and rules are looked at as those of a product.</summary>
    public static (ExtraSet? Set, IReadOnlyList<Fault> Faults) Read(JsonElement json, Currency currency, bool stored = false)
    {
        var faults = new List<Fault>();
        var root = new Node(json, "#", faults);
        if (!root.IsObject("a set of extras"))
            return (null, faults);
        root.Only("key", "name", "everything", "categories", "options", "rules");
        root.Require("key", "name");
        var body = new JsonObject
        {
            ["format"] = DocumentReader.Format,
            ["code"] = "SET",
            ["name"] = "set",
            ["options"] = root.At("options").AsJson() ?? new JsonArray(),
            ["rules"] = root.At("rules").AsJson() ?? new JsonArray(),
        };
        var (product, _, inside) = DocumentReader.Read(JsonSerializer.SerializeToElement(body), currency, stored);
        faults.AddRange(inside);
        if (product is { Options.IsEmpty: false })
            root.At("options").Fault("A set has extras only: an option that splits variants belongs to a product.");
        var set =
            root.Has("key") && root.Key("key") is { } key
                ? new ExtraSet(
                    key,
                    root.Text("name", 120) ?? key.Text,
                    root.Flag("everything") ?? false,
                    root.Texts("categories", 80),
                    product?.Extras ?? [],
                    product?.Rules ?? []
                )
                : null;
        return (faults.Count == 0 ? set : null, faults);
    }

    /// <summary>Writes a set.</summary>
    public static JsonObject Write(ExtraSet set)
    {
        var product = DocumentWriter.Write(
            new Product(ProductCode.Of("SET"), "set") { Extras = set.Extras, Rules = set.Rules },
            ListedVariants.None
        );
        var json = new JsonObject
        {
            ["key"] = set.Key.Text,
            ["name"] = set.Name,
            ["everything"] = set.Everything,
            ["categories"] = new JsonArray([.. set.Categories.Select(c => (JsonNode)c!)]),
        };
        foreach (var name in new[] { "options", "rules" })
            if (product[name] is { } part)
                json[name] = part.DeepClone();
        return json;
    }
}
