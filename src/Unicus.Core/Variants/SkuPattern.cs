using System.Collections.Immutable;
using System.Globalization;

namespace Unicus.Core;

/// <summary>One piece of the pattern by which SKUs are made.</summary>
public abstract record PatternPiece
{
    private PatternPiece() { }

    /// <summary>The product code.</summary>
    public sealed record Code : PatternPiece;

    /// <summary>Literal text.</summary>
    public sealed record Text(string Literal) : PatternPiece;

    /// <summary>The SKU code of the variant's value of an option.</summary>
    public sealed record OfOption(Key Option) : PatternPiece;

    /// <summary>A number counted up within the product, filled with zeros to a width of 1 to 9.</summary>
    public sealed record Counter(int Width) : PatternPiece;
}

/// <summary>An ordered list of pieces that makes a SKU for every variant.</summary>
public static class SkuPattern
{
    /// <summary>The pattern in force where none is set: the code and the SKU codes of all variant options, joined by hyphens.</summary>
    /// <remarks>An option that shares its SKU gives no piece.</remarks>
    public static ImmutableArray<PatternPiece> Default(IEnumerable<Option> options) =>
        [new PatternPiece.Code(), .. options.Where(o => !o.SharesSku).SelectMany(o => new PatternPiece[] { new PatternPiece.Text("-"), new PatternPiece.OfOption(o.Key) })];

    /// <summary>The SKU text of one variant.</summary>
    /// <param name="number">What a counter shows, from 1.</param>
    public static string Make(ImmutableArray<PatternPiece> pattern, ProductCode code, IReadOnlyList<Option> options, Combination values, int number) =>
        string.Concat(pattern.Select(piece => piece switch
        {
            PatternPiece.Code => code.Text,
            PatternPiece.Text p => p.Literal,
            PatternPiece.OfOption p => values[p.Option] is { } v && options.FirstOrDefault(o => o.Key == p.Option)?.Find(v) is { } value ? value.SkuPiece : "",
            PatternPiece.Counter p => number.ToString("D" + p.Width, CultureInfo.InvariantCulture),
            _ => throw new InvalidOperationException("A kind of pattern piece without a rule."),
        }));
}
