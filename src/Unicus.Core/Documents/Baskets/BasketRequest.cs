namespace Unicus.Core.Documents.Baskets;

using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Range;
using Unicus.Core.Variants;

/// <summary>A line as asked for: a product with answers, or a SKU.</summary>
/// <param name="Product">Which product it is.</param>
/// <param name="Sku">The SKU.</param>
/// <param name="Answers">As <see cref="AnswerDocument"/> has them.</param>
/// <param name="Quantity">Units; 1 or more.</param>
/// <param name="Through">The code of the page that it is bought through; null for its own.</param>
public sealed record LineRequest(string? Product, string? Sku, JsonObject Answers, int Quantity, string? Through)
{
    /// <summary>What one unit cost when it was put into the basket; null where that was not kept.</summary>
    public decimal? Seen { get; init; }

    /// <summary>What is asked of the parts of a set, as <see cref="PartAnswers"/> reads it; null for nothing.</summary>
    public JsonObject? Parts { get; init; }

    /// <summary>Whether it is what a group's own extras cost, its pieces being lines of their own.</summary>
    [JsonIgnore]
    public bool IsOfGroup { get; init; }

    /// <summary>Its pointer in the document that it came in; null: by its place.</summary>
    [JsonIgnore]
    public string? Pointer { get; init; }

    /// <summary>Whether the other line asks for the same, whatever the quantity.</summary>
    public bool IsSame(LineRequest other) =>
        Product == other.Product
        && Sku == other.Sku
        && Through == other.Through
        && JsonNode.DeepEquals(Answers, other.Answers)
        && JsonNode.DeepEquals(Parts, other.Parts);

    /// <summary>Lines of a shopper's basket with this one besides: with one that asks for the same it becomes one line.</summary>
    /// <returns>Null where the basket holds no more lines.</returns>
    public ImmutableArray<LineRequest>? PutInto(ImmutableArray<LineRequest> lines)
    {
        if (lines.FirstOrDefault(IsSame) is { } same)
            return lines.Replace(same, same with { Quantity = Math.Min(Selling.MostUnits, same.Quantity + Quantity) });
        return lines.Length < BasketRequest.MostLinesInShop ? lines.Add(this) : null;
    }
}

/// <summary>A basket as asked for.</summary>
/// <param name="Lines">In their order.</param>
/// <param name="Destination">A code; null for the shop's first.</param>
/// <param name="At">The moment that it is priced for; null is now.</param>
public sealed record BasketRequest(ImmutableArray<LineRequest> Lines, string? Destination, DateTimeOffset? At = null)
{
    /// <summary>So many lines are taken over HTTP.</summary>
    public const int MostLines = 1000;

    /// <summary>So many lines a basket of the shop holds.</summary>
    public const int MostLinesInShop = 200;

    private const int MostCoupons = 20;

    /// <summary>Moments that can be asked about, so that days can be counted from them either way.</summary>
    private static readonly DateTimeOffset Earliest = new(2000, 1, 1, 0, 0, 0, TimeSpan.Zero);

    private static readonly DateTimeOffset Latest = new(2200, 1, 1, 0, 0, 0, TimeSpan.Zero);

    /// <summary>The coupons that are named, as typed.</summary>
    public ImmutableArray<string> Coupons { get; init; } = [];

    /// <summary>Groups that the buyer is in by their account.</summary>
    public ImmutableArray<Key> Groups { get; init; } = [];

    /// <summary>The key or the code of a customer group; null for none.</summary>
    public string? CustomerGroup { get; init; }

    /// <summary>The key of the way of delivery; null for the first that takes the goods.</summary>
    public string? Service { get; init; }

    /// <summary>Whether delivery is left aside, so that goods are priced even where nothing takes them.</summary>
    public bool WithoutDelivery { get; init; }

    /// <summary>Reads the request from JSON with a fault for everything that is wrong.</summary>
    /// <param name="root">The body.</param>
    /// <param name="more">The names of members that the caller reads by itself.</param>
    public static (BasketRequest? Request, IReadOnlyList<Fault> Faults) Read(Node root, params string[] more)
    {
        var faults = new List<Fault>();
        root = root.Telling(faults);
        if (!root.IsObject("a basket"))
            return (null, faults);
        root.Only(["lines", "coupons", "customerGroup", "destination", "at", "service", .. more]);
        root.Require("lines");
        var items = root.Items("lines", MostLines).ToList();
        if (root.Has("lines") && items.Count == 0 && faults.Count == 0)
            root.At("lines").Fault("A basket has at least one line.");
        var lines = items.SelectMany(ReadLines).ToImmutableArray();
        if (lines.Length > MostLines)
            root.At("lines").Fault($"At most {MostLines:N0} lines are taken, pieces of groups included.");
        var request = new BasketRequest(lines, root.Text("destination", 20), ReadAt(root))
        {
            Coupons = ReadCoupons(root),
            Service = root.Text("service", 64),
            CustomerGroup = root.Text("customerGroup", 64),
        };
        return (faults.Count == 0 ? request : null, faults);
    }

    /// <summary>Reads <c>at</c>, a moment of RFC 3339 between the years 2000 and 2200; null where it is left out, or wrong, with a
    /// fault.</summary>
    public static DateTimeOffset? ReadAt(Node root)
    {
        if (!root.Has("at"))
            return null;
        if (
            DateTimeOffset.TryParse(root.At("at").AsText(), CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var at)
            && at >= Earliest
            && at < Latest
        )
            return at;
        root.At("at").Fault("A moment between 2000 and 2200 is needed, written 2027-03-05T12:00:00Z.");
        return null;
    }

    /// <summary>Reads <c>coupons</c>: texts, at most 20.</summary>
    public static ImmutableArray<string> ReadCoupons(Node root)
    {
        if (!root.Has("coupons"))
            return [];
        var coupons = ImmutableArray.CreateBuilder<string>();
        foreach (var item in root.Items("coupons", MostCoupons))
            if (item.AsText() is { Length: > 0 and <= 64 } code)
                coupons.Add(code);
            else
                item.Fault("A coupon is a text of 1 to 64 characters.");
        return coupons.ToImmutable();
    }

    /// <summary>A line; of a group its pieces, each bought through it, then what its own extras cost.</summary>
    private static IEnumerable<LineRequest> ReadLines(Node node)
    {
        var isGroup = node.Kind == JsonValueKind.Object && node.Has("pieces");
        if (Line(node, isGroup) is not { } line)
            yield break;
        if (!isGroup)
        {
            yield return line;
            yield break;
        }
        foreach (var piece in node.Items("pieces", MostLines))
            if (Line(piece, isGroup: false) is { } found)
                yield return found with
                {
                    Through = line.Product,
                };
        yield return line with
        {
            IsOfGroup = true,
        };
    }

    private static LineRequest? Line(Node node, bool isGroup)
    {
        if (!node.IsObject("a line"))
            return null;
        if (isGroup)
            node.Only("product", "answers", "pieces", "through");
        else
            node.Only("product", "sku", "answers", "quantity", "parts", "through");
        if (node.Has("product") == node.Has("sku"))
            node.Fault("A line names a product or a sku.");
        var answers = new JsonObject();
        if (node.Has("answers") && node.At("answers").IsObject("an object of answers"))
            foreach (var (name, value) in node.At("answers").Members())
                answers[name] = value.AsJson();
        var parts = node.Has("parts") && node.At("parts").IsObject("an object of slots and their parts") ? node.At("parts").AsJson() : null;
        var quantity = node.Has("quantity") ? node.Whole("quantity", 1, Selling.MostUnits) : 1;
        return new LineRequest(node.Text("product", 64), node.Text("sku", 64), answers, quantity ?? 1, node.Text("through", 64))
        {
            Parts = parts?.AsObject(),
            Pointer = node.Pointer,
        };
    }
}
