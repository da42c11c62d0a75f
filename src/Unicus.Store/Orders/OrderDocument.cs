using System.Text.Json.Nodes;

namespace Unicus.Store;

/// <summary>An order as the HTTP interface replies it, written from what was recorded of it.</summary>
public static class OrderDocument
{
    /// <summary>Writes an order with its lines and leaves.</summary>
    public static JsonObject Write(OrderRow order)
    {
        var currency = Currency.Of(order.Currency);
        string Amount(decimal amount) => new Money(amount, currency).ToString();
        var json = new JsonObject
        {
            ["number"] = order.Number,
            ["currency"] = order.Currency,
            ["lines"] = new JsonArray([.. order.Lines.OrderBy(l => l.Position).Select(l => (JsonNode)Line(l, Amount))]),
            ["reductions"] = new JsonArray([.. order.TakenOff().Select(r => (JsonNode)BasketDocument.Reduction(r.Rule, Amount(r.Amount)))]),
            ["coupons"] = BasketDocument.Coupons(order.CouponReplies()),
            ["subtotal"] = Amount(order.Subtotal),
            ["delivery"] = Amount(order.Delivery),
            ["service"] = order.Service,
            ["tax"] = Amount(order.Tax),
            ["total"] = Amount(order.Total),
        };
        if (order.Refunded > 0)
            json["refunded"] = Amount(order.Refunded);
        var stands = order.Standing;
        json["standing"] = new JsonObject
        {
            ["subtotal"] = Amount(stands.Subtotal),
            ["delivery"] = Amount(stands.Delivery),
            ["tax"] = Amount(stands.Tax),
            ["total"] = Amount(stands.Total),
        };
        return json;
    }

    private static JsonObject Line(OrderLineRow line, Func<decimal, string> amount)
    {
        var json = Plain(line, amount);
        if (json["parts"]!.AsArray().Count == 0 && line.Leaves is [var own])
            Ended(json, own);
        if (line.Through != line.ProductCode)
            json["through"] = line.Through;
        return json;
    }

    private static JsonObject Plain(OrderLineRow line, Func<decimal, string> amount) =>
        new()
        {
            ["product"] = line.ProductCode,
            // What a group's own extras cost is bought by no SKU.
            ["sku"] = line.Sku.Length == 0 ? null : line.Sku,
            ["quantity"] = line.Quantity,
            ["unit"] = amount(line.Unit),
            ["total"] = amount(line.Total),
            ["reduction"] = amount(line.Reduction),
            ["tax"] = amount(line.Tax),
            ["working"] = new JsonArray([
                .. line.Steps()
                    .Select(s =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["step"] = s.Step,
                                ["label"] = s.Label,
                                ["amount"] = amount(s.Amount),
                                ["per"] = s.PerLine ? "line" : "unit",
                                ["rule"] = s.Rule,
                            }
                    ),
            ]),
            // A plain line without parts has none.
            ["parts"] = new JsonArray([
                .. line
                    .Leaves.Where(l => !l.MadeUp && (line.Leaves.Count > 1 || l.Path.Length > 0))
                    .OrderBy(l => l.Position)
                    .Select(l =>
                        (JsonNode)Ended(
                            new JsonObject
                            {
                                ["slot"] = l.Path,
                                ["sku"] = l.Sku,
                                ["quantity"] = l.Units,
                                ["allocated"] = amount(l.Allocated),
                            },
                            l
                        )
                    ),
            ]),
        };

    /// <summary>What of a leaf was sent, and cancelled by itself, where there is any.</summary>
    private static JsonObject Ended(JsonObject json, OrderLeafRow leaf)
    {
        if (leaf.Sent > 0)
            json["sent"] = leaf.Sent;
        if (leaf.Dropped > 0)
            json["cancelled"] = leaf.Dropped;
        return json;
    }
}
