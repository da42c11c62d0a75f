using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>A line as asked for: a product with answers, or a SKU.</summary>
/// <param name="Answers">As <see cref="AnswerDocument"/> has them.</param>
public sealed record LineRequest(string? Product, string? Sku, JsonObject Answers, int Quantity, string? Through)
{
    public bool IsSame(LineRequest other) => Product == other.Product && Sku == other.Sku && JsonNode.DeepEquals(Answers, other.Answers);
}

/// <summary>A basket as asked for.</summary>
/// <param name="At">The moment that it is priced for; null is now.</param>
public sealed record BasketRequest(ImmutableArray<LineRequest> Lines, string? Destination, DateTimeOffset? At = null)
{
    /// <summary>So many lines are taken over HTTP.</summary>
    public const int MostLines = 1000;

    /// <summary>So many lines a basket of the shop holds.</summary>
    public const int MostLinesInShop = 200;

    public const int MostUnits = 1_000_000;

    /// <summary>Moments that can be asked about, so that days can be counted from them either way.</summary>
    private static readonly DateTimeOffset Earliest = new(2000, 1, 1, 0, 0, 0, TimeSpan.Zero);

    private static readonly DateTimeOffset Latest = new(2200, 1, 1, 0, 0, 0, TimeSpan.Zero);

    /// <summary>Reads the request from JSON with a fault for everything that is wrong.</summary>
    public static (BasketRequest? Request, IReadOnlyList<Fault> Faults) Read(Node root, params string[] more)
    {
        var faults = new List<Fault>();
        root = root.Telling(faults);
        if (!root.IsObject("a basket"))
            return (null, faults);
        root.Only(["lines", "coupons", "customerGroup", "destination", "at", .. more]);
        root.Require("lines");
        var items = root.Items("lines", MostLines).ToList();
        if (root.Has("lines") && items.Count == 0 && faults.Count == 0)
            root.At("lines").Fault("A basket has at least one line.");
        if (root.Items("coupons").Any())
            root.At("coupons").Fault("No such coupon is on offer.");
        var lines = items.Select(Line).OfType<LineRequest>().ToImmutableArray();
        var request = new BasketRequest(lines, root.Text("destination", 20), ReadAt(root));
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

    private static LineRequest? Line(Node node)
    {
        if (!node.IsObject("a line"))
            return null;
        node.Only("product", "sku", "answers", "quantity", "parts", "through");
        if (node.Has("product") == node.Has("sku"))
            node.Fault("A line names a product or a sku.");
        var answers = new JsonObject();
        if (node.Has("answers") && node.At("answers").IsObject("an object of answers"))
            foreach (var (name, value) in node.At("answers").Members())
                answers[name] = value.AsJson();
        var quantity = node.Has("quantity") ? node.Whole("quantity", 1, MostUnits) : 1;
        return new LineRequest(node.Text("product", 64), node.Text("sku", 64), answers, quantity ?? 1, node.Text("through", 64));
    }
}

/// <summary>A part that a line takes besides its variant.</summary>
/// <param name="Slot">Where it comes from: question and value.</param>
/// <param name="PerUnit">Units for each unit of the line.</param>
public sealed record LinePart(string Slot, PartOnSale OnSale, int PerUnit);

/// <summary>A line with its product found, its answers complete and its price made.</summary>
/// <param name="Answers">Those that count: of questions that are shown.</param>
public sealed record PricedLine(
    CompiledEdition Edition,
    MatrixVariant Variant,
    Configuration Answers,
    ImmutableArray<LinePart> Parts,
    LineRequest Request,
    PriceWorking Working,
    Money? Cost
)
{
    public string Title => PriceCalculator.Title(Edition.Product.Name, Variant.Values, Edition.Matrix.Options);
    public string Through => Request.Through ?? Edition.Product.Code.Text;

    /// <summary>The answers to extras as people read them: “Roof: gabled”.</summary>
    public IEnumerable<(string Label, string Answer)> Extras =>
        Edition
            .Product.Questions.Where(q => q.Role == OptionRole.Extra && Answers[q.Key] is not (null or Answer.None))
            .Select(q => (q.Label, AnswerText.ForPeople(q, Answers[q.Key]!)));
}

/// <summary>A priced basket: lines, tax, delivery, total.</summary>
public sealed record PricedBasket(
    ImmutableArray<PricedLine> Lines,
    BasketTotals Totals,
    Destination? Destination,
    Currency Currency,
    bool TaxIncluded
)
{
    /// <summary>The reply of the HTTP interface.</summary>
    public JsonObject ToJson() =>
        new()
        {
            ["currency"] = Currency.Code,
            ["lines"] = new JsonArray([
                .. Lines.Select(
                    (l, i) =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["product"] = l.Edition.Product.Code.Text,
                                ["sku"] = l.Variant.Sku.Text,
                                ["quantity"] = l.Request.Quantity,
                                ["unit"] = l.Working.Unit.ToString(),
                                ["total"] = l.Working.Total.ToString(),
                                ["reduction"] = Money.Zero(Currency).ToString(),
                                ["tax"] = Totals.LineTax[i].ToString(),
                                ["working"] = WorkingJson(l.Working),
                                ["parts"] = new JsonArray([
                                    .. l.Parts.Select(p =>
                                        (JsonNode)
                                            new JsonObject
                                            {
                                                ["slot"] = p.Slot,
                                                ["sku"] = p.OnSale.Variant.Sku.Text,
                                                ["quantity"] = p.PerUnit * l.Request.Quantity,
                                                ["allocated"] = (
                                                    (p.OnSale.Figures.Price ?? Money.Zero(Currency)) * (p.PerUnit * l.Request.Quantity)
                                                ).ToString(),
                                            }
                                    ),
                                ]),
                            }
                ),
            ]),
            ["reductions"] = new JsonArray(),
            ["subtotal"] = Totals.Subtotal.ToString(),
            ["delivery"] = Totals.Delivery.ToString(),
            ["tax"] = Totals.Tax.ToString(),
            ["total"] = Totals.Total.ToString(),
        };

    public static JsonArray WorkingJson(PriceWorking working) =>
        new([
            .. working.Steps.Select(s =>
                (JsonNode)
                    new JsonObject
                    {
                        ["step"] = s.Step.ToString().ToLowerInvariant(),
                        ["label"] = s.Label,
                        ["amount"] = s.Amount.ToString(),
                        ["per"] = s.PerLine ? "line" : "unit",
                        ["rule"] = s.Rule,
                    }
            ),
        ]);
}

/// <summary>Prices baskets from the latest editions, for the shop's pages, orders and the HTTP interface alike.</summary>
public sealed class BasketPricing(UnicusContext db, Catalogue catalogue, TimeProvider clock)
{
    /// <returns>The priced basket, or every fault with the pointer of its line.</returns>
    public async Task<Outcome<PricedBasket>> Run(BasketRequest request, ShopSettings shop)
    {
        var faults = new List<Fault>();
        var destination = shop.Terms.Find(request.Destination);
        if (request.Destination is not null && destination is null)
            faults.Add(new Fault("#/destination", $"Nothing is sent to {request.Destination}."));
        var lines = ImmutableArray.CreateBuilder<PricedLine>();
        var today = shop.DayAt(request.At ?? clock.GetUtcNow());
        var found = new FoundOnce(db, catalogue);
        for (var i = 0; i < request.Lines.Length; i++)
            if (await Price(request.Lines[i], $"#/lines/{i}", today, found, faults) is { } line)
                lines.Add(line);
        if (faults.Count > 0)
            return new Outcome<PricedBasket>(null, faults);
        var taxable = lines.Select(l => new TaxableLine(l.Working.Total, Money.Zero(shop.Currency), TaxClassOf(l))).ToList();
        var totals = Taxation.AddUp(taxable, shop.Terms, destination);
        return Outcome<PricedBasket>.Of(
            new PricedBasket(lines.ToImmutable(), totals, destination, shop.Currency, shop.Terms.PricesIncludeTax)
        );
    }

    /// <summary>What the lines of one basket ask the catalogue for, each asked once however many lines there are.</summary>
    private sealed class FoundOnce(UnicusContext db, Catalogue catalogue)
    {
        private readonly Dictionary<string, CompiledEdition?> _editions = [];
        private readonly Dictionary<string, (PartOnSale? OnSale, bool Exists)> _skus = [];
        private readonly Dictionary<int, Func<string, PartOnSale?>> _parts = [];

        public async Task<CompiledEdition?> Latest(string code) =>
            _editions.TryGetValue(code, out var kept) ? kept : _editions[code] = await catalogue.Latest(db, code);

        /// <summary>The variant on sale with this SKU, and whether there is such a SKU at all.</summary>
        public async Task<(PartOnSale? OnSale, bool Exists)> OfSku(string code)
        {
            if (_skus.TryGetValue(code, out var kept))
                return kept;
            var found = await catalogue.OfSku(db, code, withRetired: true);
            return _skus[code] = (found, found is not null || await SkuLookup.Find(db, code) is not null);
        }

        public async Task<Func<string, PartOnSale?>> Parts(CompiledEdition edition) =>
            _parts.TryGetValue(edition.ProductId, out var kept)
                ? kept
                : _parts[edition.ProductId] = await catalogue.Parts(db, edition.Product);
    }

    private static string? TaxClassOf(PricedLine line) =>
        line.Edition.Matrix.Figures.Resolve(line.Variant.Variant.Own, line.Variant.Values, f => f.TaxClass).Figure;

    private static async Task<PricedLine?> Price(LineRequest request, string pointer, DateOnly today, FoundOnce found, List<Fault> faults)
    {
        PricedLine? No(string what, JsonObject? with = null)
        {
            if (faults.Count < Node.MostFaults)
                faults.Add(new Fault(pointer, what) { With = with });
            return null;
        }
        CompiledEdition? edition;
        MatrixVariant? bySku = null;
        if (request.Sku is { } sku)
        {
            var (onSale, exists) = await found.OfSku(sku);
            if (onSale is null)
                return No(exists ? $"{sku} is not in a published edition." : $"There is no SKU {sku}.");
            if (onSale.Variant.Variant.Retired)
                return No($"{sku} is no longer offered.");
            (edition, bySku) = (onSale.Edition, onSale.Variant);
        }
        else
            edition = await found.Latest(request.Product!);
        if (edition is null)
            return No($"There is no published product {request.Product}.");
        var before = faults.Count;
        var answersNode = new Node(JsonSerializer.SerializeToElement(request.Answers), $"{pointer}/answers", faults);
        var given = AnswerDocument.Read(answersNode, edition.Product.Questions, today);
        if (faults.Count > before)
            return null;
        if (bySku is not null)
            given = bySku.Values.Pairs.Aggregate(given, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));

        var configurator = edition.Configurator;
        given = configurator.Filled(given, restNone: true, today);
        var reply = configurator.Answer(given);
        if (!reply.Valid && configurator.Conflict(given) is { } conflict)
            return No(conflict.Text, new JsonObject { ["conflict"] = ConflictJson(conflict.Conflict, conflict.Text) });
        if (!reply.Complete)
        {
            var open = reply.Questions.Where(IsOpen).Select(q => q.Question.Key.Text).ToList();
            return No(
                $"Still open: {string.Join(", ", open)}.",
                new JsonObject { ["open"] = new JsonArray([.. open.Select(o => (JsonNode)o!)]) }
            );
        }
        if (configurator.PriceProblem(given) is { } beyond)
            return No(beyond);

        var variant = configurator.Decided(reply)!;
        var answers = configurator.Shown(given);
        var parts = Parts(edition, answers, request.Quantity, await found.Parts(edition));
        if (!parts.Ok)
            return No(parts.Problem!);
        var partsOnSale = await found.Parts(edition);
        PartFigures? Figures(string code) => partsOnSale(code)?.Figures;
        var working = configurator.Working(answers, variant, request.Quantity, Figures);
        if (working is null)
            return No($"{variant.Sku} has no price.");
        if (working.Total.Amount < 0)
            return No("Its answers would bring the price below 0.");
        return new PricedLine(edition, variant, answers, parts.Value, request, working, configurator.Cost(answers, variant, Figures));
    }

    private static bool IsOpen(QuestionReply q) =>
        q.Shown && (q.Question.IsPicked ? q.Answer is null : q.Required && q.Answer is null or Answer.None);

    /// <summary>The parts that the answers bring; the problem where one is not on sale, or more are needed than can ever move.</summary>
    private static Read<ImmutableArray<LinePart>> Parts(
        CompiledEdition edition,
        Configuration answers,
        int quantity,
        Func<string, PartOnSale?> onSale
    )
    {
        var parts = ImmutableArray.CreateBuilder<LinePart>();
        foreach (var question in edition.Product.Extras)
        foreach (var value in AnswerText.Picked(question, answers[question.Key]))
        {
            if (value.Part is not { } wanted)
                continue;
            if (onSale(wanted.Sku) is not { } part)
                return Read<ImmutableArray<LinePart>>.No(
                    $"{question.Label}: {value.Label} cannot be had: its part {wanted.Sku} is not on sale."
                );
            if ((long)wanted.Quantity * quantity > Movements.MostUnits)
                return Read<ImmutableArray<LinePart>>.No(
                    $"{question.Label}: {value.Label} would need more than {Movements.MostUnits:N0} of {wanted.Sku}."
                );
            parts.Add(new LinePart($"{question.Key}/{value.Key}", part, wanted.Quantity));
        }
        return Read<ImmutableArray<LinePart>>.Of(parts.ToImmutable());
    }

    public static JsonObject ConflictJson(RuleConflict conflict, string text) =>
        new()
        {
            ["answers"] = new JsonArray([.. conflict.Answers.Select(a => (JsonNode)a.Text!)]),
            ["rules"] = new JsonArray([.. conflict.Rules.Select(r => (JsonNode)r.Text!)]),
            ["notMade"] = conflict.NotMade,
            ["text"] = text,
        };
}
