namespace Unicus.Core.Stock;

using Unicus.Core.Variants;

/// <summary>How many can be sold now, and what to say about it.</summary>
/// <param name="Units">Null: without limit.</param>
/// <param name="Words">“12 left”, “none left; back about 3 May”; empty where there is nothing to say.</param>
/// <param name="InStock">How many of them are in stock, 0 or more; null where they are not counted.</param>
public sealed record Availability(int? Units, string Words, int? InStock)
{
    /// <summary>The words for the merchant, who is told besides what runs out first.</summary>
    public string MerchantWords { get; init; } = Words;

    /// <summary>Whether so many units can be sold.</summary>
    public bool CanSell(int quantity) => Units is not { } units || units >= quantity;

    /// <summary>The words for shoppers, who hear of a number only where few are left.</summary>
    /// <param name="below">A number from which up it is only “in stock”; null: the number is always told.</param>
    public string ShownBelow(int? below) => InStock >= below && Units > 0 ? "In stock" : Words;

    /// <summary>How many of so many units would be sold beyond stock.</summary>
    public int Beyond(int quantity) => InStock is { } units ? Math.Max(0, quantity - units) : 0;

    /// <summary>What of so many units is beyond stock, in a sentence; empty where nothing is, or where they cannot be sold.</summary>
    public string BeyondWords(int quantity) => CanSell(quantity) ? BeyondWords(quantity, Beyond(quantity)) : "";

    /// <inheritdoc cref="BeyondWords(int)"/>
    /// <param name="quantity">Units of the line; 1 or more.</param>
    /// <param name="beyond">How many of the units are beyond stock.</param>
    public static string BeyondWords(int quantity, int beyond) =>
        beyond switch
        {
            <= 0 => "",
            _ when beyond >= quantity => quantity == 1
                ? "Not in stock: it follows when it comes in."
                : $"None in stock: all {quantity:N0} follow when they come in.",
            _ => $"{quantity - beyond:N0} in stock, {beyond:N0} "
                + $"{(beyond == 1 ? "follows when it comes" : "follow when they come")} in.",
        };

    /// <summary>Works out how many units of one SKU can be sold.</summary>
    /// <param name="selling">The terms on which it is sold.</param>
    /// <param name="level">Over all locations.</param>
    /// <param name="today">To leave out a day of return that has passed.</param>
    /// <remarks>Off for now wins over everything; then what is not counted has no limit; then stock and what may be sold beyond
    /// it.</remarks>
    public static Availability Of(Selling selling, StockLevel level, DateOnly today)
    {
        var counted = SellableUnits.Of(selling, level, today);
        var words =
            IsOff(selling, today) ? OffWords(selling.OffForNow!.Back, today)
            : counted.InStock is null ? ""
            : counted.Units is { } units ? Left(Math.Max(0, level.Available), units)
            : counted.InStock == 0 ? BeyondStock
            : "";
        return new Availability(counted.Units, words, counted.InStock);
    }

    /// <summary>Whether it is off for now on this day.</summary>
    internal static bool IsOff(Selling selling, DateOnly today) => selling.OffForNow is { } off && !(off.Back is { } back && back <= today);

    /// <summary>What is said where nothing is in stock and it is sold all the same.</summary>
    internal const string BeyondStock = "None in stock; can be ordered";

    private static string OffWords(DateOnly? back, DateOnly today) =>
        back is { } day ? $"Not on sale just now; back about {Day(day, today)}" : "Not on sale just now";

    private static string Left(int inStock, int sellable) =>
        inStock > 0 ? $"{inStock:N0} left"
        : sellable > 0 ? BeyondStock
        : "None left";

    private static string Day(DateOnly day, DateOnly today) =>
        day.ToString(day.Year == today.Year ? "d MMMM" : "d MMMM yyyy", System.Globalization.CultureInfo.InvariantCulture);
}

/// <summary>How many units of one SKU can be sold, without words.</summary>
/// <param name="Units">0 or more; null: without limit.</param>
/// <param name="InStock">Those of them that are there now; null where nothing is counted.</param>
internal readonly record struct SellableUnits(int? Units, int? InStock)
{
    /// <inheritdoc cref="Availability.Of"/>
    public static SellableUnits Of(Selling selling, StockLevel level, DateOnly today)
    {
        if (Availability.IsOff(selling, today))
            return new SellableUnits(0, 0);
        if (selling.Counted == false)
            return new SellableUnits(null, null);
        var inStock = Math.Max(0, level.Available);
        return selling.Beyond switch
        {
            SellBeyond.Unlimited => new SellableUnits(null, inStock),
            SellBeyond.Units(var more) => Limited((long)level.Available + more),
            SellBeyond.OnOrder => Limited((long)level.Available + level.OnOrder),
            _ => Limited(inStock),
        };

        SellableUnits Limited(long sellable)
        {
            var units = (int)Math.Clamp(sellable, 0, int.MaxValue);
            return new SellableUnits(units, Math.Min(inStock, units));
        }
    }
}
