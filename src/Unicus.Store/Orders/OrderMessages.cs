using System.Collections.Immutable;

namespace Unicus.Store;

/// <summary>What the outbox tells a buyer about an order; null where the order has no email address.</summary>
internal static class OrderMessages
{
    public static OutboxMessage? Placed(Order order, ShopSettings shop, DateTimeOffset at) =>
        ToBuyer(
            order,
            shop,
            at,
            "",
            $"Thank you. Total {Total(order)}.\n\n{string.Join('\n', order.Lines.Select(Line))}{TakenOff(order)}"
                + string.Concat(order.Notes.Select(n => $"\n\n{n}"))
        );

    public static OutboxMessage? Dispatched(Order order, ShopSettings shop, DateTimeOffset at) =>
        ToBuyer(order, shop, at, " is on its way", $"Your order {order.Number} left us today.\n\n{Goods(order)}");

    public static OutboxMessage? Cancelled(Order order, ShopSettings shop, DateTimeOffset at) =>
        ToBuyer(
            order,
            shop,
            at,
            " was cancelled",
            $"Your order {order.Number} was cancelled: {order.CancelReason}\n"
                + (order.Buyer.Payment is null ? "Nothing was charged." : $"{Total(order)} refunded (simulated).")
        );

    public static OutboxMessage? PartsSent(Order order, ImmutableArray<LeafUnits> parts, ShopSettings shop, DateTimeOffset at) =>
        ToBuyer(order, shop, at, ": a part is on its way", $"Of your order {order.Number} this left us today.\n\n{Parts(order, parts)}");

    public static OutboxMessage? PartsCancelled(
        Order order,
        ImmutableArray<LeafUnits> parts,
        string reason,
        Money refunded,
        ShopSettings shop,
        DateTimeOffset at
    ) =>
        ToBuyer(
            order,
            shop,
            at,
            ": a part was cancelled",
            $"Of your order {order.Number} this was cancelled: {reason}\n\n{Parts(order, parts)}\n\n"
                + (order.Buyer.Payment is null ? "Nothing was charged for it." : $"{Amount(refunded)} refunded (simulated).")
        );

    public static OutboxMessage? StandsAgain(Order order, ShopSettings shop, DateTimeOffset at) =>
        ToBuyer(
            order,
            shop,
            at,
            " stands again",
            $"The cancellation of your order {order.Number} was taken back; we send it as ordered.\n"
                + (order.Buyer.Payment is null ? "" : $"The refund of {Total(order)} was taken back too (simulated).")
        );

    /// <summary>The goods of a line, its answers and what of it follows later.</summary>
    private static string Line(OrderLine line)
    {
        var beneath = line.Extras.Select(e => $"{e.Option}: {e.Value}").Concat(line.BeyondWords is { Length: > 0 } later ? [later] : []);
        return string.Join("\n    ", beneath.Prepend($"{line.Quantity} × {line.Title}"));
    }

    /// <summary>What reductions of the basket took off, by their names.</summary>
    private static string TakenOff(Order order) => string.Concat(order.Reductions.Select(r => $"\n{r.Name}: {Amount(r.Amount)}"));

    private static string Goods(Order order) => string.Join('\n', order.Lines.Select(l => $"{l.Quantity} × {l.Title}"));

    private static string Parts(Order order, ImmutableArray<LeafUnits> parts) =>
        string.Join('\n', parts.Where(p => !order[p.Of].MadeUp).Select(p => $"{p.Units:N0} × {order[p.Of].Name}"));

    private static string Total(Order order) => Amount(order.Total);

    private static string Amount(Money amount) => $"{amount.ForPeople()} {amount.Currency.Code}";

    private static OutboxMessage? ToBuyer(Order order, ShopSettings shop, DateTimeOffset at, string how, string body) =>
        order.Buyer.Email.Length == 0
            ? null
            : new OutboxMessage
            {
                At = at,
                To = order.Buyer.Email,
                Subject = $"{shop.Name}: your order {order.Number}{how}",
                Body = body,
            };
}
