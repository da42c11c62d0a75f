namespace Unicus.Core.Orders;

using Unicus.Core.Money;

/// <summary>What of an order has not been given back.</summary>
/// <param name="Subtotal">Of the goods, reductions of the basket taken off.</param>
/// <param name="Delivery">What delivery cost.</param>
/// <param name="Tax">Contained in, or added to, goods and delivery.</param>
/// <param name="Total">What is still paid for it.</param>
public sealed record OrderStanding(Money Subtotal, Money Delivery, Money Tax, Money Total);

/// <summary>What goes back to the buyer: of goods that were dropped, and what then stands (trading.md, section 8).</summary>
/// <remarks>After r of u units were dropped round(a · r/u) of an amount a was given back in all, halves away from 0: so any order of
/// dropping gives back the same, and all of it at the end.</remarks>
public static class MoneyBack
{
    /// <summary>The part of an amount that goes with so many units of a leaf.</summary>
    /// <param name="leaf">The goods.</param>
    /// <param name="amount">What was allocated to it, or its tax.</param>
    /// <param name="units">0 to the leaf's units.</param>
    public static Money Share(OrderLeaf leaf, Money amount, int units) =>
        new(Math.Round(amount.Amount * units / leaf.Units, amount.Currency.MinorUnits, MidpointRounding.AwayFromZero), amount.Currency);

    /// <summary>What was given back of the goods of a leaf.</summary>
    public static Money Goods(OrderLeaf leaf) => Share(leaf, leaf.Allocated, leaf.Dropped);

    /// <summary>The tax of what was given back of a leaf.</summary>
    public static Money Tax(OrderLeaf leaf) => Share(leaf, leaf.Tax, leaf.Dropped);

    /// <summary>What the buyer got back for the units of a leaf that were dropped by themselves, with the tax that had been
    /// added.</summary>
    public static Money Alone(Order order, OrderLeaf leaf)
    {
        var goods = Share(leaf, leaf.Allocated, leaf.DroppedAlone);
        return order.TaxIncluded ? goods : goods + Share(leaf, leaf.Tax, leaf.DroppedAlone);
    }

    /// <summary>What the buyer got back in all: of a cancelled order everything, delivery too.</summary>
    public static Money Of(Order order) =>
        order.State == OrderState.Cancelled ? order.Total : order.Leaves.Select(l => Alone(order, l)).Sum(order.Currency);

    /// <summary>What stands of an order.</summary>
    public static OrderStanding Standing(Order order)
    {
        var nothing = Money.Zero(order.Currency);
        if (order.State == OrderState.Cancelled)
            return new OrderStanding(nothing, nothing, nothing, nothing);
        var goods = order.Lines.Select(l => l.Paid).Sum(order.Currency) - order.Leaves.Select(Goods).Sum(order.Currency);
        var tax = order.Tax - order.Leaves.Select(Tax).Sum(order.Currency);
        var total = goods + order.Delivery;
        return new OrderStanding(goods, order.Delivery, tax, order.TaxIncluded ? total : total + tax);
    }

    /// <summary>What lists show of an order: what stands, and of a cancelled one what it was.</summary>
    public static Money Listed(Order order) => order.State == OrderState.Cancelled ? order.Total : Standing(order).Total;

    /// <summary>What stands of the goods of a line: what was paid, less what was given back.</summary>
    public static Money Standing(OrderLine line) => line.Paid - line.Leaves.Select(Goods).Sum(line.Total.Currency);

    /// <summary>What stands of the goods of lines, of one order or of several.</summary>
    public static Money Standing(IEnumerable<OrderLine> lines, Currency currency) => lines.Select(Standing).Sum(currency);
}
