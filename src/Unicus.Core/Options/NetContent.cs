namespace Unicus.Core.Options;

using System.Globalization;
using Unicus.Core.Money;

/// <summary>How much of something one unit of goods holds.</summary>
/// <param name="Quantity">More than 0 and at most <see cref="Most"/>.</param>
/// <param name="Unit">One of <see cref="Units"/>.</param>
public sealed record NetContent(decimal Quantity, string Unit)
{
    /// <summary>The largest quantity.</summary>
    public const decimal Most = 1_000_000m;

    /// <summary>Decimal places of a quantity at most.</summary>
    public const int Decimals = 3;

    /// <summary>What people call a unit, its key, and how many of the measure's own unit it is.</summary>
    private sealed record Measure(string Unit, string Of, decimal Size);

    private static readonly Measure[] Measures =
    [
        new("g", "kg", 0.001m),
        new("kg", "kg", 1),
        new("ml", "l", 0.001m),
        new("cl", "l", 0.01m),
        new("l", "l", 1),
        new("mm", "m", 0.001m),
        new("cm", "m", 0.01m),
        new("m", "m", 1),
        new("piece", "piece", 1),
    ];

    /// <summary>The units that are understood.</summary>
    public static IEnumerable<string> Units => Measures.Select(m => m.Unit);

    /// <summary>Content up to so many kilograms or litres is priced by the hundred grams or millilitres.</summary>
    private const decimal Small = 0.25m;

    /// <summary>What the price of a unit comes to for a measure that goods can be compared by.</summary>
    /// <remarks>By the kilogram, litre, metre or piece (Directive 98/6/EC, Article 2); up to 250 g or ml by 100 g or 100 ml (common
    /// practice, no source). Rounded half away from zero.</remarks>
    public UnitPrice PriceOf(Money price)
    {
        var measure = Measures.First(m => m.Unit == Unit);
        var content = Quantity * measure.Size;
        return measure.Of is "kg" or "l" && content <= Small
            ? new UnitPrice(new Money(price.Amount / (content * 10), price.Currency), measure.Of == "kg" ? "100 g" : "100 ml")
            : new UnitPrice(new Money(price.Amount / content, price.Currency), measure.Of);
    }

    /// <summary>Reads content as people type it: <c>250 g</c>, <c>0.7 l</c>, <c>12 pieces</c>, <c>25</c> for pieces.</summary>
    /// <returns>Null where nothing is typed.</returns>
    public static Read<NetContent?> Parse(string? text)
    {
        var typed = (text ?? "").Trim();
        if (typed.Length == 0)
            return Read<NetContent?>.Of(null);
        var letters = new string([.. typed.Reverse().TakeWhile(char.IsLetter).Reverse()]);
        var unit = letters.ToLowerInvariant() switch
        {
            "" or "pieces" or "pcs" => "piece",
            "litre" or "litres" => "l",
            var named => named,
        };
        if (!Units.Contains(unit))
            return Read<NetContent?>.No($"“{letters}” is not a unit here. Use {string.Join(", ", Units)}.");
        var number = TypedNumbers.Number(typed[..^letters.Length], Decimals);
        return !number.Ok ? Read<NetContent?>.No(number.Problem!)
            : number.Value is <= 0 or > Most ? Read<NetContent?>.No($"Content is above 0 and at most {Most:N0}.")
            : Read<NetContent?>.Of(new NetContent(number.Value, unit));
    }

    /// <summary>“250 g”.</summary>
    public override string ToString() =>
        $"{Quantity.ToString("0.###", CultureInfo.InvariantCulture)} {(Unit == "piece" && Quantity != 1 ? "pieces" : Unit)}";
}

/// <summary>A price by a measure that goods can be compared by.</summary>
/// <param name="Price">For that measure.</param>
/// <param name="Per">“100 g”, “kg”, “100 ml”, “l”, “m” or “piece”.</param>
public sealed record UnitPrice(Money Price, string Per);
