namespace Unicus.Core.Orders;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Parts;

/// <summary>A stocked variant that a line of an order takes, as it was then, and what has become of its units.</summary>
/// <remarks>Units = open + sent + dropped, always.</remarks>
public sealed record OrderLeaf
{
    /// <summary>Which leaf it is; the first of a line, 0, is the goods themselves.</summary>
    public required LeafPlace Place { get; init; }

    /// <summary>Where in the line it comes from; empty for the goods themselves.</summary>
    public required LeafPath Path { get; init; }

    /// <summary>The number of its product.</summary>
    public required int ProductId { get; init; }

    /// <summary>The number of its stock.</summary>
    public required int SkuId { get; init; }

    /// <summary>Its SKU as it was then.</summary>
    public required string Sku { get; init; }

    /// <summary>Its name as it was then.</summary>
    public required string Name { get; init; }

    /// <summary>For the whole line; 1 or more.</summary>
    public required int Units { get; init; }

    /// <summary>Its share of what was paid for the line; with tax where prices include it.</summary>
    public required Money Allocated { get; init; }

    /// <summary>Its share of the line's tax.</summary>
    public required Money Tax { get; init; }

    /// <summary>What its units cost; null where that was not known.</summary>
    public Money? Cost { get; init; }

    /// <summary>The key of the class that it was taxed by; null for none.</summary>
    public string? TaxClass { get; init; }

    /// <summary>For customs; null where it was not known.</summary>
    public string? CustomsCode { get; init; }

    /// <summary>The country of origin; null where it was not known.</summary>
    public string? Origin { get; init; }

    /// <summary>What one unit weighed; null where it was not known, or it is not shipped.</summary>
    public int? WeightGrams { get; init; }

    /// <summary>Whether it is sent at all.</summary>
    public bool Shipped { get; init; } = true;

    /// <summary>Whether it is a set that was made up ahead and taken as it was; what was paid stands with what is in it.</summary>
    public bool MadeUp { get; init; }

    /// <summary>What is set aside for it now; none where its stock is not counted.</summary>
    public ImmutableArray<UnitsAt> At { get; internal init; } = [];

    /// <summary>The units of it that were beyond stock when they were set aside.</summary>
    public int Beyond { get; internal init; }

    /// <summary>The units that left.</summary>
    public int Sent { get; internal init; }

    /// <summary>The units that were cancelled before they were sent.</summary>
    public int Dropped { get; internal init; }

    /// <summary>Those of them that were cancelled with the order as a whole.</summary>
    public int DroppedWithOrder { get; internal init; }

    /// <summary>What was set aside until the order as a whole was cancelled; 0 while it is not.</summary>
    public int Released { get; internal init; }

    /// <summary>The units that were cancelled by themselves.</summary>
    public int DroppedAlone => Dropped - DroppedWithOrder;

    /// <summary>The units that are still to be sent.</summary>
    public int Open => Units - Sent - Dropped;

    /// <summary>The units set aside now: fewer than are open where some are in a set that was made up ahead.</summary>
    public int SetAside => At.Sum(a => a.Units);

    /// <summary>Whether another leaf of the line is within this one, or is it.</summary>
    internal bool Holds(OrderLeaf other) =>
        Path.IsOwn || other.Path == Path || other.Path.Text.StartsWith(Path.Text + "/", StringComparison.Ordinal);
}
