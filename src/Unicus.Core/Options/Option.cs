using System.Collections.Immutable;

namespace Unicus.Core;

/// <summary>What an option does: split the product into variants, or ask for something more.</summary>
public enum OptionRole
{
    Variant,

    /// <summary>A question that does not split variants: engraving, gift wrap, a roof style.</summary>
    Extra,
}

/// <summary>What an extra asks for.</summary>
public enum Ask
{
    /// <summary>One of a list; also what every variant option asks.</summary>
    One,

    /// <summary>Any of a list.</summary>
    Several,

    /// <summary>Its single value <c>yes</c>, or none.</summary>
    YesNo,

    Text,
    Number,
    Date,
}

/// <summary>How many values of a list may be ticked where any are.</summary>
/// <param name="Min">At least so many, 0 or more; 0 counts as 1 once anything is ticked.</param>
/// <param name="Max">At most so many; null means all.</param>
public readonly record struct PickLimits(int Min, int? Max);

/// <summary>How a value looks on the page.</summary>
public abstract record Swatch
{
    private Swatch() { }

    /// <summary>One colour, as <c>#rrggbb</c>.</summary>
    public sealed record Colour(string Hex) : Swatch;

    /// <summary>Two or more colours side by side, each as <c>#rrggbb</c>.</summary>
    public sealed record Stripes(ImmutableArray<string> Hexes) : Swatch
    {
        public bool Equals(Stripes? other) => other is not null && Hexes.SequenceEqual(other.Hexes);
        public override int GetHashCode() => Hexes.Length;
    }

    /// <summary>A piece cut from a picture, kept as a picture of its own in the picture store.</summary>
    public sealed record Picture(string File) : Swatch;
}

/// <summary>One answer of an option.</summary>
public sealed record OptionValue(Key Key, string Label)
{
    /// <summary>The piece that this value gives to SKUs; null means its key in capitals.</summary>
    public string? SkuCode { get; init; }

    public Swatch? Swatch { get; init; }
    public Surcharge? Surcharge { get; init; }

    /// <summary>Figures that every variant with this value inherits.</summary>
    public Figures Figures { get; init; } = Figures.None;

    /// <summary>Whether the question does not arise where this is the value: one model has no plug to choose. The shopper never sees it.</summary>
    public bool DoesNotApply { get; init; }

    /// <summary>The SKU code in force.</summary>
    public string SkuPiece => SkuCode ?? Key.Text.ToUpperInvariant();
}

/// <summary>One question with an ordered list of values.</summary>
public sealed record Option(Key Key, string Label, OptionRole Role)
{
    public string? Help { get; init; }

    /// <summary>The key of the option in the library that it was taken from, or null.</summary>
    public Key? Library { get; init; }

    /// <summary>The value that is picked beforehand, or null.</summary>
    public Key? Default { get; init; }

    /// <summary>Whether variants that differ only in this option share one SKU and one stock.</summary>
    public bool SharesSku { get; init; }

    /// <summary>What an extra asks for; <see cref="Core.Ask.One"/> for a variant option.</summary>
    public Ask Ask { get; init; }

    /// <summary>Whether an extra needs an answer while it is shown; a variant option always does.</summary>
    public bool Required { get; init; }

    /// <summary>For <see cref="Core.Ask.Several"/>.</summary>
    public PickLimits Picks { get; init; }

    public ImmutableArray<OptionValue> Values { get; init; } = [];

    /// <summary>Whether it is answered by picking from a list; text, numbers and dates are not.</summary>
    public bool IsPicked => Ask is Ask.One or Ask.Several or Ask.YesNo;

    /// <summary>The value with this key, or null.</summary>
    public OptionValue? Find(Key value) => Values.FirstOrDefault(v => v.Key == value);

    /// <summary>The place of the value in the list, from 0, or −1.</summary>
    public int PlaceOf(Key value)
    {
        for (var i = 0; i < Values.Length; i++)
            if (Values[i].Key == value) return i;
        return -1;
    }

    public bool Equals(Option? other) => other is not null && Key == other.Key && Label == other.Label && Role == other.Role && Help == other.Help
        && Library == other.Library && Default == other.Default && SharesSku == other.SharesSku && Ask == other.Ask && Required == other.Required && Picks == other.Picks && Values.SequenceEqual(other.Values);

    public override int GetHashCode() => HashCode.Combine(Key, Label, Values.Length);
}
