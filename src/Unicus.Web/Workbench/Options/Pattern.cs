using System.Collections.Immutable;
using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>The pattern of SKUs, at the foot of the chapter Options.</summary>
public sealed partial class OptionsChapter
{
    private const int Examples = 3;

    /// <summary>What rewriting would do, once it is asked for.</summary>
    public RewritePreview? Rewrite { get; private set; }

    private ImmutableArray<PatternPiece> Pieces =>
        Copy.Product.SkuPattern.IsEmpty ? SkuPattern.Default(Copy.Product.Options) : Copy.Product.SkuPattern;

    /// <summary>The pieces as the form sends them, with what they are called.</summary>
    public IReadOnlyList<(string Value, string Label)> PatternInForce =>
        [
            .. Pieces.Select(p =>
                p switch
                {
                    PatternPiece.Code => ("code", "product code"),
                    PatternPiece.Text t => ("text:" + t.Literal, $"text {t.Literal}"),
                    PatternPiece.OfOption o => (
                        "option:" + o.Option,
                        Copy.Product.Options.FirstOrDefault(x => x.Key == o.Option)?.Label ?? o.Option.Text
                    ),
                    PatternPiece.Counter c => ($"counter:{c.Width}", $"counter of {c.Width}"),
                    _ => throw new InvalidOperationException("A kind of pattern piece without a name."),
                }
            ),
        ];

    public IEnumerable<string> PatternExamples
    {
        get
        {
            var count = Copy.Matrix.Made.Count;
            return new[] { 0, count / 2, count - 1 }
                .Where(i => i >= 0)
                .Distinct()
                .Take(Examples)
                .Select(i => Copy.Matrix.PatternSku(i).Text);
        }
    }

    /// <summary>The longest that the pattern can make, against the limit.</summary>
    public string PatternLength
    {
        get
        {
            var longest = Pieces.Sum(p =>
                p switch
                {
                    PatternPiece.Code => Copy.Code.Length,
                    PatternPiece.Text t => t.Literal.Length,
                    PatternPiece.OfOption o => Copy.Product.Options.FirstOrDefault(x => x.Key == o.Option)
                        ?.Values.Max(v => v.SkuPiece.Length)
                        ?? 0,
                    PatternPiece.Counter c => c.Width,
                    _ => 0,
                }
            );
            return $"at most {longest} of {Sku.Longest} characters";
        }
    }

    public async Task<IActionResult> OnPostPattern(string[] piece, string? add, int? @out)
    {
        var texts = piece.Where((_, i) => i != @out).Concat(add is null ? [] : [add]).ToList();
        var read = texts.ConvertAll(Piece);
        if (read.Contains(null))
            return await Answer(
                Outcome.No("", "That piece cannot stand in a SKU: no blanks, commas, semicolons or quotes, at most 32 characters.")
            );
        return read.Count == 0
            ? await Answer(Outcome.No("", "A SKU needs at least one piece."))
            : await Answer(await rewrite.SetPattern(Code, [.. read.OfType<PatternPiece>()], Visit.Actor), canUndo: @out is not null);
    }

    public async Task<IActionResult> OnPostPreviewSkus()
    {
        Rewrite = await rewrite.Preview(Code);
        return await Answer(Outcome.Ok);
    }

    public async Task<IActionResult> OnPostRewriteSkus() =>
        await Answer(await rewrite.Run(Code, Visit.Actor), "SKUs rewritten; the former ones stay known", canUndo: true);

    private static PatternPiece? Piece(string text)
    {
        var (kind, of) = text.Split(':', 2) is [var k, var v] ? (k, v) : (text, "");
        return kind switch
        {
            "code" => new PatternPiece.Code(),
            "text" => Sku.Parse(of).Ok && of.Length <= 32 ? new PatternPiece.Text(of) : null,
            "option" => Key.TryParse(of, out var key) ? new PatternPiece.OfOption(key) : null,
            "counter" => int.TryParse(of, CultureInfo.InvariantCulture, out var width) && width is >= 1 and <= 9
                ? new PatternPiece.Counter(width)
                : null,
            _ => null,
        };
    }
}
