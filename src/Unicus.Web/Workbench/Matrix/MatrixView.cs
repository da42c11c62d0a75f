using System.Collections.Immutable;
using Microsoft.AspNetCore.Http.Extensions;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>How the matrix is looked at, as the address says it.</summary>
/// <param name="View">rows, grid, or empty for what suits the size.</param>
/// <param name="Figure">The figure of the grid.</param>
/// <param name="Band">The option whose values are the widest bands of the grid.</param>
/// <param name="Columns">The figures of the rows.</param>
/// <param name="From">The first row of the window, from 0.</param>
/// <param name="Rows">How many rows the window should have at least: as many as are seen.</param>
public sealed record MatrixLook(
    string View,
    string Figure,
    string Down,
    string Across,
    string Band,
    bool Tint,
    ImmutableArray<string> Columns,
    MatrixFilter Filter,
    int From,
    int Rows = 0
)
{
    public static ImmutableArray<string> UsualColumns { get; } = ["price", "cost", "stock", "sku"];

    public static MatrixLook Read(HttpRequest request)
    {
        string Of(string name) =>
            request.HasFormContentType && request.Form[name].ToString() is { Length: > 0 } typed ? typed : request.Query[name].ToString();
        var picks = request.HasFormContentType && request.Form.ContainsKey("pick") ? request.Form["pick"] : request.Query["pick"];
        var columns = Of("columns")
            .Split(',', StringSplitOptions.RemoveEmptyEntries)
            .Where(c => MatrixFigures.Find(c) is not null)
            .Distinct()
            .ToImmutableArray();
        var filter = new MatrixFilter(
            [.. picks.OfType<string>()],
            MatrixFilter.States.Any(s => s.Key == Of("state")) ? Of("state") : "",
            Of("find").Trim(),
            MatrixFigures.Find(Of("sort").TrimStart('-')) is null ? "" : Of("sort")
        );
        return new MatrixLook(
            Of("view"),
            MatrixFigures.Find(Of("figure"))?.Name ?? "price",
            Of("down"),
            Of("across"),
            Of("band"),
            Of("tint") == "1",
            columns.IsEmpty ? UsualColumns : columns,
            filter,
            int.TryParse(Of("from"), out var from) && from > 0 ? from : 0,
            int.TryParse(Of("rows"), out var rows) ? Math.Clamp(rows, 0, 200) : 0
        );
    }

    /// <summary>The address of this look with some things changed.</summary>
    public string With(params (string Name, string Value)[] changed)
    {
        var all = new List<(string Name, string Value)>
        {
            ("view", View),
            ("figure", Figure == "price" ? "" : Figure),
            ("down", Down),
            ("across", Across),
            ("band", Band),
            ("tint", Tint ? "1" : ""),
            ("columns", Columns.SequenceEqual(UsualColumns) ? "" : string.Join(',', Columns)),
            ("state", Filter.State),
            ("find", Filter.Text),
            ("sort", Filter.Sort),
        };
        foreach (var (name, value) in changed)
        {
            all.RemoveAll(a => a.Name == name);
            all.Add((name, value));
        }
        if (changed.All(c => c.Name != "pick"))
            all.AddRange(Filter.Picks.Select(p => ("pick", p)));
        var query = new QueryBuilder(all.Where(a => a.Value.Length > 0).Select(a => KeyValuePair.Create(a.Name, a.Value)));
        return query.ToString() is { Length: > 0 } text ? text : "?";
    }

    /// <summary>Sorts by a column: rising, falling, then as the options stand.</summary>
    public string SortBy(string figure) =>
        With(
            (
                "sort",
                Filter.Sort == figure ? "-" + figure
                : Filter.Sort == "-" + figure ? ""
                : figure
            )
        );
}

/// <summary>One row of the grid.</summary>
public sealed record GridRow(string Band, string Label, string Code, string Pick, IReadOnlyList<Combination> Cells);

/// <summary>The matrix as it is shown: a window of rows, or of a grid of one figure. What is outside the window is neither loaded nor in
/// the page.</summary>
public sealed class MatrixView
{
    private const int RowsInWindow = 48;
    private const int CellsInWindow = 96;
    private const int MostAcross = 40;
    private const int RowsUpTo = 30;

    private readonly WorkingCopy _copy;
    private readonly MatrixFrame _frame;
    private readonly Lazy<(decimal Low, decimal High)> _scale;

    public MatrixView(WorkingCopy copy, MatrixLook look)
    {
        (_copy, Look) = (copy, look);
        _frame = new MatrixFrame(copy.Product, copy.Matrix.Made, look, look.Filter.LooksAtFigures ? look.Filter.Find(copy) : null);
        _scale = new Lazy<(decimal, decimal)>(() => Scale());
    }

    public MatrixLook Look { get; }

    /// <summary>Whether it shows this very copy.</summary>
    public bool IsOf(WorkingCopy copy) => ReferenceEquals(copy, _copy);

    public bool IsGrid => _frame.IsGrid;
    public CellFigure Figure => MatrixFigures.Find(Look.Figure)!;
    public IEnumerable<CellFigure> Columns => Look.Columns.Select(c => MatrixFigures.Find(c)!);

    /// <summary>The product's own rules that set prices by SKU, each of which can be a column.</summary>
    public IEnumerable<PriceRule> Dated => DatedPrices.Of(_copy.Product);

    /// <summary>What stands above a column.</summary>
    public string Heading(CellFigure figure) =>
        DatedPrices.RuleOf(figure.Name) is { } rule ? Dated.FirstOrDefault(r => r.Key == rule)?.Name ?? figure.Label : figure.Label;

    public IEnumerable<CellFigure> MoreColumns => MatrixFigures.All.Where(f => !Look.Columns.Contains(f.Name) && f.Name != "margin");
    public bool ShowsLeft => Look.Columns.Contains("price") && Look.Columns.Contains("cost");
    public ImmutableArray<Option> Options => _copy.Product.Options;
    public Option? Across => _frame.Across;
    public Option? Down => _frame.Down;
    public Option? Band => _frame.Band;

    /// <summary>Rows over all windows.</summary>
    public int Total => _frame.Total;

    public int From => _frame.From;
    public int Count => _frame.Count;
    public bool HasPictures =>
        Options.Length > 0 && !Look.Columns.Contains("picture") && _copy.Product.Pictures.Any(p => p.Shows is not null);

    /// <summary>Whether a single variant can become a product of its own.</summary>
    public bool Splits => Total > 1 && Options.All(o => !o.SharesSku);

    public IEnumerable<MatrixVariant> Shown => _frame.Numbers.Select(_copy.Matrix.At);

    /// <summary>The combinations that are not made, of a matrix that is small enough to show them all.</summary>
    public IEnumerable<Combination> NotMade =>
        _copy.Matrix.Made.Combinations > RowsInWindow || !Look.Filter.IsNone
            ? []
            : Enumerable.Range(0, _copy.Matrix.Made.Combinations).Where(n => !_copy.Matrix.Made.IsMade(n)).Select(_copy.Matrix.Made.At);

    public IEnumerable<GridRow> GridRows => _frame.GridRows;

    /// <summary>The combinations that the window shows, for loading.</summary>
    public static VariantScope Scope(Product product, MatrixLook look) =>
        look.Filter.LooksAtFigures
            ? VariantScope.All
            : VariantScope.Of(new MatrixFrame(product, new MadeSet(product.Options, product.NotMade), look, null).Cells);

    public MatrixVariant? Find(Combination values) => _copy.Matrix.Find(values);

    public string Text(MatrixVariant v, string name) => MatrixFigures.Find(name)!.Show(_copy, v).Text;

    /// <summary>The class that tells own, from a value and from the product apart.</summary>
    public string Class(MatrixVariant v, string name)
    {
        var source = MatrixFigures.Find(name)!.Show(_copy, v).Source switch
        {
            FigureSource.Own when name is not ("stock" or "available" or "sku" or "gtin" or "note") => "own",
            FigureSource.Own => "plain",
            FigureSource.Value => "inh from-value",
            _ => "inh",
        };
        return IsGrid && Look.Tint ? $"{source} {Tinted(v)}" : source;
    }

    public string Left(MatrixVariant v) => Margins.Of(_copy.Matrix, _copy.Shop.Terms, v)?.Left.ForPeople() ?? "";

    public string Margin(MatrixVariant v) => Margins.Of(_copy.Matrix, _copy.Shop.Terms, v)?.Margin is { } m ? $"{m:0.0} %" : "";

    public bool Loses(MatrixVariant v) => Margins.Of(_copy.Matrix, _copy.Shop.Terms, v) is { Left.Amount: < 0 };

    public ProductPicture? Picture(MatrixVariant v) => _copy.Product.PictureOf(v.Variant).Picture;

    private string Tinted(MatrixVariant v)
    {
        if (Figure.Number?.Invoke(_copy, v) is not { } n)
            return "";
        var (low, high) = _scale.Value;
        return high <= low ? "tint-2" : $"tint-{(int)Math.Min(4, (n - low) / (high - low) * 5)}";
    }

    private (decimal, decimal) Scale()
    {
        var variants = _copy.IsWhole ? _copy.Matrix.Offered : _frame.GridRows.SelectMany(r => r.Cells).Select(Find).OfType<MatrixVariant>();
        var numbers = variants.Select(v => Figure.Number?.Invoke(_copy, v)).OfType<decimal>().DefaultIfEmpty().ToList();
        return (numbers.Min(), numbers.Max());
    }

    /// <summary>Which combinations are in the window, worked out from the definition alone.</summary>
    private sealed class MatrixFrame
    {
        private readonly ImmutableArray<Option> _bands;
        private readonly MadeSet _made;
        private readonly IReadOnlyList<int> _numbers;

        public MatrixFrame(Product product, MadeSet made, MatrixLook look, IReadOnlyList<int>? found)
        {
            _made = made;
            var options = product.Options;
            IsGrid =
                options.Length > 0
                && (look.View == "grid" || (look.View != "rows" && made.Count > RowsUpTo && options.Length > 1 && look.Filter.IsNone));
            var band = options.Length > 2 ? Chosen(options, look.Band) : null;
            Across =
                options.Length < 2
                    ? null
                    : Chosen(options.Where(o => o != band), look.Across)
                        ?? options.LastOrDefault(o => o != band && o.Values.Length <= MostAcross && o.Key.Text != look.Down);
            Down =
                Chosen(options.Where(o => o != band), look.Down) is { } d && d != Across
                    ? d
                    : options.LastOrDefault(o => o != Across && o != band);
            _bands = [.. options.Where(o => o != Across && o != Down).OrderByDescending(o => o == band)];
            _numbers = found ?? look.Filter.ByValues(made);
            Total = IsGrid ? _bands.Aggregate(Down?.Values.Length ?? 1, (n, o) => n * o.Values.Length) : _numbers.Count;
            var window = Math.Max(
                look.Rows,
                IsGrid ? Math.Clamp(CellsInWindow / (Across?.Values.Length ?? 1), 12, RowsInWindow) : RowsInWindow
            );
            From = Math.Clamp(look.From, 0, Math.Max(0, Total - 1));
            Count = Math.Min(window, Total - From);
        }

        public bool IsGrid { get; }
        public Option? Across { get; }
        public Option? Down { get; }
        public Option? Band => _bands.FirstOrDefault();
        public int Total { get; }
        public int From { get; }
        public int Count { get; }
        public IEnumerable<int> Numbers => _numbers.Skip(From).Take(Count);

        public IEnumerable<Combination> Cells => IsGrid ? GridRows.SelectMany(r => r.Cells) : Numbers.Select(n => _made.At(n));

        public IEnumerable<GridRow> GridRows
        {
            get
            {
                if (Down is null)
                    yield break;
                var bands = new MadeSet(_bands, []);
                for (var at = From; at < From + Count; at++)
                {
                    var band = bands.At(at / Down.Values.Length);
                    var value = Down.Values[at % Down.Values.Length];
                    var row = band.With(Down.Key, value.Key);
                    IReadOnlyList<Combination> cells = Across is null ? [row] : [.. Across.Values.Select(a => row.With(Across.Key, a.Key))];
                    yield return new GridRow(band.Name(_bands), value.Label, value.SkuPiece, $"{Down.Key}={value.Key}", cells);
                }
            }
        }

        private static Option? Chosen(IEnumerable<Option> options, string key) => options.FirstOrDefault(o => o.Key.Text == key);
    }
}

/// <summary>A bulk change as it stands in its bar.</summary>
public sealed record BulkView(
    string Here,
    MatrixLook Look,
    ImmutableArray<string> Values,
    string Sentence,
    BulkRequest Request,
    BulkPreview Preview
)
{
    public static IReadOnlyList<(BulkOperation, string)> Operations { get; } =
    [
        (BulkOperation.Add, "add"),
        (BulkOperation.Subtract, "subtract"),
        (BulkOperation.Percent, "add per cent"),
        (BulkOperation.Set, "set to"),
        (BulkOperation.Copy, "copy from"),
        (BulkOperation.Round, "round only"),
        (BulkOperation.Split, "split a total of"),
        (BulkOperation.Clear, "inherit again"),
    ];

    /// <summary>The figures that can be chosen in the bar.</summary>
    public static IReadOnlyList<CellFigure> Figures { get; } =
    [
        .. MatrixFigures.InBulk.Select(f => MatrixFigures.Find(f.Name)!),
        MatrixFigures.Find(BulkRequest.Stock)!,
        .. MatrixFigures.All.Where(f => MatrixFigures.IsTextInBulk(f.Name)),
    ];

    public string Old(BulkRow row) =>
        row.Changed is null
            ? row.Old is { } n
                ? Preview.Text(n)
                : "none"
            : row.Texts.Old.Length > 0
                ? row.Texts.Old
                : "none";

    public string New(BulkRow row) =>
        row.Changed is null
            ? row.New is { } n
                ? Preview.Text(n)
                : "inherited"
            : row.Texts.New.Length > 0
                ? row.Texts.New
                : "inherited";
}
