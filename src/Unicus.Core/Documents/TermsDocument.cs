namespace Unicus.Core.Documents;

using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json.Nodes;
using Unicus.Core.Money;
using Unicus.Core.Pricing;

/// <summary>The terms of trade as <c>/shop</c> and the shop's own table have them.</summary>
public static class TermsDocument
{
    private const int MostClasses = 50;
    private const int MostDestinations = 300;
    private const int MostServices = 20;
    private const int MostRates = 200;

    /// <summary>The members of a document that are terms.</summary>
    public static ImmutableArray<string> Members { get; } =
    ["currency", "pricesIncludeTax", "taxClasses", "destinations", "floor", "countShownBelow"];

    /// <summary>Writes the terms.</summary>
    public static JsonObject Write(TradeTerms terms) =>
        new()
        {
            ["currency"] = terms.Currency.Code,
            ["pricesIncludeTax"] = terms.PricesIncludeTax,
            ["taxClasses"] = new JsonArray([
                .. terms.TaxClasses.Select(c => (JsonNode)new JsonObject { ["key"] = c.Key.Text, ["label"] = c.Label }),
            ]),
            ["destinations"] = new JsonArray([.. terms.Destinations.Select(d => (JsonNode)Write(d))]),
            ["floor"] = WriteFloor(terms.Floor),
            ["countShownBelow"] = terms.CountShownBelow,
        };

    /// <summary>Reads the terms with a fault for everything that is wrong.</summary>
    /// <param name="root">The document.</param>
    /// <param name="usual">For what is left out.</param>
    /// <returns>What could be read; to be used only where there was no fault.</returns>
    public static TradeTerms Read(Node root, TradeTerms usual)
    {
        var currency = usual.Currency;
        if (root.Has("currency"))
        {
            if (Currency.Find(root.At("currency").AsText() ?? "") is { } known)
                currency = known;
            else
                root.At("currency").Fault("A currency is a code of ISO 4217, such as EUR.");
        }
        var classes = root.Has("taxClasses") ? ReadClasses(root) : usual.TaxClasses;
        var keys = classes.Select(c => c.Key.Text).ToHashSet();
        return new TradeTerms(
            currency,
            root.Flag("pricesIncludeTax") ?? usual.PricesIncludeTax,
            classes,
            root.Has("destinations") ? ReadDestinations(root, currency, keys) : usual.Destinations
        )
        {
            Floor = ReadFloor(root.At("floor")),
            CountShownBelow = root.Has("countShownBelow") ? root.Whole("countShownBelow", 1, 1_000_000) : null,
        };
    }

    /// <summary>Writes a floor; null where there is none.</summary>
    internal static JsonObject? WriteFloor(Percentage? floor) =>
        floor is { } margin ? new JsonObject { ["margin"] = Plain(margin.Value) } : null;

    private static JsonObject Write(Destination destination) =>
        new()
        {
            ["code"] = destination.Code,
            ["label"] = destination.Label,
            ["rates"] = new JsonObject(destination.Rates.Select(r => KeyValuePair.Create(r.Key, (JsonNode?)Plain(r.Value)))),
            ["services"] = new JsonArray([.. destination.Services.Select(s => (JsonNode)Write(s))]),
        };

    private static JsonObject Write(DeliveryService service)
    {
        var json = new JsonObject
        {
            ["key"] = service.Key.Text,
            ["label"] = service.Label,
            ["taxClass"] = service.TaxClass,
            ["rates"] = new JsonArray([
                .. service.Rates.Select(r =>
                {
                    var row = new JsonObject();
                    if (r.WeightUpToGrams is { } grams)
                        row["weightUpToGrams"] = grams;
                    if (r.LongestUpToMm is { } longest)
                        row["longestUpToMm"] = longest;
                    if (r.FromBasket is { } from)
                        row["fromBasket"] = from.ToString();
                    row["amount"] = r.Amount.ToString();
                    return (JsonNode)row;
                }),
            ]),
        };
        if (service.Bulky is { } bulky)
            json["bulky"] = new JsonObject
            {
                ["tags"] = new JsonArray([.. bulky.Tags.Select(t => (JsonNode)t!)]),
                ["products"] = new JsonArray([.. bulky.Products.Select(p => (JsonNode)p!)]),
                ["amount"] = bulky.Amount.ToString(),
            };
        return json;
    }

    private static ImmutableArray<TaxClass> ReadClasses(Node root)
    {
        var classes = ImmutableArray.CreateBuilder<TaxClass>();
        foreach (var node in root.Items("taxClasses", MostClasses))
        {
            if (!node.IsObject("a tax class"))
                continue;
            node.Only("key", "label");
            if (node.Key("key") is not { } key)
                node.Fault("A tax class needs a key.");
            else if (classes.Any(c => c.Key == key))
                node.At("key").Fault($"The tax class {key} stands here twice.");
            else
                classes.Add(new TaxClass(key, node.Has("label") ? node.Label("label") : key.Text));
        }
        if (classes.Count == 0)
            root.At("taxClasses").Fault("A shop needs at least one tax class.");
        return classes.ToImmutable();
    }

    private static ImmutableArray<Destination> ReadDestinations(Node root, Currency currency, HashSet<string> classes)
    {
        var destinations = ImmutableArray.CreateBuilder<Destination>();
        foreach (var node in root.Items("destinations", MostDestinations))
        {
            if (!node.IsObject("a destination"))
                continue;
            node.Only("code", "label", "rates", "services");
            var code = (node.Text("code", 20) ?? "").Trim();
            if (code.Length == 0)
                node.Fault("A destination needs a code, such as IE.");
            else if (destinations.Any(d => string.Equals(d.Code, code, StringComparison.OrdinalIgnoreCase)))
                node.At("code").Fault($"The destination {code} stands here twice.");
            var label = node.Has("label") ? node.Label("label") : code;
            destinations.Add(new Destination(code, label, ReadRates(node.At("rates"), classes), ReadServices(node, currency, classes)));
        }
        return destinations.ToImmutable();
    }

    private static ImmutableSortedDictionary<string, decimal> ReadRates(Node node, HashSet<string> classes)
    {
        var rates = ImmutableSortedDictionary.CreateBuilder<string, decimal>();
        if (!node.Exists || !node.IsObject("an object of tax classes and rates"))
            return rates.ToImmutable();
        foreach (var (taxClass, value) in node.Members())
            if (!classes.Contains(taxClass))
                value.Fault($"There is no tax class {taxClass}.");
            else if (value.AsNumber() is >= 0 and <= 100 and var rate)
                rates[taxClass] = rate;
            else
                value.Fault("A tax rate lies between 0 and 100 %.");
        return rates.ToImmutable();
    }

    private static ImmutableArray<DeliveryService> ReadServices(Node destination, Currency currency, HashSet<string> classes)
    {
        var services = ImmutableArray.CreateBuilder<DeliveryService>();
        foreach (var node in destination.Items("services", MostServices))
        {
            if (!node.IsObject("a way of delivery"))
                continue;
            node.Only("key", "label", "taxClass", "rates", "bulky");
            if (node.Key("key") is not { } key)
            {
                node.Fault("A way of delivery needs a key.");
                continue;
            }
            if (services.Any(s => s.Key == key))
                node.At("key").Fault($"The way of delivery {key} stands here twice.");
            var taxClass = node.Text("taxClass", 64) ?? classes.FirstOrDefault() ?? "";
            if (!classes.Contains(taxClass))
                node.At("taxClass").Fault($"There is no tax class {taxClass}.");
            var rates = node.Items("rates", MostRates).Select(r => ReadRate(r, currency)).OfType<DeliveryRate>().ToImmutableArray();
            if (rates.IsEmpty)
                node.At("rates").Fault("A way of delivery needs at least one rate.");
            var label = node.Has("label") ? node.Label("label") : key.Text;
            services.Add(new DeliveryService(key, label, taxClass, rates) { Bulky = ReadBulky(node.At("bulky"), currency) });
        }
        return services.ToImmutable();
    }

    private static BulkyCharge? ReadBulky(Node node, Currency currency)
    {
        if (!node.Exists || !node.IsObject("a charge for bulky goods"))
            return null;
        node.Only("tags", "products", "amount");
        node.Require("amount");
        var (tags, products) = (node.Texts("tags", 80), node.Texts("products", 64));
        if (tags.IsEmpty && products.IsEmpty)
            node.Fault("Say which goods are bulky: by tags, or by the codes of products.");
        return node.Money("amount", currency) is { } amount
            ? new BulkyCharge(tags, [.. products.Select(p => p.ToUpperInvariant())], amount)
            : null;
    }

    private static DeliveryRate? ReadRate(Node node, Currency currency)
    {
        if (!node.IsObject("a rate"))
            return null;
        node.Only("weightUpToGrams", "longestUpToMm", "fromBasket", "amount");
        node.Require("amount");
        var grams = node.Has("weightUpToGrams") ? node.Whole("weightUpToGrams", 1, 1_000_000_000) : null;
        var from = node.Has("fromBasket") ? node.Money("fromBasket", currency) : null;
        var longest = node.Has("longestUpToMm") ? node.Whole("longestUpToMm", 1, 100_000) : null;
        return node.Money("amount", currency) is { } amount ? new DeliveryRate(grams, from, amount) { LongestUpToMm = longest } : null;
    }

    /// <summary>Reads a floor, <c>{"margin": "25"}</c>; null where there is none, or it is wrong, with a fault.</summary>
    internal static Percentage? ReadFloor(Node node)
    {
        if (!node.Exists || !node.IsObject("a floor"))
            return null;
        node.Only("margin");
        node.Require("margin");
        if (node.At("margin").AsNumber() is >= 0 and < 100 and var margin)
            return new Percentage(margin);
        node.At("margin").Fault("A least margin is at least 0 and below 100 %.");
        return null;
    }

    private static string Plain(decimal number) => number.ToString("0.############", CultureInfo.InvariantCulture);
}
