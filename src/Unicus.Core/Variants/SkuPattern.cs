namespace Unicus.Core.Variants;

using System.Collections.Immutable;
using System.Globalization;
using Unicus.Core.Options;
using Unicus.Core.Rules;

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

    /// <summary>What each piece gives, made ready for many variants.</summary>
    internal static CompiledPiece[] Compile(ImmutableArray<PatternPiece> pattern, ProductCode code, IReadOnlyList<Option> options) =>
        [
            .. pattern.Select(piece =>
                piece switch
                {
                    PatternPiece.Code => CompiledPiece.Of(code.Text),
                    PatternPiece.Text p => CompiledPiece.Of(p.Literal),
                    PatternPiece.OfOption p => options.Index().FirstOrDefault(o => o.Item.Key == p.Option)
                        is { Item: { } option, Index: var at }
                        ? new CompiledPiece([.. option.Values.Select(v => v.SkuPiece)], at, 0)
                        : CompiledPiece.Of(""),
                    PatternPiece.Counter p => new CompiledPiece(null, -1, p.Width),
                    _ => throw new InvalidOperationException("A kind of pattern piece without a rule."),
                }
            ),
        ];

    /// <summary>The SKU text of one variant.</summary>
    /// <param name="pieces">In their order.</param>
    /// <param name="made">The combinations of the options that the pieces were compiled for.</param>
    /// <param name="number">Which combination.</param>
    /// <param name="counter">What a counter shows, from 1.</param>
    internal static string Make(CompiledPiece[] pieces, MadeSet made, int number, int counter)
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

/// <summary>What a piece of a pattern gives.</summary>
/// <param name="Texts">For an option one text a value, else one text; null for a counter.</param>
/// <param name="Option">The place of its option; −1 for none.</param>
/// <param name="Width">The digits of a counter.</param>
internal sealed record CompiledPiece(string[]? Texts, int Option, int Width)
{
    /// <summary>The same text for every variant.</summary>
    public static CompiledPiece Of(string text) => new([text], -1, 0);
}
