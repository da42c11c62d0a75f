namespace Unicus.Core.Variants;

using Unicus.Core.Options;

/// <summary>What may be sold when none are left.</summary>
public abstract record SellBeyond
{
    private SellBeyond() { }

    /// <summary>Nothing.</summary>
    public sealed record Nothing : SellBeyond;

    /// <summary>What is on order from the supplier.</summary>
    public sealed record OnOrder : SellBeyond;

    /// <summary>So many units more.</summary>
    public sealed record Units(int Count) : SellBeyond;

    /// <summary>Without end.</summary>
    public sealed record Unlimited : SellBeyond;
}

/// <summary>Taken off sale for now, whatever the stock.</summary>
/// <param name="Back">The day it returns, if known.</param>
public sealed record OffForNow(DateOnly? Back);

/// <summary>How a product or variant may be sold. Null means: as the product, or the shop, says.</summary>
public sealed record Selling
{
    /// <summary>Everything inherited.</summary>
    public static Selling Inherited { get; } = new();

    /// <summary>Whether stock is counted; null: inherited.</summary>
    public bool? Counted { get; init; }

    /// <summary>What happens when none are left; null: inherited.</summary>
    public SellBeyond? Beyond { get; init; }

    /// <summary>Off for now, whatever the count; null: inherited.</summary>
    public OffForNow? OffForNow { get; init; }

    /// <summary>Whether it is sent; a file or a service is not.</summary>
    public bool? Shipped { get; init; }

    /// <summary>The fewest units that a line may be of, 1 to <see cref="MostUnits"/>; null: inherited, or 1.</summary>
    public int? MinimumQuantity { get; init; }

    /// <summary>The most units that one order may be of, 1 to <see cref="MostUnits"/>; null: inherited, or without
    /// limit.</summary>
    public int? MaximumPerOrder { get; init; }

    /// <summary>What is said once it is ordered, on the order's page and in the message; null: inherited, or nothing.</summary>
    public string? AfterOrderNote { get; init; }

    /// <summary>So many units one line of a basket holds.</summary>
    public const int MostUnits = 1_000_000;

    /// <summary>Characters of <see cref="AfterOrderNote"/> at most.</summary>
    public const int LongestNote = 1000;

    /// <summary>The units from which it is sold.</summary>
    public int Least => MinimumQuantity ?? 1;

    /// <summary>This one's own answers first, then the other's.</summary>
    public Selling Over(Selling other) =>
        ReferenceEquals(this, Inherited) || this == Inherited
            ? other
            : new()
            {
                Counted = Counted ?? other.Counted,
                Beyond = Beyond ?? other.Beyond,
                OffForNow = OffForNow ?? other.OffForNow,
                Shipped = Shipped ?? other.Shipped,
                MinimumQuantity = MinimumQuantity ?? other.MinimumQuantity,
                MaximumPerOrder = MaximumPerOrder ?? other.MaximumPerOrder,
                AfterOrderNote = AfterOrderNote ?? other.AfterOrderNote,
            };
}

/// <summary>One made combination of values with what is its own.</summary>
public sealed record Variant(Combination Values)
{
    /// <summary>Null means: made by the pattern.</summary>
    public Sku? Sku { get; init; }

    /// <summary>The article code; null for none.</summary>
    public Gtin? Gtin { get; init; }

    /// <summary>Its own figures, which win over inherited ones.</summary>
    public Figures Own { get; init; } = Figures.None;

    /// <summary>Its own terms of selling.</summary>
    public Selling Selling { get; init; } = Selling.Inherited;

    /// <summary>No longer offered, but with history or stock.</summary>
    public bool Retired { get; init; }

    /// <summary>A note for the merchant.</summary>
    public string? Note { get; init; }

    /// <summary>The file of the product's picture that shows just this variant, or null: then that of its values or the
    /// product.</summary>
    public string? Picture { get; init; }

    /// <summary>The document of the product that it was before it was brought into this one, or null; kept so that it can be split off
    /// again.</summary>
    public string? Former { get; init; }
}
