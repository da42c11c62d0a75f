namespace Unicus.Core.Options;

using Unicus.Core.Money;

/// <summary>Length, width and height in whole millimetres.</summary>
public sealed record SizeMm(int Length, int Width, int Height)
{
    /// <summary>“64 × 40 × 3 cm”.</summary>
    public string ForPeople(string unit) => $"{Bare(Length, unit)} × {Bare(Width, unit)} × {Measures.ShowLength(Height, unit)}";

    private static string Bare(int size, string unit) => Measures.ShowLength(size, unit).Split(' ')[0];
}

/// <summary>The figures that cascade: a variant's own, else its value's, else the product's. Null means none set here.</summary>
public sealed record Figures
{
    /// <summary>No figure set.</summary>
    public static Figures None { get; } = new();

    /// <summary>The list price of a unit, in the shop's price mode; 0 is a price.</summary>
    public Money? Price { get; init; }

    /// <summary>The recommended retail price.</summary>
    public Money? Rrp { get; init; }

    /// <summary>What a unit costs the merchant, net of tax.</summary>
    public Money? Cost { get; init; }

    /// <summary>Whole grams.</summary>
    public int? WeightGrams { get; init; }

    /// <summary>The size.</summary>
    public SizeMm? SizeMm { get; init; }

    /// <summary>The key of the tax class; null for the shop's first.</summary>
    public string? TaxClass { get; init; }

    /// <summary>Days until it is sent.</summary>
    public int? LeadTimeDays { get; init; }

    /// <summary>The number of available units at or below which the stock counts as low.</summary>
    public int? LowLevel { get; init; }

    /// <summary>What one unit holds, for its unit price.</summary>
    public NetContent? NetContent { get; init; }

    /// <summary>The commodity code for customs, as the merchant writes it.</summary>
    public string? CustomsCode { get; init; }

    /// <summary>The country of origin, two capital letters of ISO 3166-1.</summary>
    public string? Origin { get; init; }

    /// <summary>Whether no figure is set.</summary>
    public bool AreNone => this == None;
}
