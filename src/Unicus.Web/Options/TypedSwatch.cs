using System.Text.RegularExpressions;

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
        var hexes = Hexes(colour ?? "");
        if (hexes is null)
            return Read<OptionValue>.No(
                "A swatch is a colour by its name, such as ochre or dark green, or as #a8623a; several with commas between make stripes."
            );
        Swatch? swatch = hexes.Length switch
        {
            0 => value.Swatch as Swatch.Picture,
            1 => new Swatch.Colour(hexes[0].ToLowerInvariant()),
            _ => new Swatch.Stripes([.. hexes.Select(h => h.ToLowerInvariant())]),
        };
        return Read<OptionValue>.Of(value with { Label = name, SkuCode = code.Length == 0 ? value.SkuCode : code, Swatch = swatch });
    }

    /// <summary>Colours by name or number, with blanks or commas between them; null where one is none.</summary>
    private static string[]? Hexes(string typed)
    {
        if (ColourNames.Find(typed) is { } one)
            return [one];
        var pieces = typed.Contains(',') ? typed.Split(',') : typed.Split(' ');
        var hexes = pieces.Select(p => p.Trim()).Where(p => p.Length > 0).Select(p => Hex().IsMatch(p) ? p : ColourNames.Find(p)).ToArray();
        return hexes.Any(h => h is null) ? null : [.. hexes.OfType<string>()];
    }

    /// <summary>The colour that the name of a value speaks of, to be proposed where it has no swatch yet; null for none.</summary>
    public static string? Proposed(OptionValue value) => value.Swatch is null ? ColourNames.In(value.Label) : null;

    [GeneratedRegex(@"\A#[0-9a-fA-F]{6}\z")]
    private static partial Regex Hex();
}
