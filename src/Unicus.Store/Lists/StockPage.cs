namespace Unicus.Store;

/// <summary>A SKU with its stock over all locations.</summary>
/// <param name="Values">The canonical text of its combination; empty for a product without options.</param>
/// <param name="Low">Its low level in force; null for none.</param>
public sealed record SkuStock(
    string Sku,
    string Code,
    string Product,
    string Values,
    int? Low,
    int OnHand,
    int Allocated,
    int OnHold,
    int OnOrder
)
{
    /// <summary>What its values are called: “Deep, Cedar”; empty where it has none.</summary>
    public string Variant { get; init; } = "";

    /// <summary>Whether so few are left that it should be looked at.</summary>
    public bool IsLow => Level.Available <= Low;

    /// <summary>The stock.</summary>
    public StockLevel Level => new(OnHand, Allocated, OnHold, OnOrder);
}

/// <summary>Which SKUs a page of stock shows.</summary>
public enum StockFilter
{
    /// <summary>All.</summary>
    All,

    /// <summary>Those of which none can be had.</summary>
    NoneLeft,

    /// <summary>Those at or below their low level.</summary>
    Low,
}

/// <summary>A page of SKUs.</summary>
/// <param name="Moved">SKUs that have moved, of all.</param>
/// <param name="More">Whether there are pages behind it.</param>
public sealed record StockPage(IReadOnlyList<SkuStock> Rows, int Moved, int Page, bool More);
