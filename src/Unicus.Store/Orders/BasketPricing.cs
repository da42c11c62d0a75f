using System.Collections.Immutable;
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
public sealed record BasketRequest(ImmutableArray<LineRequest> Lines, string? Destination)
{
    public const int MostLines = 200;
    public const int MostUnits = 1_000_000;

    /// <summary>Reads the request from JSON with a fault for everything that is wrong.</summary>
    public static (BasketRequest? Request, IReadOnlyList<Fault> Faults) Read(JsonElement json)
    {
        var faults = new List<Fault>();
        var root = new Node(json, "#", faults);
        if (!root.IsObject("a basket")) return (null, faults);
        root.Only("lines", "coupons", "customerGroup", "destination", "at", "buyer");
        root.Require("lines");
        var items = root.Items("lines").ToList();
        if (root.Has("lines") && items.Count is 0 or > MostLines) root.At("lines").Fault($"A basket has 1 to {MostLines} lines.");
        if (root.Items("coupons").Any()) root.At("coupons").Fault("No such coupon is on offer.");
        var lines = items.Select(Line).OfType<LineRequest>().ToImmutableArray();
        var request = new BasketRequest(lines, root.Text("destination", 20));
        return (faults.Count == 0 ? request : null, faults);
    }

    private static LineRequest? Line(Node node)
    {
        if (!node.IsObject("a line")) return null;
        node.Only("product", "sku", "answers", "quantity", "parts", "through");
        if (node.Has("product") == node.Has("sku")) node.Fault("A line names a product or a sku.");
        var answers = new JsonObject();
        if (node.Has("answers") && node.At("answers").IsObject("an object of answers"))
            foreach (var (name, value) in node.At("answers").Members()) answers[name] = value.AsJson();
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
public sealed record PricedLine(CompiledEdition Edition, MatrixVariant Variant, Configuration Answers, ImmutableArray<LinePart> Parts, LineRequest Request, PriceWorking Working, Money? Cost)
{
    public string Title => PriceCalculator.Title(Edition.Product.Name, Variant.Values, Edition.Matrix.Options);
    public string Through => Request.Through ?? Edition.Product.Code.Text;

    /// <summary>The answers to extras as people read them: “Roof: gabled”.</summary>
    public IEnumerable<(string Label, string Answer)> Extras => Edition.Product.Questions.Where(q => q.Role == OptionRole.Extra && Answers[q.Key] is not (null or Answer.None)).Select(q => (q.Label, AnswerText.ForPeople(q, Answers[q.Key]!)));
}

/// <summary>A priced basket: lines, tax, delivery, total.</summary>
public sealed record PricedBasket(ImmutableArray<PricedLine> Lines, BasketTotals Totals, Destination? Destination, Currency Currency, bool TaxIncluded)
{
    /// <summary>The reply of the HTTP interface.</summary>
    public JsonObject ToJson() => new()
    {
        ["currency"] = Currency.Code,
        ["lines"] = new JsonArray([.. Lines.Select((l, i) => (JsonNode)new JsonObject
        {
            ["product"] = l.Edition.Product.Code.Text,
            ["sku"] = l.Variant.Sku.Text,
            ["quantity"] = l.Request.Quantity,
            ["unit"] = l.Working.Unit.ToString(),
            ["total"] = l.Working.Total.ToString(),
            ["reduction"] = Money.Zero(Currency).ToString(),
            ["tax"] = Totals.LineTax[i].ToString(),
            ["working"] = WorkingJson(l.Working),
            ["parts"] = new JsonArray([.. l.Parts.Select(p => (JsonNode)new JsonObject
            {
                ["slot"] = p.Slot,
                ["sku"] = p.OnSale.Variant.Sku.Text,
                ["quantity"] = p.PerUnit * l.Request.Quantity,
                ["allocated"] = ((p.OnSale.Figures.Price ?? Money.Zero(Currency)) * (p.PerUnit * l.Request.Quantity)).ToString(),
            })]),
        })]),
        ["reductions"] = new JsonArray(),
        ["subtotal"] = Totals.Subtotal.ToString(),
        ["delivery"] = Totals.Delivery.ToString(),
        ["tax"] = Totals.Tax.ToString(),
        ["total"] = Totals.Total.ToString(),
    };

    public static JsonArray WorkingJson(PriceWorking working) => new([.. working.Steps.Select(s => (JsonNode)new JsonObject
    {
        ["step"] = s.Step.ToString().ToLowerInvariant(),
        ["label"] = s.Label,
        ["amount"] = s.Amount.ToString(),
        ["per"] = s.PerLine ? "line" : "unit",
        ["rule"] = s.Rule,
    })]);
}

/// <summary>Prices baskets from the latest editions, for the shop's pages, orders and the HTTP interface alike.</summary>
public sealed class BasketPricing(UnicusContext db, Catalogue catalogue, TimeProvider clock)
{
    /// <returns>The priced basket, or every fault with the pointer of its line.</returns>
    public async Task<Outcome<PricedBasket>> Run(BasketRequest request, ShopSettings shop)
    {
        var faults = new List<Fault>();
        var destination = shop.Terms.Find(request.Destination);
        if (request.Destination is not null && destination is null) faults.Add(new Fault("#/destination", $"Nothing is sent to {request.Destination}."));
        var lines = ImmutableArray.CreateBuilder<PricedLine>();
        var today = shop.DayAt(clock.GetUtcNow());
        for (var i = 0; i < request.Lines.Length; i++)
            if (await Price(request.Lines[i], $"#/lines/{i}", today, faults) is { } line) lines.Add(line);
        if (faults.Count > 0) return new Outcome<PricedBasket>(null, faults);
        var taxable = lines.Select(l => new TaxableLine(l.Working.Total, Money.Zero(shop.Currency), l.Edition.Matrix.Figures.Resolve(l.Variant.Variant.Own, l.Variant.Values, f => f.TaxClass).Figure)).ToList();
        return Outcome<PricedBasket>.Of(new PricedBasket(lines.ToImmutable(), Taxation.AddUp(taxable, shop.Terms, destination), destination, shop.Currency, shop.Terms.PricesIncludeTax));
    }

    private async Task<PricedLine?> Price(LineRequest request, string pointer, DateOnly today, List<Fault> faults)
    {
        PricedLine? No(string what, JsonObject? with = null)
        {
            faults.Add(new Fault(pointer, what) { With = with });
            return null;
        }
        var (edition, bySku, problem) = request.Sku is { } sku ? await BySku(sku) : (await catalogue.Latest(db, request.Product!), null, null);
        if (problem is not null) return No(problem);
        if (edition is null) return No($"There is no published product {request.Product}.");
        var before = faults.Count;
        var given = AnswerDocument.Read(new Node(JsonSerializer.SerializeToElement(request.Answers), $"{pointer}/answers", faults), edition.Product.Questions, today);
        if (faults.Count > before) return null;
        if (bySku is not null) given = bySku.Values.Pairs.Aggregate(given, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));

        var configurator = edition.Configurator;
        given = configurator.Filled(given, restNone: true, today);
        var reply = configurator.Answer(given);
        if (!reply.Valid && configurator.Conflict(given) is { } conflict)
            return No(conflict.Text, new JsonObject { ["conflict"] = ConflictJson(conflict.Conflict, conflict.Text) });
        var open = reply.Questions.Where(q => q.Shown && (q.Question.IsPicked ? q.Answer is null : q.Required && q.Answer is null or Answer.None)).Select(q => q.Question.Key.Text).ToList();
        if (!reply.Complete) return No($"Still open: {string.Join(", ", open)}.", new JsonObject { ["open"] = new JsonArray([.. open.Select(o => (JsonNode)o!)]) });
        if (configurator.PriceProblem(given) is { } beyond) return No(beyond);

        var variant = configurator.Decided(reply)!;
        var answers = configurator.Shown(given);
        var onSale = await catalogue.Parts(db, edition.Product);
        var parts = ImmutableArray.CreateBuilder<LinePart>();
        foreach (var (question, value) in edition.Product.Extras.SelectMany(q => AnswerText.Picked(q, answers[q.Key]).Where(v => v.Part is not null).Select(v => (q, v))))
        {
            if (onSale(value.Part!.Sku) is not { } part) return No($"{question.Label}: {value.Label} cannot be had: its part {value.Part.Sku} is not on sale.");
            parts.Add(new LinePart($"{question.Key}/{value.Key}", part, value.Part.Quantity));
        }
        PartFigures? Figures(string code) => onSale(code)?.Figures;
        var working = configurator.Working(answers, variant, request.Quantity, Figures);
        if (working is null) return No($"{variant.Sku} has no price.");
        return working.Total.Amount < 0 ? No("Its answers would bring the price below 0.") : new PricedLine(edition, variant, answers, parts.ToImmutable(), request, working, configurator.Cost(answers, variant, Figures));
    }

    public static JsonObject ConflictJson(RuleConflict conflict, string text) => new()
    {
        ["answers"] = new JsonArray([.. conflict.Answers.Select(a => (JsonNode)a.Text!)]),
        ["rules"] = new JsonArray([.. conflict.Rules.Select(r => (JsonNode)r.Text!)]),
        ["notMade"] = conflict.NotMade,
        ["text"] = text,
    };

    private async Task<(CompiledEdition?, MatrixVariant?, string?)> BySku(string code) =>
        await catalogue.OfSku(db, code) is { } found ? found.Variant.Variant.Retired ? (null, null, $"{code} is no longer offered.") : (found.Edition, found.Variant, null)
        : (null, null, await SkuLookup.Find(db, code) is null ? $"There is no SKU {code}." : $"{code} is not in a published edition.");
}
