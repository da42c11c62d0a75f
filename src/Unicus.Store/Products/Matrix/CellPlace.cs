namespace Unicus.Store;

/// <summary>Where a cell of the matrix is: the variant by the text of its values, and the name of the figure.</summary>
/// <remarks>Faults of cells say it as <c>values|figure</c>, which the page splits at the last bar.</remarks>
public readonly record struct CellPlace(string Values, string Figure)
{
    /// <summary>Reads the place that a fault names; the figure is empty where it names none.</summary>
    public static CellPlace Parse(string text) =>
        text.LastIndexOf('|') is >= 0 and var cut ? new(text[..cut], text[(cut + 1)..]) : new(text, "");

    /// <inheritdoc/>
    public override string ToString() => $"{Values}|{Figure}";
}
