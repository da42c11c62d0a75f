namespace Unicus.Store;

/// <summary>An order: what was bought, as it was then. What has become of it is in its events; the state and its moment stand here too, so
/// that orders are found by them.</summary>
internal sealed class OrderRow
{
    public int Number { get; set; }

    /// <summary>The unguessable piece of the shopper's address of this order.</summary>
    public required string Token { get; set; }

    /// <summary>As its events make it.</summary>
    public OrderState State { get; set; }

    public DateTimeOffset PlacedAt { get; set; }

    /// <summary>When nothing of it was open any more, as its events make it; null while something is.</summary>
    public DateTimeOffset? EndedAt { get; set; }

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

    /// <summary>What reductions of the basket took off, as JSON.</summary>
    public string Reductions { get; set; } = "[]";

    /// <summary>What became of the coupons that were named: <see cref="CouponReply"/>s as JSON.</summary>
    public string Coupons { get; set; } = "[]";

    /// <summary>The key of the customer group that it was priced for; null for none.</summary>
    public string? CustomerGroup { get; set; }

    public List<OrderLineRow> Lines { get; set; } = [];

    public List<OrderEventRow> Events { get; set; } = [];
}

/// <summary>Something that happened to an order; rows are only ever added.</summary>
internal sealed class OrderEventRow
{
    public int OrderNumber { get; set; }

    /// <summary>0 for the placing, then one more each time.</summary>
    public int Sequence { get; set; }

    /// <summary>As <see cref="OrderEvents"/> calls it.</summary>
    public required string Kind { get; set; }

    public DateTimeOffset At { get; set; }
    public required string By { get; set; }

    /// <summary>The rest of it as JSON.</summary>
    public required string Data { get; set; }
}

/// <summary>A line of an order, as it was then.</summary>
internal sealed class OrderLineRow
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

    /// <summary>The steps of the working as JSON.</summary>
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
}

/// <summary>A stocked variant that a line of an order takes.</summary>
internal sealed class OrderLeafRow
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

    /// <summary>Whether it is a set that was made up ahead and taken as it was; what was paid stands with what is in it.</summary>
    public bool MadeUp { get; set; }

    /// <summary>Its share of the line's tax.</summary>
    public decimal Tax { get; set; }
}
