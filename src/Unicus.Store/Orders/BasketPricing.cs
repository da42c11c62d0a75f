using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>A line as asked for: a product with answers, or a SKU.</summary>
public sealed record LineRequest(string? Product, string? Sku, ImmutableSortedDictionary<string, string?> Answers, int Quantity, string? Through);

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
        var answers = ImmutableSortedDictionary.CreateBuilder<string, string?>();
        foreach (var (name, value) in node.At("answers").Members())
        {
            if (value.Exists && value.AsText() is null) value.Fault("The key of a value is needed.");
            answers[name] = value.AsText();
        }
        var quantity = node.Has("quantity") ? node.Whole("quantity", 1, MostUnits) : 1;
        return new LineRequest(node.Text("product", 64), node.Text("sku", 64), answers.ToImmutable(), quantity ?? 1, node.Text("through", 64));
    }
}

/// <summary>A line with its product found, its answers complete and its price made.</summary>
public sealed record PricedLine(CompiledEdition Edition, MatrixVariant Variant, LineRequest Request, PriceWorking Working, Money? Cost)
{
    public string Title => PriceCalculator.Title(Edition.Product.Name, Variant.Values, Edition.Matrix.Options);
    public string Through => Request.Through ?? Edition.Product.Code.Text;
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
            ["parts"] = new JsonArray(),
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
public sealed class BasketPricing(UnicusContext db, Catalogue catalogue)
{
    /// <returns>The priced basket, or every fault with the pointer of its line.</returns>
    public async Task<Outcome<PricedBasket>> Run(BasketRequest request, ShopSettings shop)
    {
        var faults = new List<Fault>();
        var destination = shop.Terms.Find(request.Destination);
        if (request.Destination is not null && destination is null) faults.Add(new Fault("#/destination", $"Nothing is sent to {request.Destination}."));
        var lines = ImmutableArray.CreateBuilder<PricedLine>();
        for (var i = 0; i < request.Lines.Length; i++)
        {
            var line = await Price(request.Lines[i]);
            if (line.Problem is { } problem) faults.Add(new Fault($"#/lines/{i}", problem));
            else lines.Add(line.Value!);
        }
        if (faults.Count > 0) return new Outcome<PricedBasket>(null, faults);
        var taxable = lines.Select(l => new TaxableLine(l.Working.Total, Money.Zero(shop.Currency), l.Edition.Matrix.Figures.Resolve(l.Variant.Variant.Own, l.Variant.Values, f => f.TaxClass).Figure)).ToList();
        return Outcome<PricedBasket>.Of(new PricedBasket(lines.ToImmutable(), Taxation.AddUp(taxable, shop.Terms, destination), destination, shop.Currency, shop.Terms.PricesIncludeTax));
    }

    private async Task<Read<PricedLine>> Price(LineRequest request)
    {
        var (edition, found, problem) = request.Sku is { } sku ? await BySku(sku) : await ByAnswers(request);
        if (problem is not null) return Read<PricedLine>.No(problem);
        var working = PriceCalculator.Price(edition!.Product.Name, edition.Matrix, found!, request.Quantity);
        return working is null ? Read<PricedLine>.No($"{found!.Sku} has no price.") : Read<PricedLine>.Of(new PricedLine(edition, found!, request, working, found!.Cost.Figure));
    }

    private async Task<(CompiledEdition?, MatrixVariant?, string?)> BySku(string code)
    {
        var row = await SkuLookup.Find(db, code);
        var product = row is null ? null : await db.Products.Where(p => p.Id == row.ProductId).Select(p => p.Code).FirstOrDefaultAsync();
        if (product is null) return (null, null, $"There is no SKU {code}.");
        var edition = await catalogue.Latest(db, product);
        if (edition is null) return (null, null, $"{product} was never published.");
        var names = await db.SkuAliases.Where(a => a.SkuId == row!.Id).Select(a => a.Code).ToListAsync();
        var variant = names.Prepend(row!.Code).Select(n => edition.Matrix.Find(Sku.Of(n))).FirstOrDefault(v => v is { Variant.Retired: false });
        return variant is null ? (null, null, $"{code} is not in the published edition of {product}.") : (edition, variant, null);
    }

    /// <summary>An absent question takes its default if that is possible, or the one value left.</summary>
    private async Task<(CompiledEdition?, MatrixVariant?, string?)> ByAnswers(LineRequest request)
    {
        var edition = await catalogue.Latest(db, request.Product!);
        if (edition is null) return (null, null, $"There is no published product {request.Product}.");
        var (answers, problem) = AnswerReader.Read(edition.Matrix.Options, request.Answers);
        if (problem is not null) return (null, null, problem);
        answers = AnswerReader.Filled(edition.Matrix.Configurator, answers!);
        var state = edition.Matrix.Configurator.Answer(answers);
        if (!state.Valid) return (null, null, $"These answers cannot stand together: {string.Join(", ", state.Conflict!.Answers)}.");
        if (!state.Complete) return (null, null, $"Still open: {string.Join(", ", state.Questions.Where(q => q.Answer is null).Select(q => q.Option.Key))}.");
        return (edition, edition.Matrix.At(state.Agreeing[0]), null);
    }
}

/// <summary>Turns keys as sent into answers.</summary>
public static class AnswerReader
{
    public static (Answers? Answers, string? Problem) Read(IReadOnlyList<Option> options, IEnumerable<KeyValuePair<string, string?>> sent)
    {
        var answers = Answers.None;
        foreach (var (name, value) in sent)
        {
            var option = options.FirstOrDefault(o => o.Key.Text == name);
            if (option is null) return (null, $"There is no option {name}.");
            if (value is null) return (null, $"{name} splits variants and needs an answer.");
            if (!Key.TryParse(value, out var key) || option.Find(key) is null) return (null, $"{name} has no value {value}.");
            answers = answers.With(option.Key, key);
        }
        return (answers, null);
    }

    /// <summary>Fills open questions: the default if still possible, else the only value left.</summary>
    public static Answers Filled(Configurator configurator, Answers answers)
    {
        foreach (var option in configurator.Options)
        {
            if (answers.Given.ContainsKey(option.Key)) continue;
            var question = configurator.Answer(answers).Questions.First(q => q.Option.Key == option.Key);
            if (option.Default is { } wanted && question.Possible[option.PlaceOf(wanted)]) answers = answers.With(option.Key, wanted);
            else if (question.Alone is { } only) answers = answers.With(option.Key, only);
        }
        return answers;
    }
}
