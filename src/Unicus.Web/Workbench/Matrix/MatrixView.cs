using System.Collections.Immutable;
using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>One row of the grid.</summary>
public sealed record GridRow(string Band, string Label, string Code, string Pick, IReadOnlyList<Combination> Cells);

/// <summary>The matrix as it is shown: rows, or a grid of one figure.</summary>
public sealed class MatrixView(WorkingCopy copy, bool isGrid, string figure, int page)
{
    private const int RowsPerPage = 200;

    public bool IsGrid => isGrid;
    public int PageNumber => Math.Clamp(page, 1, Pages);
    public int Pages => Math.Max(1, (Total + RowsPerPage - 1) / RowsPerPage);
    public bool ShowsMargin => figure == "margin";
    public CellFigure Figure => MatrixCells.Find(figure) ?? MatrixCells.Figures[0];
    public ImmutableArray<Option> Options => copy.Product.Options;

    /// <summary>The last option goes across, if it is not too long a list.</summary>
    public Option? Across => Options.Length > 1 ? Options[^1] : null;

    public Option? Down => Options.Length > 1 ? Options[^2] : Options.FirstOrDefault();

    public IEnumerable<MatrixVariant> Shown => copy.Matrix.Variants.Skip((PageNumber - 1) * RowsPerPage).Take(RowsPerPage);

    /// <summary>The combinations that are not made, on the last page.</summary>
    public IEnumerable<Combination> NotMade => PageNumber < Pages ? [] : Enumerable.Range(0, copy.Matrix.Made.Combinations).Where(n => !copy.Matrix.Made.IsMade(n)).Select(n => copy.Matrix.Made.At(n));

    public IEnumerable<GridRow> GridRows => AllGridRows().Skip((PageNumber - 1) * RowsPerPage).Take(RowsPerPage);

    private int Total => isGrid ? Math.Max(1, copy.Matrix.Made.Combinations / Math.Max(1, Across?.Values.Length ?? 1)) : copy.Matrix.Variants.Count;

    public MatrixVariant? Find(Combination values) => copy.Matrix.Find(values);

    public string Text(MatrixVariant v, string name) => MatrixCells.Find(name)!.Show(copy, v).Text;

    /// <summary>The class that tells own, from a value and from the product apart.</summary>
    public string Class(MatrixVariant v, string name) => MatrixCells.Find(name)!.Show(copy, v).Source switch { FigureSource.Own when name is not ("stock" or "sku") => "own", FigureSource.Own => "plain", FigureSource.Value => "inh from-value", _ => "inh" };

    public string Left(MatrixVariant v) => Margins.Of(copy, v)?.Left.ForPeople() ?? "";

    public string Margin(MatrixVariant v) => Margins.Of(copy, v)?.Margin is { } m ? $"{m:0.0} %" : "";

    public bool Loses(MatrixVariant v) => Margins.Of(copy, v) is { Left.Amount: < 0 };

    private IEnumerable<GridRow> AllGridRows()
    {
        if (Down is null) yield break;
        var bands = Options.Length > 2 ? Options.RemoveRange(Options.Length - 2, 2) : [];
        var bandSet = new MadeSet(bands, []);
        for (var b = 0; b < bandSet.Combinations; b++)
        {
            var band = bandSet.At(b);
            foreach (var value in Down.Values)
            {
                var row = band.With(Down.Key, value.Key);
                IReadOnlyList<Combination> cells = Across is null ? [row] : [.. Across.Values.Select(a => row.With(Across.Key, a.Key))];
                yield return new GridRow(band.Name(bands), value.Label, value.SkuPiece, $"{Down.Key}={value.Key}", cells);
            }
        }
    }
}

/// <summary>A bulk change as it stands in its bar.</summary>
public sealed record BulkView(string Here, string ViewName, ImmutableArray<string> Select, string Sentence, int Count, string Figure, BulkOperation Operation, string? Amount, string? Ending, ImmutableArray<BulkRow> Rows, string? Problem)
{
    public static IReadOnlyList<(BulkOperation, string)> Operations { get; } =
        [(BulkOperation.Add, "add"), (BulkOperation.Subtract, "subtract"), (BulkOperation.Percent, "add per cent"), (BulkOperation.Set, "set to"), (BulkOperation.Clear, "inherit again")];
}
