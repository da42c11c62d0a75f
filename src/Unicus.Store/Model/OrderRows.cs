using System.Text.Json;
using NpgsqlTypes;

namespace Unicus.Store;

/// <summary>A shopper's basket.</summary>
public sealed class BasketRow
{
    public Guid Id { get; set; }

    /// <summary>The lines as JSON.</summary>
    public string Lines { get; set; } = "[]";

    public DateTimeOffset ChangedAt { get; set; }

    /// <summary>Counts up with every change, so that what is ordered is what was looked at.</summary>
    public int Version { get; set; }

    /// <summary>Where it goes, as the shopper said; null while they have not.</summary>
    public string? Destination { get; set; }

    /// <summary>The coupons that the shopper typed.</summary>
    public string[] Coupons { get; set; } = [];

    /// <summary>The code of a customer group that the shopper typed; null for none.</summary>
    public string? GroupCode { get; set; }

    /// <summary>The version that became the newest order made of this basket; null while there is none.</summary>
    public int? OrderedVersion { get; set; }

    /// <summary>The address piece of that order.</summary>
    public string? OrderToken { get; set; }
}

public enum OrderState
{
    Placed,
    Dispatched,
    Cancelled,
}

/// <summary>An order. It keeps what was bought as it was then.</summary>
public sealed class OrderRow
{
    public int Number { get; set; }

    /// <summary>The unguessable piece of the shopper's address of this order.</summary>
    public required string Token { get; set; }

    public OrderState State { get; set; }
    public DateTimeOffset PlacedAt { get; set; }
    public DateTimeOffset? DispatchedAt { get; set; }
    public DateTimeOffset? CancelledAt { get; set; }

    /// <summary>Why it was cancelled; null while it is not.</summary>
    public string? CancelReason { get; set; }

    public string Buyer { get; set; } = "";
    public string Email { get; set; } = "";
    public string PostalAddress { get; set; } = "";

    /// <summary>When name, email and address were erased; null while they stand.</summary>
    public DateTimeOffset? ErasedAt { get; set; }

    public string? Destination { get; set; }
    public string? Payment { get; set; }
    public required string Currency { get; set; }
    public decimal Subtotal { get; set; }
    public decimal Delivery { get; set; }
    public decimal Tax { get; set; }
    public decimal Total { get; set; }
    public bool TaxIncluded { get; set; }

    /// <summary>The key of the way of delivery; null where nothing was sent.</summary>
    public string? Service { get; set; }

    /// <summary>The account that it was placed with; null for none.</summary>
    public int? CustomerId { get; set; }

    /// <summary>What reductions of the basket took off: <see cref="OrderedReduction"/>s as JSON.</summary>
    public string Reductions { get; set; } = "[]";

    /// <summary>What became of the coupons that were named: <see cref="CouponReply"/>s as JSON.</summary>
    public string Coupons { get; set; } = "[]";

    /// <summary>The key of the customer group that it was priced for; null for none.</summary>
    public string? CustomerGroup { get; set; }

    public List<OrderLineRow> Lines { get; set; } = [];

    /// <summary>What is said about its goods now that they are ordered, each once.</summary>
    public IEnumerable<string> Notes => Lines.OrderBy(l => l.Position).Select(l => l.Note).OfType<string>().Distinct();

    /// <summary>What was paid back (simulated): all of a cancelled order, else what parts that were cancelled had cost.</summary>
    public decimal Refunded => State == OrderState.Cancelled ? Total : Lines.SelectMany(l => l.Leaves).Sum(l => l.Refunded);

    /// <summary>What has not been given back.</summary>
    public OrderStanding Standing
    {
        get
        {
            if (State == OrderState.Cancelled)
                return new OrderStanding(0, 0, 0, 0);
            var leaves = Lines.SelectMany(l => l.Leaves).ToList();
            var goods = Lines.Sum(l => l.Total + l.Reduction) - leaves.Sum(l => l.GivenBack(l.Allocated, this));
            var tax = Tax - leaves.Sum(l => l.GivenBack(l.Tax, this));
            return new OrderStanding(goods, Delivery, tax, goods + Delivery + (TaxIncluded ? 0 : tax));
        }
    }

    /// <summary>What lists show of it: what stands, and of a cancelled one what it was.</summary>
    public decimal ListedTotal => State == OrderState.Cancelled ? Total : Standing.Total;

    /// <summary>Whether some of it was sent or cancelled before the rest.</summary>
    public bool IsBegun => Lines.SelectMany(l => l.Leaves).Any(l => l.Sent + l.Dropped > 0);

    /// <summary>What reductions of the basket took off.</summary>
    public IReadOnlyList<OrderedReduction> TakenOff() =>
        JsonSerializer.Deserialize<List<OrderedReduction>>(Reductions, JsonSerializerOptions.Web)!;

    /// <summary>What became of the coupons that were named.</summary>
    public IReadOnlyList<CouponReply> CouponReplies() => JsonSerializer.Deserialize<List<CouponReply>>(Coupons, JsonSerializerOptions.Web)!;
}

/// <summary>What of an order has not been given back.</summary>
/// <param name="Subtotal">Of the goods, reductions of the basket taken off.</param>
/// <param name="Tax">Contained in, or added to, goods and delivery.</param>
/// <param name="Total">What is still paid for it.</param>
public sealed record OrderStanding(decimal Subtotal, decimal Delivery, decimal Tax, decimal Total);

/// <summary>What a rule took off the basket of an order.</summary>
/// <param name="Rule">As workings name it.</param>
public sealed record OrderedReduction(string Rule, string Name, decimal Amount);

/// <summary>A line of an order, as it was then.</summary>
public sealed class OrderLineRow
{
    public int Id { get; set; }
    public int OrderNumber { get; set; }
    public int Position { get; set; }
    public int ProductId { get; set; }
    public required string ProductCode { get; set; }
    public int Edition { get; set; }
    public int SkuId { get; set; }
    public required string Sku { get; set; }
    public required string Title { get; set; }

    /// <summary>The configuration: <see cref="OrderedAnswer"/>s as JSON.</summary>
    public required string Configuration { get; set; }

    /// <summary>The same answers as they are asked for again, as JSON.</summary>
    public string? Asked { get; set; }

    /// <summary>What was asked of the parts of a set, as JSON; null for nothing.</summary>
    public string? AskedParts { get; set; }

    /// <summary>The working: <see cref="OrderedStep"/>s as JSON.</summary>
    public required string Working { get; set; }

    public int Quantity { get; set; }
    public decimal Unit { get; set; }
    public decimal Total { get; set; }

    /// <summary>Its share of the basket's reductions; 0 or less.</summary>
    public decimal Reduction { get; set; }

    public decimal Tax { get; set; }
    public decimal? Cost { get; set; }

    /// <summary>The page that it was bought through.</summary>
    public required string Through { get; set; }

    /// <summary>What is said now that it is ordered; null for nothing.</summary>
    public string? Note { get; set; }

    /// <summary>What it takes of stock, the goods themselves first.</summary>
    public List<OrderLeafRow> Leaves { get; set; } = [];

    /// <summary>The leaves that are parts of it, in their order.</summary>
    public IEnumerable<OrderLeafRow> PartLeaves() => Leaves.Where(l => l.Path.Length > 0 || l.MadeUp).OrderBy(l => l.Position);

    /// <summary>What is sent or cancelled by one press with a leaf, it first: where a set was made up ahead, that and all that is in it;
    /// else the leaf alone.</summary>
    public IReadOnlyList<OrderLeafRow> GoesWith(OrderLeafRow leaf)
    {
        var made = Leaves.Where(l => l.MadeUp && l.Holds(leaf)).MinBy(l => l.Path.Length);
        return made is null ? [leaf] : [made, .. Leaves.Where(l => l != made && made.Holds(l)).OrderBy(l => l.Position)];
    }

    /// <summary>The answers to extras; those that make the variant stand in its title.</summary>
    public IEnumerable<OrderedAnswer> Extras() =>
        System
            .Text.Json.JsonSerializer.Deserialize<List<OrderedAnswer>>(Configuration, System.Text.Json.JsonSerializerOptions.Web)!
            .Where(a => a.Extra);

    /// <summary>The steps of the working.</summary>
    public IReadOnlyList<OrderedStep> Steps() =>
        System.Text.Json.JsonSerializer.Deserialize<List<OrderedStep>>(Working, System.Text.Json.JsonSerializerOptions.Web)!;

    /// <summary>What rules moved, as shoppers read it.</summary>
    /// <param name="currency">Of the order.</param>
    public IEnumerable<WorkingStep> Moved(Currency currency) => WorkingIn(currency).Moved;

    /// <summary>How its price came about.</summary>
    /// <param name="currency">Of the order.</param>
    public PriceWorking WorkingIn(Currency currency) =>
        new(
            [
                .. Steps()
                    .Select(s => new WorkingStep(
                        BasketDocument.StepNamed(s.Step),
                        s.Label,
                        new Money(s.Amount, currency),
                        s.PerLine,
                        s.Rule
                    )),
            ],
            Quantity,
            currency
        );

    /// <summary>What of the line was beyond stock, in a sentence; empty where nothing was.</summary>
    public string BeyondWords() =>
        string.Join(
            ' ',
            Leaves
                .Where(l => l.Beyond > 0)
                .OrderBy(l => l.Position)
                .Select(l => (l.Position == 0 ? "" : $"{l.Name}: ") + Availability.BeyondWords(l.Units, l.Beyond))
        );
}

/// <summary>A stocked variant that a line of an order takes.</summary>
public sealed class OrderLeafRow
{
    public int Id { get; set; }
    public int OrderLineId { get; set; }

    /// <summary>0 for the goods themselves.</summary>
    public int Position { get; set; }

    /// <summary>Where in the line it comes from; empty for the goods themselves.</summary>
    public required string Path { get; set; }

    public int ProductId { get; set; }
    public int SkuId { get; set; }
    public required string Sku { get; set; }
    public required string Name { get; set; }

    /// <summary>For the whole line.</summary>
    public int Units { get; set; }

    /// <summary>Its share of what was paid for the line.</summary>
    public decimal Allocated { get; set; }

    /// <summary>What its units cost; null where that was not known.</summary>
    public decimal? Cost { get; set; }

    public string? TaxClass { get; set; }

    /// <summary>For customs; null where it was not known.</summary>
    public string? CustomsCode { get; set; }

    /// <summary>The country of origin; null where it was not known.</summary>
    public string? Origin { get; set; }

    /// <summary>What one unit weighed; null where it was not known, or it is not shipped.</summary>
    public int? WeightGrams { get; set; }

    /// <summary>Whether it is sent at all.</summary>
    public bool Shipped { get; set; } = true;

    /// <summary>The units of it that were beyond stock when it was placed.</summary>
    public int Beyond { get; set; }

    /// <summary>Whether it is a set that was made up ahead and taken as it was; what was paid stands with what is in it.</summary>
    public bool MadeUp { get; set; }

    /// <summary>Whether another leaf is within this one, or is it.</summary>
    internal bool Holds(OrderLeafRow other) =>
        Path.Length == 0 || other.Path == Path || other.Path.StartsWith(Path + "/", StringComparison.Ordinal);

    /// <summary>Its share of the line's tax.</summary>
    public decimal Tax { get; set; }

    /// <summary>The units that left before the rest of the order, or with it.</summary>
    public int Sent { get; set; }

    /// <summary>The units that were cancelled by themselves.</summary>
    public int Dropped { get; set; }

    /// <summary>What was refunded of it for them.</summary>
    public decimal Refunded { get; set; }

    /// <summary>The part of an amount of it that was given back for the units that were cancelled, to the last cent once all are.</summary>
    /// <param name="amount">What was allocated to it, or its tax.</param>
    public decimal GivenBack(decimal amount, OrderRow order) =>
        Math.Round(amount * Dropped / Units, Currency.Of(order.Currency).MinorUnits, MidpointRounding.AwayFromZero);

    /// <summary>The units that are still to be sent.</summary>
    public int Left => Units - Sent - Dropped;

    /// <summary>The locations that stock was allocated at; none where it is not counted.</summary>
    public int[] Locations { get; set; } = [];

    /// <summary>The units that were allocated: fewer than <see cref="Units"/> where some were in a set that was made up ahead.</summary>
    public int Allotted => UnitsAt.Sum();

    /// <summary>The units allocated at each of <see cref="Locations"/>.</summary>
    public int[] UnitsAt { get; set; } = [];
}

/// <summary>An answer in an order's line, as it was read then.</summary>
/// <param name="Extra">Whether it answers an extra; else it makes the variant.</param>
public sealed record OrderedAnswer(string Option, string Value, bool Extra);

/// <summary>A step of the working of an order's line.</summary>
/// <param name="Step">As documents call it.</param>
/// <param name="PerLine">Whether the amount is for the line; else for each unit.</param>
public sealed record OrderedStep(string Step, string Label, decimal Amount, bool PerLine, string? Rule);
