namespace Unicus.Core.Documents.Baskets;

using System.Text.Json.Nodes;
using Unicus.Core.Assembling;
using Unicus.Core.Baskets;
using Unicus.Core.Pricing;

/// <summary>A priced basket as the HTTP interface replies it.</summary>
public static class BasketDocument
{
    /// <summary>Writes the reply.</summary>
    public static JsonObject Write(PricedBasket basket) =>
        new()
        {
            ["currency"] = basket.Currency.Code,
            ["lines"] = new JsonArray([.. basket.Lines.Select(l => (JsonNode)Line(l))]),
            ["reductions"] = new JsonArray([.. basket.Reductions.Select(r => (JsonNode)Reduction(r.Rule.Id, r.Amount.ToString()))]),
            ["coupons"] = Coupons(basket.Coupons),
            ["subtotal"] = basket.Subtotal.ToString(),
            ["delivery"] = basket.Delivery.ToString(),
            ["service"] = basket.Service?.Key.Text,
            ["tax"] = basket.Tax.ToString(),
            ["total"] = basket.Total.ToString(),
        };

    /// <summary>What a rule took off the basket.</summary>
    public static JsonObject Reduction(string rule, string amount) => new() { ["rule"] = rule, ["amount"] = amount };

    /// <summary>What became of coupons.</summary>
    public static JsonArray Coupons(IEnumerable<CouponReply> replies) =>
        new([
            .. replies.Select(c =>
                (JsonNode)
                    new JsonObject
                    {
                        ["code"] = c.Code,
                        ["acts"] = c.Acts,
                        ["text"] = c.Text,
                    }
            ),
        ]);

    /// <summary>The steps of a working.</summary>
    public static JsonArray Working(PriceWorking working) =>
        new([
            .. working.Steps.Select(s =>
                (JsonNode)
                    new JsonObject
                    {
                        ["step"] = Step(s.Step),
                        ["label"] = s.Label,
                        ["amount"] = s.Amount.ToString(),
                        ["per"] = s.PerLine ? "line" : "unit",
                        ["rule"] = s.Rule,
                    }
            ),
        ]);

    /// <summary>What a step is called in documents.</summary>
    public static string Step(PriceStep step) =>
        step switch
        {
            PriceStep.List => "list",
            PriceStep.Answer => "answer",
            PriceStep.Unit => "unit",
            PriceStep.Quantity => "quantity",
            PriceStep.CheapestOff => "cheapest-off",
            PriceStep.Floor => "floor",
            PriceStep.Basket => "basket",
            _ => throw new ArgumentOutOfRangeException(nameof(step)),
        };

    /// <summary>The step that documents call so.</summary>
    public static PriceStep StepNamed(string name) => Enum.GetValues<PriceStep>().First(s => Step(s) == name);

    private static JsonObject Line(PricedLine line)
    {
        var json = Plain(line);
        if (line.Line.Through is { } page && page != line.Line.Goods.Edition.Product.Code.Text)
            json["through"] = page;
        return json;
    }

    private static JsonObject Plain(PricedLine line) =>
        new()
        {
            ["product"] = line.Line.Goods.Edition.Product.Code.Text,
            // What a group's own extras cost is bought by no SKU.
            ["sku"] = line.Line.IsOfGroup ? null : line.Line.Goods.Variant.Sku.Text,
            ["quantity"] = line.Line.Quantity,
            ["unit"] = line.Unit.ToString(),
            ["total"] = line.Total.ToString(),
            ["reduction"] = line.Reduction.ToString(),
            ["tax"] = line.Tax.ToString(),
            ["working"] = Working(line.Working),
            // A plain line without parts has none.
            ["parts"] = new JsonArray([
                .. line.Leaves.Where(_ => line.Leaves.Length > 1 || line.Line.Assembled is not null).Select(l => (JsonNode)Part(l)),
            ]),
        };

    private static JsonObject Part(Leaf leaf) =>
        new()
        {
            ["slot"] = leaf.Path.Text,
            ["sku"] = leaf.Goods.Variant.Sku.Text,
            ["quantity"] = leaf.Units,
            ["allocated"] = leaf.Allocated.ToString(),
        };
}
