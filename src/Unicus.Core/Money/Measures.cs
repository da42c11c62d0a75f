namespace Unicus.Core.Money;

using System.Globalization;

/// <summary>A size as it was typed.</summary>
/// <param name="Length">In millimetres, like the others.</param>
/// <param name="Width">In whole millimetres.</param>
/// <param name="Height">In whole millimetres.</param>
/// <param name="Unit">That of the last side.</param>
public sealed record TypedSize(int Length, int Width, int Height, string Unit);

/// <summary>Weights and lengths in the unit that was typed, kept as whole grams and millimetres.</summary>
/// <remarks>An avoirdupois pound is 453.59237 g and an inch 25.4 mm exactly (the international yard and pound of 1959, from
/// memory).</remarks>
public static class Measures
{
    private static readonly (string Unit, decimal Size)[] Weights = [("kg", 1000m), ("g", 1m), ("oz", 453.59237m / 16), ("lb", 453.59237m)];
    private static readonly (string Unit, decimal Size)[] Lengths = [("mm", 1m), ("cm", 10m), ("m", 1000m), ("in", 25.4m)];

    /// <summary>Units as people write them out, in the singular.</summary>
    private static readonly Dictionary<string, string> Names = new()
    {
        ["gram"] = "g",
        ["gramme"] = "g",
        ["kilogram"] = "kg",
        ["kilogramme"] = "kg",
        ["kilo"] = "kg",
        ["ounce"] = "oz",
        ["pound"] = "lb",
        ["millimetre"] = "mm",
        ["millimeter"] = "mm",
        ["centimetre"] = "cm",
        ["centimeter"] = "cm",
        ["metre"] = "m",
        ["meter"] = "m",
        ["inch"] = "in",
        ["inche"] = "in",
    };

    /// <summary>The units of weight that are understood.</summary>
    public static IEnumerable<string> WeightUnits => Weights.Select(w => w.Unit);

    /// <summary>The units of length that are understood.</summary>
    public static IEnumerable<string> LengthUnits => Lengths.Select(l => l.Unit);

    /// <summary>Reads a weight such as <c>11.5 kg</c>, <c>12 oz</c>, or a bare number in <paramref name="unit"/>.</summary>
    /// <returns>Whole grams, rounded half away from zero, up to 100,000 kg; and the unit that was meant.</returns>
    public static Read<(int Size, string Unit)?> Weight(string? text, string unit = "g") =>
        Parse(text, unit, Weights, 100_000_000, "g, kg, oz or lb");

    /// <summary>Reads a length such as <c>46 cm</c>, <c>4 in</c>, or a bare number in <paramref name="unit"/>.</summary>
    /// <returns>Whole millimetres, rounded half away from zero, up to 100 m; and the unit that was meant.</returns>
    public static Read<(int Size, string Unit)?> Length(string? text, string unit = "cm") =>
        Parse(text, unit, Lengths, 100_000, "mm, cm, m or in");

    /// <summary>Reads length, width and height such as <c>64 × 40 × 3 cm</c>; x and * do for ×. A side without a unit has that of the next
    /// one that has.</summary>
    /// <returns>Whole millimetres as for <see cref="Length"/>, or null where nothing is typed; and the unit of the last side.</returns>
    public static Read<TypedSize?> Size(string? text, string unit = "cm")
    {
        var typed = (text ?? "").Trim();
        if (typed.Length == 0)
            return Read<TypedSize?>.Of(null);
        var sides = typed.Split(['×', 'x', 'X', '*'], StringSplitOptions.TrimEntries);
        if (sides.Length != 3)
            return Read<TypedSize?>.No("A size is length × width × height, such as 64 × 40 × 3 cm.");
        var sizes = new int[3];
        var last = unit;
        for (var i = 2; i >= 0; i--)
        {
            var read = Length(sides[i], last);
            if (!read.Ok)
                return Read<TypedSize?>.No(read.Problem!);
            if (read.Value is not { } side)
                return Read<TypedSize?>.No("A size has three sides, such as 64 × 40 × 3 cm.");
            (sizes[i], last) = (side.Size, side.Unit);
            if (i == 2)
                unit = side.Unit;
        }
        return Read<TypedSize?>.Of(new TypedSize(sizes[0], sizes[1], sizes[2], unit));
    }

    /// <summary>A weight for people in one unit, with as many decimals as it needs, three at most.</summary>
    public static string ShowWeight(int grams, string unit) => Show(grams, unit, Weights);

    /// <summary>A length for people in one unit, with as many decimals as it needs, three at most.</summary>
    public static string ShowLength(int millimetres, string unit) => Show(millimetres, unit, Lengths);

    private static string Show(int size, string unit, (string Unit, decimal Size)[] units)
    {
        var scale = units.FirstOrDefault(u => u.Unit == unit);
        if (scale.Unit is null)
            scale = units[0];
        var rounded = scale.Size is 1m or 10m or 1000m
            ? size / scale.Size
            : Math.Round(size / scale.Size, 2, MidpointRounding.AwayFromZero);
        return $"{rounded.ToString("#,0.###", CultureInfo.InvariantCulture)} {scale.Unit}";
    }

    private static Read<(int, string)?> Parse(string? text, string unit, (string Unit, decimal Size)[] units, int most, string names)
    {
        var typed = (text ?? "").Trim();
        if (typed.Length == 0)
            return Read<(int, string)?>.Of(null);
        var letters = new string([.. typed.Reverse().TakeWhile(c => char.IsLetter(c) || c is '"').Reverse()]);
        var named =
            letters.Length == 0 ? unit
            : letters is "\"" ? "in"
            : letters.ToLowerInvariant();
        named = Names.GetValueOrDefault(named.TrimEnd('s'), named);
        var scale = units.FirstOrDefault(u => u.Unit == named || u.Unit + "s" == named);
        if (scale.Unit is null)
            return Read<(int, string)?>.No($"“{letters}” is not a unit here. Use {names}.");
        var number = TypedNumbers.Number(typed[..^letters.Length], 3);
        if (!number.Ok)
            return Read<(int, string)?>.No(number.Problem!);
        if (number.Value < 0)
            return Read<(int, string)?>.No("A measure is not negative.");
        if (number.Value * scale.Size > most)
            return Read<(int, string)?>.No("That is more than can be meant.");
        return Read<(int, string)?>.Of(((int)Math.Round(number.Value * scale.Size, MidpointRounding.AwayFromZero), scale.Unit));
    }
}
