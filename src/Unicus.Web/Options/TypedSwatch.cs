using System.Text.RegularExpressions;
using Unicus.Core;

namespace Unicus.Web.Options;

/// <summary>Labels, SKU codes and swatches of values as people type them.</summary>
public static partial class TypedSwatch
{
    public static string Write(Swatch? swatch) =>
        swatch switch
        {
            Swatch.Colour c => c.Hex,
            Swatch.Stripes s => string.Join(' ', s.Hexes),
            _ => "",
        };

    /// <summary>A value with the typed label, SKU code and swatch, unlike the other values of its option.</summary>
    public static Read<OptionValue> Value(Option option, OptionValue value, string? label, string? sku, string? colour)
    {
        var name = string.Join(' ', (label ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        if (name.Length is 0 or > TypedValues.LongestLabel)
            return Read<OptionValue>.No("A value needs a label of at most 120 characters.");
        if (option.Values.Any(v => v.Key != value.Key && string.Equals(v.Label, name, StringComparison.OrdinalIgnoreCase)))
            return Read<OptionValue>.No($"{option.Label} has a value {name} already.");
        var code = (sku ?? "").Trim();
        if (code.Length > 16 || (code.Length > 0 && !Sku.Parse(code).Ok))
            return Read<OptionValue>.No("A SKU code is 1 to 16 visible characters without blanks.");
        if (option.Values.Any(v => v.Key != value.Key && string.Equals(v.SkuPiece, code, StringComparison.OrdinalIgnoreCase)))
            return Read<OptionValue>.No($"The SKU code {code} is another value's already.");
        var hexes = (colour ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries);
        if (hexes.Any(h => !Hex().IsMatch(h)))
            return Read<OptionValue>.No("A swatch is a colour such as #a8623a, or several with blanks between for stripes.");
        Swatch? swatch = hexes.Length switch
        {
            0 => value.Swatch as Swatch.Picture,
            1 => new Swatch.Colour(hexes[0].ToLowerInvariant()),
            _ => new Swatch.Stripes([.. hexes.Select(h => h.ToLowerInvariant())]),
        };
        return Read<OptionValue>.Of(value with { Label = name, SkuCode = code.Length == 0 ? value.SkuCode : code, Swatch = swatch });
    }

    [GeneratedRegex(@"\A#[0-9a-fA-F]{6}\z")]
    private static partial Regex Hex();
}
