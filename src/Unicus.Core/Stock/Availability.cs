namespace Unicus.Core;

/// <summary>How many can be sold now, and what to say about it.</summary>
/// <param name="Units">Null: without limit.</param>
/// <param name="Words">“12 left”, “none left; back about 3 May”; empty where there is nothing to say.</param>
public sealed record Availability(int? Units, string Words)
{
    public bool CanSell(int quantity) => Units is not { } units || units >= quantity;

    /// <summary>Works out how many units of one SKU can be sold.</summary>
    /// <param name="level">Over all locations.</param>
    /// <param name="today">To leave out a day of return that has passed.</param>
    /// <remarks>Off for now wins over everything; then what is not counted has no limit; then stock and what may be sold beyond it.</remarks>
    public static Availability Of(Selling selling, StockLevel level, DateOnly today)
    {
        if (selling.OffForNow is { } off && !(off.Back is { } back && back <= today))
            return new Availability(0, off.Back is { } day ? $"Not on sale just now; back about {Day(day, today)}" : "Not on sale just now");
        if (selling.Counted == false) return new Availability(null, "");
        var available = level.Available;
        var inStock = Math.Max(0, available);
        return selling.Beyond switch
        {
            SellBeyond.Unlimited => new Availability(null, inStock == 0 ? "Made to order" : ""),
            SellBeyond.Units(var more) => new Availability(Math.Max(0, available + more), Left(inStock, available + more)),
            SellBeyond.OnOrder => new Availability(Math.Max(0, available + level.OnOrder), Left(inStock, available + level.OnOrder)),
            _ => new Availability(inStock, Left(inStock, inStock)),
        };
    }

    private static string Left(int inStock, int sellable) => inStock > 0 ? $"{inStock:N0} left" : sellable > 0 ? "None in stock; can be ordered" : "None left";

    private static string Day(DateOnly day, DateOnly today) => day.ToString(day.Year == today.Year ? "d MMMM" : "d MMMM yyyy", System.Globalization.CultureInfo.InvariantCulture);
}
