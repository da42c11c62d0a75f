using System.Text.Json;
using NpgsqlTypes;

namespace Unicus.Store;

/// <summary>The stock of one SKU at one location: the sum of its movements.</summary>
internal sealed class LevelRow
{
    public int SkuId { get; set; }
    public int LocationId { get; set; }

    /// <summary>The product of the SKU, so that a product's stock is summed without going through its SKUs.</summary>
    public int ProductId { get; set; }

    public int OnHand { get; set; }
    public int Allocated { get; set; }
    public int OnHold { get; set; }
    public int OnOrder { get; set; }

    public StockLevel Level => new(OnHand, Allocated, OnHold, OnOrder);
}

/// <summary>One line of the ledger. Never changed.</summary>
internal sealed class MovementRow
{
    public long Id { get; set; }
    public int SkuId { get; set; }
    public int LocationId { get; set; }
    public MovementKind Kind { get; set; }
    public int OnHand { get; set; }
    public int Allocated { get; set; }
    public int OnHold { get; set; }
    public int OnOrder { get; set; }
    public DateTimeOffset At { get; set; }
    public required string By { get; set; }
    public string? Reason { get; set; }
    public int? OrderNumber { get; set; }
}
