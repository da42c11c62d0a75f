namespace Unicus.Core.Documents.Baskets;

using System.Text.Json.Nodes;
using Unicus.Core.Money;
using Unicus.Core.Orders;

/// <summary>An order as the HTTP interface replies it.</summary>
public static class OrderDocument
{
    /// <summary>Writes an order with its lines and leaves.</summary>
    public static JsonObject Write(Order order)
    {
        var json = new JsonObject
        {
            ["number"] = order.Number,
            ["currency"] = order.Currency.Code,
            ["lines"] = new JsonArray([.. order.Lines.Select(l => (JsonNode)Line(l))]),
            ["reductions"] = new JsonArray([
                .. order.Reductions.Select(r => (JsonNode)BasketDocument.Reduction(r.Rule, r.Amount.ToString())),
            ]),
            ["coupons"] = BasketDocument.Coupons(order.Coupons),
            ["subtotal"] = order.Subtotal.ToString(),
            ["delivery"] = order.Delivery.ToString(),
            ["service"] = order.Service,
            ["tax"] = order.Tax.ToString(),
            ["total"] = order.Total.ToString(),
        };
        if (MoneyBack.Of(order) is { Amount: > 0 } back)
            json["refunded"] = back.ToString();
        var stands = MoneyBack.Standing(order);
        json["standing"] = new JsonObject
        {
            ["subtotal"] = stands.Subtotal.ToString(),
            ["delivery"] = stands.Delivery.ToString(),
            ["tax"] = stands.Tax.ToString(),
            ["total"] = stands.Total.ToString(),
        };
        return json;
    }

    /// <summary>The same with its state and the moment when it was placed, as orders are asked for.</summary>
    public static JsonObject Whole(Order order)
    {
        var json = Write(order);
        json["state"] = order.State.ToString().ToLowerInvariant();
        json["placedAt"] = order.PlacedAt.ToUniversalTime().ToString("yyyy-MM-dd'T'HH:mm:ss'Z'");
        return json;
    }

    private static JsonObject Line(OrderLine line)
    {
        var json = Plain(line);
        if (json["parts"]!.AsArray().Count == 0 && line.Leaves is [var own])
            Ended(json, own);
        if (line.Through != line.ProductCode)
            json["through"] = line.Through;
        return json;
    }

    private static JsonObject Plain(OrderLine line) =>
        new()
        {
            ["product"] = line.ProductCode,
            // What a group's own extras cost is bought by no SKU.
            ["sku"] = line.Sku.Length == 0 ? null : line.Sku,
            ["quantity"] = line.Quantity,
            ["unit"] = line.Unit.ToString(),
            ["total"] = line.Total.ToString(),
            ["reduction"] = line.Reduction.ToString(),
            ["tax"] = line.Tax.ToString(),
            ["working"] = BasketDocument.Working(line.Working),
            // A plain line without parts has none.
            ["parts"] = new JsonArray([
                .. line.Leaves.Where(l => !l.MadeUp && (line.Leaves.Length > 1 || !l.Path.IsOwn)).Select(l => (JsonNode)Part(l)),
            ]),
        };

    private static JsonObject Part(OrderLeaf leaf) =>
        Ended(
            new JsonObject
            {
                ["slot"] = leaf.Path.Text,
                ["sku"] = leaf.Sku,
                ["quantity"] = leaf.Units,
                ["allocated"] = leaf.Allocated.ToString(),
            },
            leaf
        );

    /// <summary>What of a leaf was sent, and cancelled by itself, where there is any.</summary>
    private static JsonObject Ended(JsonObject json, OrderLeaf leaf)
    {
        if (leaf.Sent > 0)
            json["sent"] = leaf.Sent;
        if (leaf.DroppedAlone > 0)
            json["cancelled"] = leaf.DroppedAlone;
        return json;
    }
}
