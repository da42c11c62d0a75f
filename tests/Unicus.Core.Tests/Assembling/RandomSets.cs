using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Unicus.CoreTests;

/// <summary>Random ranges of goods and sets within sets, as documents, with what a shopper picks of them.</summary>
/// <remarks>Plain goods P1 to P3, goods in sizes V1 and V2, and sets S1 to S3, each of which may hold what stands before it.</remarks>
internal sealed class RandomSets
{
    public static readonly string[] Sizes = ["s", "m", "l"];

    private readonly Random _random;
    private readonly bool _withClasses;

    /// <param name="withClasses">Whether some goods, and some sets as a whole, are taxed by the class reduced.</param>
    public RandomSets(int seed, bool withPrices = true, bool withClasses = false)
    {
        (_random, _withClasses) = (new Random(seed), withClasses);
        for (var i = 1; i <= 3; i++)
            Docs[$"P{i}"] = Goods($"P{i}", sized: false, withPrices);
        for (var i = 1; i <= 2; i++)
            Docs[$"V{i}"] = Goods($"V{i}", sized: true, withPrices);
        for (var i = 1; i <= 3; i++)
            Docs[$"S{i}"] = Set($"S{i}", withPrices);
        Editions = [.. Docs.Values.Select((d, i) => Edition(d, i + 1))];
        Range = new PublishedRange.Of(Editions);
    }

    /// <summary>The documents by code.</summary>
    public Dictionary<string, JsonObject> Docs { get; } = [];

    public ImmutableArray<Edition> Editions { get; }
    public PublishedRange Range { get; }

    public Edition this[string code] => Editions.First(e => e.Product.Code.Text == code);

    private int Next(int below) => _random.Next(below);

    private bool One(int of) => _random.Next(of) == 0;

    private static string Amount(decimal amount) => amount.ToString("0.00", CultureInfo.InvariantCulture);

    private string Money(int mostCents) => Amount(Next(mostCents) / 100m);

    private JsonObject Goods(string code, bool sized, bool withPrices)
    {
        var doc = new JsonObject
        {
            ["format"] = "unicus-product/1",
            ["code"] = code,
            ["name"] = code,
            ["base"] = new JsonObject { ["price"] = Amount(1 + Next(9000) / 100m), ["cost"] = Amount(1 + Next(500) / 100m) },
        };
        if (_withClasses && One(2))
            doc["base"]!["taxClass"] = "reduced";
        var options = new JsonArray();
        if (sized)
        {
            options.Add(Option("size", "variant", Sizes));
            doc["variants"] = new JsonArray([
                .. Sizes.Select(s =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["values"] = new JsonObject { ["size"] = s },
                            ["price"] = Amount(1 + Next(9000) / 100m),
                        }
                ),
            ]);
        }
        if (withPrices && One(2))
            options.Add(
                new JsonObject
                {
                    ["key"] = "mark",
                    ["label"] = "Mark",
                    ["role"] = "extra",
                    ["ask"] = "several",
                    ["values"] = new JsonArray(
                        new JsonObject
                        {
                            ["key"] = "each",
                            ["label"] = "Each",
                            ["surcharge"] = new JsonObject { ["amount"] = Money(900) },
                            ["cost"] = Money(400),
                        },
                        new JsonObject
                        {
                            ["key"] = "once",
                            ["label"] = "Once",
                            ["surcharge"] = new JsonObject { ["once"] = Money(900) },
                            ["cost"] = Money(400),
                        }
                    ),
                }
            );
        if (options.Count > 0)
            doc["options"] = options;
        return doc;
    }

    private static JsonObject Option(string key, string role, string[] values) =>
        new()
        {
            ["key"] = key,
            ["label"] = key,
            ["role"] = role,
            ["values"] = new JsonArray([.. values.Select(v => (JsonNode)new JsonObject { ["key"] = v, ["label"] = v })]),
        };

    private JsonObject Set(string code, bool withPrices)
    {
        var doc = new JsonObject
        {
            ["format"] = "unicus-product/1",
            ["code"] = code,
            ["name"] = code,
        };
        var sized = One(3);
        if (sized)
            doc["options"] = new JsonArray(Option("size", "variant", Sizes));
        var slots = new JsonArray([.. Enumerable.Range(0, 1 + Next(3)).Select(i => (JsonNode)Slot($"slot-{i}", sized, withPrices))]);
        var price =
            One(4) ? new JsonObject { ["rule"] = "fixed", ["amount"] = Money(9000) }
            : One(2) ? new JsonObject { ["rule"] = "sum", ["reduce"] = Reduction(2_000) }
            : new JsonObject { ["rule"] = "sum" };
        var isOpen = slots.Any(s => IsOpen((JsonObject)s!));
        doc["parts"] = new JsonObject
        {
            ["sold"] = "together",
            // What is made up ahead has every pick decided.
            ["stock"] =
                isOpen || One(2) ? "parts"
                : One(3) ? "own"
                : "own-then-parts",
            ["price"] = price,
            ["slots"] = slots,
        };
        if (_withClasses && One(4))
            doc["parts"]!["taxClass"] = One(2) ? "reduced" : "standard";
        Rules(doc, slots);
        return doc;
    }

    /// <summary>Sometimes a rule forbids a candidate of one slot with one of another.</summary>
    private void Rules(JsonObject doc, JsonArray slots)
    {
        var questions = slots.Select(s => (JsonObject)s!).Where(s => s["of"]!.AsArray().Count > 1).ToList();
        if (questions.Count < 2 || !One(2))
            return;
        string Candidate(JsonObject slot) => CodeOf(slot["of"]![Next(slot["of"]!.AsArray().Count)]!).ToLowerInvariant();
        doc["rules"] = new JsonArray(
            new JsonObject
            {
                ["key"] = "apart",
                ["when"] = new JsonObject { ["option"] = (string)questions[0]["key"]!, ["is"] = new JsonArray(Candidate(questions[0])) },
                ["then"] = new JsonObject
                {
                    ["forbid"] = new JsonObject { [(string)questions[1]["key"]!] = new JsonArray(Candidate(questions[1])) },
                },
            }
        );
    }

    private bool IsOpen(JsonObject slot) =>
        slot["of"]!.AsArray().Count > 1
        || slot["optional"] is not null
        || (int)slot["quantity"]!["min"]! != (int)slot["quantity"]!["max"]!
        || (CodeOf(slot["of"]![0]!) is var code && (code[0] == 'V' || IsSized(Docs[code])) && slot["of"]![0]!["product"] is not null)
        || (CodeOf(slot["of"]![0]!)[0] == 'S' && (string)Docs[CodeOf(slot["of"]![0]!)]["parts"]!["stock"]! == "parts");

    private static bool IsSized(JsonObject doc) => doc["options"]?.AsArray().Any(o => (string)o!["key"]! == "size") == true;

    /// <summary>The product code of a candidate, or its SKU.</summary>
    public static string CodeOf(JsonNode entry) => (string)(entry["product"] ?? entry["sku"])!;

    private JsonObject Reduction(int mostCents) =>
        One(2)
            ? new JsonObject { ["percent"] = (new[] { "5", "12.5", "33.3333", "100" })[Next(4)] }
            : new JsonObject { ["amount"] = Money(mostCents) };

    private JsonObject Slot(string key, bool sized, bool withPrices)
    {
        var codes = Docs.Keys.OrderBy(_ => _random.Next()).Take(One(2) ? 1 : 1 + Next(3)).ToList();
        var entries = codes.Select(c =>
        {
            var entry =
                c[0] == 'V' && One(4)
                    ? new JsonObject { ["sku"] = $"{c}-{Sizes[Next(3)].ToUpperInvariant()}" }
                    : new JsonObject { ["product"] = c };
            if (entry["product"] is not null && c[0] == 'V' && One(4))
                entry["variants"] = new JsonArray(new JsonObject { ["size"] = "s" }, new JsonObject { ["size"] = "m" });
            if (One(4))
                entry["extra"] = Money(700);
            return (JsonNode)entry;
        });
        var (min, more) = (1 + Next(2), One(3) ? Next(3) : 0);
        var slot = new JsonObject
        {
            ["key"] = key,
            ["label"] = key,
            ["of"] = new JsonArray([.. entries]),
            ["quantity"] = new JsonObject { ["min"] = min, ["max"] = min + more },
        };
        if (codes.Count > 1 && One(2))
            slot["picks"] = new JsonObject { ["min"] = 1 + Next(codes.Count), ["max"] = codes.Count };
        if (One(4))
            slot["optional"] = true;
        if (sized && One(2))
            slot["pick"] = new JsonObject { ["follows"] = "size" };
        if (!withPrices)
            return slot;
        if (One(4))
            slot["included"] = true;
        else if (One(4))
            slot["setUnit"] = Money(4_000);
        else if (One(2))
            slot["reduce"] = Reduction(1_500);
        return slot;
    }

    /// <summary>What a shopper may pick: answers and parts as a line has them; null where chance led into a dead end.</summary>
    public (JsonObject Answers, JsonObject Parts)? Picks(string code, int level = 0)
    {
        var (answers, parts, doc) = (new JsonObject(), new JsonObject(), Docs[code]);
        var size = IsSized(doc) ? Sizes[Next(3)] : null;
        if (size is not null)
            answers["size"] = size;
        foreach (var slot in doc["parts"]!["slots"]!.AsArray().Select(s => (JsonObject)s!))
        {
            var entries = slot["of"]!.AsArray().ToList();
            var count =
                slot["optional"] is not null && One(2) ? 0
                : slot["picks"] is { } picks ? (int)picks["min"]! + Next((int)picks["max"]! - (int)picks["min"]! + 1)
                : 1;
            var list = new JsonArray();
            foreach (var entry in entries.OrderBy(_ => _random.Next()).Take(count).OrderBy(entries.IndexOf))
            {
                if (Part(entry!, slot, size, level) is not { } part)
                    return null;
                list.Add(part);
            }
            parts[(string)slot["key"]!] = list;
        }
        return (answers, parts);
    }

    private JsonObject? Part(JsonNode entry, JsonObject slot, string? size, int level)
    {
        var (min, max) = ((int)slot["quantity"]!["min"]!, (int)slot["quantity"]!["max"]!);
        var part = new JsonObject { ["quantity"] = min + Next(max - min + 1) };
        var bySku = entry["sku"] is not null;
        part[bySku ? "sku" : "product"] = CodeOf(entry);
        var answers = new JsonObject();
        var code = CodeOf(entry).Split('-')[0];
        var isFollowing = slot["pick"] is JsonObject && IsSized(Docs[code]);
        if (isFollowing)
        {
            var ownSize = bySku ? CodeOf(entry).Split('-')[1].ToLowerInvariant() : null;
            if ((ownSize is not null && ownSize != size) || (entry["variants"] is not null && size == "l"))
                return null;
        }
        if (IsSized(Docs[code]) && !bySku && code[0] == 'V')
            answers["size"] = isFollowing ? size : Sizes[Next(entry["variants"] is null ? 3 : 2)];
        if (code[0] == 'S')
        {
            if (Picks(code, level + 1) is not { } inner)
                return null;
            if (isFollowing && inner.Answers["size"] is { } own && (string)own! != size)
                return null;
            (part["answers"], part["parts"]) = (inner.Answers, inner.Parts);
            return part;
        }
        if (Docs[code]["options"]?.AsArray().Any(o => (string)o!["key"]! == "mark") == true && One(2))
            answers["mark"] = One(2) ? new JsonArray("each") : new JsonArray("each", "once");
        part["answers"] = answers;
        return part;
    }

    private static Edition Edition(JsonObject doc, int id)
    {
        var json = JsonSerializer.SerializeToElement(doc);
        var (product, _, faults) = DocumentReader.Read(json, Currency.Euro);
        Assert.Empty(faults);
        // What is written is read again as the same.
        var again = DocumentWriter.Write(product!, ListedVariants.Differing);
        var (second, _, more) = DocumentReader.Read(JsonSerializer.SerializeToElement(again), Currency.Euro);
        Assert.Empty(more);
        Assert.Equal(again.ToJsonString(), DocumentWriter.Write(second!, ListedVariants.Differing).ToJsonString());
        return RandomRules.Edition(WithCounterparts(product!), id);
    }

    /// <summary>Slots that follow the size know which goods have it, as a shop looks it up.</summary>
    private static Product WithCounterparts(Product product) =>
        product.Parts is null
            ? product
            : product with
            {
                Filled =
                [
                    .. product.SlotsInRange.Select(s =>
                        s.Slot.Pick is SlotPick.Follows && product.Options.Length > 0
                            ? s with
                            {
                                Candidates = [.. s.Candidates.Select(c => c with { Counterparts = Counterparts(c) })],
                            }
                            : s
                    ),
                ],
            };

    private static ImmutableHashSet<Key>? Counterparts(Candidate candidate) =>
        candidate.Sku is { } sku && sku.Contains('-') ? [Key.Of(sku.Split('-')[1].ToLowerInvariant())]
        : candidate.Entry.Variants.IsEmpty ? null
        : [.. candidate.Entry.Variants.Select(v => v[Key.Of("size")]!.Value)];
}
