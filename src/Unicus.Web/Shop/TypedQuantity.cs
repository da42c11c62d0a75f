using Unicus.Store;

namespace Unicus.Web.Shop;

/// <summary>A quantity as it was typed: whole units from 1, or what is wrong with it. It is never taken for another one.</summary>
/// <param name="Units">What is priced meanwhile: the least where it cannot be taken.</param>
/// <param name="Typed">What stands in the box.</param>
public sealed record TypedQuantity(int Units, string Typed, string? Problem)
{
    /// <summary>What nothing typed means: the units from which it is sold.</summary>
    public int Least { get; init; } = 1;

    /// <summary>Whether the page shows it by itself.</summary>
    public bool IsLeast => Problem is null && Units == Least;

    /// <summary>Reads what was typed; nothing is the least.</summary>
    public static TypedQuantity Read(string? typed, int least = 1)
    {
        if (string.IsNullOrWhiteSpace(typed))
            return Of(least, least);
        var read = TypedNumbers.Whole(typed, 1, Selling.MostUnits);
        return read.Value is { } units
            ? Of(units, least)
            : new TypedQuantity(least, TypedText.Line(typed), $"A quantity is a whole number from 1 to {Selling.MostUnits:N0}.")
            {
                Least = least,
            };
    }

    private static TypedQuantity Of(int units, int least) =>
        new(units, units.ToString(System.Globalization.CultureInfo.InvariantCulture), null) { Least = least };
}
