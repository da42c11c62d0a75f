namespace Unicus.Core.Orders;

using System.Collections.Immutable;
using Unicus.Core.Baskets;
using Unicus.Core.Money;

/// <summary>What has become of an order.</summary>
public enum OrderState
{
    /// <summary>Something of it is still to be sent.</summary>
    Placed,

    /// <summary>Nothing is open any more, and some of it was sent.</summary>
    Dispatched,

    /// <summary>All of it was cancelled before it was sent.</summary>
    Cancelled,
}

/// <summary>An order: what was bought, as it was then, and what its events have made of it.</summary>
public sealed record Order
{
    /// <summary>As people call it.</summary>
    public required int Number { get; init; }

    /// <summary>The unguessable piece of the shopper's address of this order.</summary>
    public required string Token { get; init; }

    /// <summary>When it was placed.</summary>
    public required DateTimeOffset PlacedAt { get; init; }

    /// <summary>Who bought.</summary>
    public required OrderBuyer Buyer { get; init; }

    /// <summary>The country that it goes to; null for nowhere.</summary>
    public string? Destination { get; init; }

    /// <summary>The key of the way of delivery; null where nothing was sent.</summary>
    public string? Service { get; init; }

    /// <summary>The key of the customer group that it was priced for; null for none.</summary>
    public string? CustomerGroup { get; init; }

    /// <summary>Σ line totals.</summary>
    public required Money Subtotal { get; init; }

    /// <summary>The charge of delivery, in the shop's price mode.</summary>
    public required Money Delivery { get; init; }

    /// <summary>Of goods and delivery.</summary>
    public required Money Tax { get; init; }

    /// <summary>What was paid.</summary>
    public required Money Total { get; init; }

    /// <summary>Whether prices contained tax; else it was added.</summary>
    public required bool TaxIncluded { get; init; }

    /// <summary>What reductions of the basket took off.</summary>
    public ImmutableArray<OrderedReduction> Reductions { get; init; } = [];

    /// <summary>What became of the coupons that were named.</summary>
    public ImmutableArray<CouponReply> Coupons { get; init; } = [];

    /// <summary>In their order; each stands at its position.</summary>
    public required ImmutableArray<OrderLine> Lines { get; init; }

    /// <summary>What its events have made of it.</summary>
    public OrderState State { get; internal init; }

    /// <summary>When nothing of it was open any more; null while something is.</summary>
    public DateTimeOffset? EndedAt { get; internal init; }

    /// <summary>Why it was cancelled; null while it is not.</summary>
    public string? CancelReason { get; internal init; }

    /// <summary>The currency of all its amounts.</summary>
    public Currency Currency => Total.Currency;

    /// <summary>All that it takes of stock.</summary>
    public IEnumerable<OrderLeaf> Leaves => Lines.SelectMany(l => l.Leaves);

    /// <summary>Whether some of it was sent or cancelled before the rest.</summary>
    public bool IsBegun => Leaves.Any(l => l.Sent + l.DroppedAlone > 0);

    /// <summary>Whether its cancelling can be taken back: not where each part of it was cancelled by itself.</summary>
    public bool CanBeReinstated => State == OrderState.Cancelled && (!Leaves.Any() || Leaves.Any(l => l.DroppedWithOrder > 0));

    /// <summary>What is said about its goods now that they are ordered, each once.</summary>
    public IEnumerable<string> Notes => Lines.Select(l => l.Note).OfType<string>().Distinct();

    /// <summary>The leaf at a place.</summary>
    public OrderLeaf this[LeafPlace place] => Lines[place.Line].Leaves[place.Leaf];

    /// <summary>The order after something happened, what that moves in stock, and the money that it gives back.</summary>
    /// <exception cref="InvalidOperationException">It cannot happen to this order: more units than are open, or in a state in which it
    /// does not come. Who decides asks <see cref="PartsToEnd"/> and the state first.</exception>
    public Applied Apply(OrderEvent happened) => Course.Apply(this, happened);

    /// <summary>What the order has become after all of these, in their order.</summary>
    public Order After(IEnumerable<OrderEvent> course) => course.Aggregate(this, (order, happened) => order.Apply(happened).Order);
}

/// <summary>Who bought, and how it was paid.</summary>
/// <param name="Name">What people read.</param>
/// <param name="Email">Where messages go.</param>
/// <param name="PostalAddress">In lines.</param>
/// <param name="Payment">In words; null where none was recorded.</param>
public sealed record OrderBuyer(string Name, string Email, string PostalAddress, string? Payment)
{
    /// <summary>The account that they were signed in with; null for none.</summary>
    public int? Account { get; init; }

    /// <summary>When name, email and address were erased; null while they stand.</summary>
    public DateTimeOffset? ErasedAt { get; init; }
}

/// <summary>What a rule took off the basket of an order.</summary>
/// <param name="Rule">As workings name it.</param>
/// <param name="Name">What people read.</param>
/// <param name="Amount">0 or less.</param>
public sealed record OrderedReduction(string Rule, string Name, Money Amount);

/// <summary>An order after an event.</summary>
/// <param name="Order">As it is now.</param>
/// <param name="Movements">What it moves in stock, in the order of the leaves.</param>
/// <param name="Back">What goes back to the buyer; below 0 where a refund was taken back.</param>
public sealed record Applied(Order Order, ImmutableArray<OrderMovement> Movements, Money Back);
