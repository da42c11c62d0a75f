
namespace Unicus.Store;

/// <summary>What the outbox tells a buyer about an order; null where the order has no email address.</summary>
internal static class OrderMessages
{
    public static OutboxMessage? Placed(OrderRow order, ShopSettings shop, DateTimeOffset at) =>
        ToBuyer(
            order,
            shop,
            at,
            "",
            $"Thank you. Total {Total(order)}.\n\n{string.Join('\n', order.Lines.OrderBy(l => l.Position).Select(Line))}{TakenOff(order)}"
                + string.Concat(order.Notes.Select(n => $"\n\n{n}"))
        );

    public static OutboxMessage? Dispatched(OrderRow order, ShopSettings shop, DateTimeOffset at) =>
        ToBuyer(order, shop, at, " is on its way", $"Your order {order.Number} left us today.\n\n{Goods(order)}");

    public static OutboxMessage? Cancelled(OrderRow order, ShopSettings shop, DateTimeOffset at) =>
        ToBuyer(
            order,
            shop,
            at,
            " was cancelled",
            $"Your order {order.Number} was cancelled: "
                + $"{order.CancelReason}\n{(order.Payment is null ? "Nothing was charged." : $"{Total(order)} refunded (simulated).")}"
        );

    public static OutboxMessage? PartsSent(
        OrderRow order,
        IReadOnlyList<(OrderLeafRow Leaf, int Units)> parts,
        ShopSettings shop,
        DateTimeOffset at
    ) => ToBuyer(order, shop, at, ": a part is on its way", $"Of your order {order.Number} this left us today.\n\n{Parts(parts)}");

    public static OutboxMessage? PartsCancelled(
        OrderRow order,
        IReadOnlyList<(OrderLeafRow Leaf, int Units)> parts,
        string reason,
        decimal refunded,
        ShopSettings shop,
        DateTimeOffset at
    ) =>
        ToBuyer(
            order,
            shop,
            at,
            ": a part was cancelled",
            $"Of your order {order.Number} this was cancelled: {reason}\n\n{Parts(parts)}\n\n"
                + (order.Payment is null ? "Nothing was charged for it." : $"{Amount(refunded, order)} refunded (simulated).")
        );

    public static OutboxMessage? StandsAgain(OrderRow order, ShopSettings shop, DateTimeOffset at) =>
        ToBuyer(
            order,
            shop,
            at,
            " stands again",
            $"The cancellation of your order {order.Number} was taken back; we send it as ordered.\n"
                + (order.Payment is null ? "" : $"The refund of {Total(order)} was taken back too (simulated).")
        );

    /// <summary>The goods of a line, its answers and what of it follows later.</summary>
    private static string Line(OrderLineRow line)
    {
        var beneath = line.Extras()
            .Select(e => $"{e.Option}: {e.Value}")
            .Concat(line.BeyondWords() is { Length: > 0 } later ? [later] : []);
        return string.Join("\n    ", beneath.Prepend($"{line.Quantity} × {line.Title}"));
    }

    /// <summary>What reductions of the basket took off, by their names.</summary>
    private static string TakenOff(OrderRow order) =>
        string.Concat(
            order.TakenOff().Select(r => $"\n{r.Name}: {new Money(r.Amount, Currency.Of(order.Currency)).ForPeople()} {order.Currency}")
        );

    private static string Goods(OrderRow order) =>
        string.Join('\n', order.Lines.OrderBy(l => l.Position).Select(l => $"{l.Quantity} × {l.Title}"));

    private static string Parts(IReadOnlyList<(OrderLeafRow Leaf, int Units)> parts) =>
        string.Join('\n', parts.Where(p => !p.Leaf.MadeUp).Select(p => $"{p.Units:N0} × {p.Leaf.Name}"));

    private static string Total(OrderRow order) => Amount(order.Total, order);

    private static string Amount(decimal amount, OrderRow order) =>
        $"{new Money(amount, Currency.Of(order.Currency)).ForPeople()} {order.Currency}";

    private static OutboxMessage? ToBuyer(OrderRow order, ShopSettings shop, DateTimeOffset at, string how, string body) =>
        order.Email.Length == 0
            ? null
            : new OutboxMessage
            {
                At = at,
                To = order.Email,
                Subject = $"{shop.Name}: your order {order.Number}{how}",
                Body = body,
            };
}
