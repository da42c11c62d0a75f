namespace Unicus.Core.Options;

using System.Collections.Immutable;
using Unicus.Core.Money;

/// <summary>What an option does: split the product into variants, or ask for something more.</summary>
public enum OptionRole
{
    /// <summary>Makes variants.</summary>
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

    /// <summary>A text.</summary>
    Text,

    /// <summary>A number.</summary>
    Number,

    /// <summary>A day.</summary>
    Date,
}

/// <summary>How many values of a list may be ticked where any are.</summary>
/// <param name="Min">At least so many, 0 or more; 0 counts as 1 once anything is ticked.</param>
/// <param name="Max">At most so many; null means all.</param>
public readonly record struct PickLimits(int Min, int? Max);

/// <summary>What a number may be.</summary>
/// <param name="Min">The smallest number; null: no limit.</param>
/// <param name="Max">The largest number; null: no limit.</param>
/// <param name="Step">It is a whole number of steps above <paramref name="Min"/> (or above 0); null means any.</param>
/// <param name="Unit">As it is shown, such as cm.</param>
public sealed record NumberLimits(decimal? Min, decimal? Max, decimal? Step, string? Unit)
{
    /// <summary>Without limits.</summary>
    public static NumberLimits None { get; } = new(null, null, null, null);
}

/// <summary>What a date may be, in days from today.</summary>
/// <param name="EarliestInDays">The first day, counted from today; null: any.</param>
/// <param name="LatestInDays">The last day, counted from today; null: any.</param>
/// <param name="NotOn">Days of the week that are left out.</param>
public sealed record DateLimits(int? EarliestInDays, int? LatestInDays, ImmutableArray<DayOfWeek> NotOn)
{
    /// <summary>Without limits.</summary>
    public static DateLimits None { get; } = new(null, null, []);

    /// <summary>Whether the limits are the same.</summary>
    public bool Equals(DateLimits? other) =>
        other is not null
        && EarliestInDays == other.EarliestInDays
        && LatestInDays == other.LatestInDays
        && NotOn.SequenceEqual(other.NotOn);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(EarliestInDays, LatestInDays, NotOn.Length);
}

/// <summary>A real part that comes with a value: it takes stock and adds its own list price.</summary>
/// <param name="Sku">Of a variant of any product of the shop.</param>
/// <param name="Quantity">Units of it for each unit sold, 1 or more.</param>
public sealed record ValuePart(string Sku, int Quantity);

/// <summary>How a value looks on the page.</summary>
public abstract record Swatch
{
    private Swatch() { }

    /// <summary>One colour, as <c>#rrggbb</c>.</summary>
    public sealed record Colour(string Hex) : Swatch;

    /// <summary>Two or more colours side by side, each as <c>#rrggbb</c>.</summary>
    public sealed record Stripes(ImmutableArray<string> Hexes) : Swatch
    {
        /// <summary>Whether the stripes are the same.</summary>
        public bool Equals(Stripes? other) => other is not null && Hexes.SequenceEqual(other.Hexes);

        /// <inheritdoc/>
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

    /// <summary>What it looks like; null for nothing to show.</summary>
    public Swatch? Swatch { get; init; }

    /// <summary>What it adds to the price; null for nothing.</summary>
    public Surcharge? Surcharge { get; init; }

    /// <summary>Figures that every variant with this value inherits.</summary>
    public Figures Figures { get; init; } = Figures.None;

    /// <summary>Whether the question does not arise where this is the value: one model has no plug to choose. The shopper never sees
    /// it.</summary>
    public bool DoesNotApply { get; init; }

    /// <summary>What the value costs the merchant for each unit; null means nothing.</summary>
    public Money? Cost { get; init; }

    /// <summary>The part that comes with it; null for none.</summary>
    public ValuePart? Part { get; init; }

    /// <summary>The SKU code in force.</summary>
    public string SkuPiece => SkuCode ?? Key.Text.ToUpperInvariant();
}

/// <summary>One question with an ordered list of values.</summary>
public sealed record Option(Key Key, string Label, OptionRole Role)
{
    /// <summary>A sentence for shoppers; null for none.</summary>
    public string? Help { get; init; }

    /// <summary>The key of the option in the library that it was taken from, or null.</summary>
    public Key? Library { get; init; }

    /// <summary>The value that is picked beforehand, or null.</summary>
    public Key? Default { get; init; }

    /// <summary>Whether variants that differ only in this option share one SKU and one stock.</summary>
    public bool SharesSku { get; init; }

    /// <summary>What an extra asks for; <see cref="Options.Ask.One"/> for a variant option.</summary>
    public Ask Ask { get; init; }

    /// <summary>Whether an extra needs an answer while it is shown; a variant option always does.</summary>
    public bool Required { get; init; }

    /// <summary>For <see cref="Options.Ask.Several"/>.</summary>
    public PickLimits Picks { get; init; }

    /// <summary>The longest text, in text elements; null means <see cref="LongestText"/>.</summary>
    public int? MaxLength { get; init; }

    /// <summary>The characters that a text may have, ranges as <c>A-Z</c>; null means any that can be printed.</summary>
    public string? Characters { get; init; }

    /// <summary>The limits of a number.</summary>
    public NumberLimits Number { get; init; } = NumberLimits.None;

    /// <summary>The limits of a date.</summary>
    public DateLimits Date { get; init; } = DateLimits.None;

    /// <summary>What a typed answer adds to the price; where a list is picked from, its values have their own.</summary>
    public Surcharge? Surcharge { get; init; }

    /// <summary>What is typed beforehand, or ticked beforehand where several can be.</summary>
    public ImmutableArray<string> Preset { get; init; } = [];

    /// <summary>How many variant options are asked before this extra; null means all.</summary>
    public int? Behind { get; init; }

    /// <summary>The key of the shared set that it comes from; null where it is the product's own.</summary>
    public Key? FromSet { get; init; }

    /// <summary>Whether it is a slot with a choice: its values are the parts that may fill it.</summary>
    public bool IsSlot { get; init; }

    /// <summary>The values, in order.</summary>
    public ImmutableArray<OptionValue> Values { get; init; } = [];

    /// <summary>The most text elements that any text can have.</summary>
    public const int LongestText = 2000;

    /// <summary>The largest number that can be answered, either way of 0.</summary>
    public const decimal LargestNumber = 1_000_000_000m;

    /// <summary>Whether it is answered by picking from a list; text, numbers and dates are not.</summary>
    public bool IsPicked => Ask is Ask.One or Ask.Several or Ask.YesNo;

    /// <summary>The value with this key, or null.</summary>
    public OptionValue? Find(Key value) => Values.FirstOrDefault(v => v.Key == value);

    /// <summary>The place of the value in the list, from 0, or −1.</summary>
    public int PlaceOf(Key value)
    {
        for (var i = 0; i < Values.Length; i++)
            if (Values[i].Key == value)
                return i;
        return -1;
    }

    /// <summary>Whether everything about the other option is the same.</summary>
    public bool Equals(Option? other) =>
        other is not null
        && Key == other.Key
        && Label == other.Label
        && Role == other.Role
        && Help == other.Help
        && Library == other.Library
        && Default == other.Default
        && SharesSku == other.SharesSku
        && Ask == other.Ask
        && Required == other.Required
        && Picks == other.Picks
        && MaxLength == other.MaxLength
        && Characters == other.Characters
        && Number == other.Number
        && Date == other.Date
        && Surcharge == other.Surcharge
        && Behind == other.Behind
        && FromSet == other.FromSet
        && IsSlot == other.IsSlot
        && Preset.SequenceEqual(other.Preset)
        && Values.SequenceEqual(other.Values);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Key, Label, Values.Length);
}
