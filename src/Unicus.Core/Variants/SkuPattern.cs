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
        [
            new PatternPiece.Code(),
            .. options
                .Where(o => !o.SharesSku)
                .SelectMany(o => new PatternPiece[] { new PatternPiece.Text("-"), new PatternPiece.OfOption(o.Key) }),
        ];

    /// <summary>What each piece gives, made ready for many variants: for an option one text a value, else one text; null for a
    /// counter.</summary>
    internal static (string[]? Texts, int Option, int Width)[] Compile(
        ImmutableArray<PatternPiece> pattern,
        ProductCode code,
        IReadOnlyList<Option> options
    ) =>
        [
            .. pattern.Select(piece =>
                piece switch
                {
                    PatternPiece.Code => (new[] { code.Text }, -1, 0),
                    PatternPiece.Text p => (new[] { p.Literal }, -1, 0),
                    PatternPiece.OfOption p => options.Index().FirstOrDefault(o => o.Item.Key == p.Option)
                        is { Item: { } option, Index: var at }
                        ? ([.. option.Values.Select(v => v.SkuPiece)], at, 0)
                        : (new[] { "" }, -1, 0),
                    PatternPiece.Counter p => ((string[]?)null, -1, p.Width),
                    _ => throw new InvalidOperationException("A kind of pattern piece without a rule."),
                }
            ),
        ];

    /// <summary>The SKU text of one variant.</summary>
    /// <param name="made">The combinations of the options that the pieces were compiled for.</param>
    /// <param name="number">Which combination.</param>
    /// <param name="counter">What a counter shows, from 1.</param>
    internal static string Make((string[]? Texts, int Option, int Width)[] pieces, MadeSet made, int number, int counter)
    {
        var texts = new string[pieces.Length];
        for (var i = 0; i < pieces.Length; i++)
        {
            var (of, option, width) = pieces[i];
            texts[i] = of is null
                ? counter.ToString("D" + width, CultureInfo.InvariantCulture)
                : of[option < 0 ? 0 : made.ValueAt(number, option)];
        }
        return string.Concat(texts);
    }
}
