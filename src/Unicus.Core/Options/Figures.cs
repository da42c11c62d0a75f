namespace Unicus.Core;

/// <summary>Length, width and height in whole millimetres.</summary>
public sealed record SizeMm(int Length, int Width, int Height)
{
    public string ForPeople(string unit) => $"{Bare(Length, unit)} × {Bare(Width, unit)} × {Measures.ShowLength(Height, unit)}";

    private static string Bare(int size, string unit) => Measures.ShowLength(size, unit).Split(' ')[0];
}

/// <summary>The figures that cascade: a variant's own, else its value's, else the product's. Null means none set here.</summary>
public sealed record Figures
{
    public static Figures None { get; } = new();

    public Money? Price { get; init; }
    public Money? Rrp { get; init; }
    public Money? Cost { get; init; }

    /// <summary>Whole grams.</summary>
    public int? WeightGrams { get; init; }

    public SizeMm? SizeMm { get; init; }
    public string? TaxClass { get; init; }
    public int? LeadTimeDays { get; init; }

    /// <summary>The number of available units at or below which the stock counts as low.</summary>
    public int? LowLevel { get; init; }

    public bool AreNone => this == None;
}
