using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Shop;

/// <summary>A quantity as it was typed: whole units from 1, or what is wrong with it. It is never taken for another one.</summary>
/// <param name="Units">What is priced meanwhile: 1 where it cannot be taken.</param>
/// <param name="Typed">What stands in the box.</param>
public sealed record TypedQuantity(int Units, string Typed, string? Problem)
{
    /// <summary>Nothing typed is one.</summary>
    public static TypedQuantity Read(string? typed)
    {
        if (string.IsNullOrWhiteSpace(typed))
            return Of(1);
        var read = TypedNumbers.Whole(typed, 1, BasketRequest.MostUnits);
        return read.Value is { } units
            ? Of(units)
            : new TypedQuantity(1, TypedText.Line(typed), $"A quantity is a whole number from 1 to {BasketRequest.MostUnits:N0}.");
    }

    private static TypedQuantity Of(int units) => new(units, units.ToString(System.Globalization.CultureInfo.InvariantCulture), null);
}
