using System.Collections.Immutable;
using System.Globalization;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>A cell of a sheet that would change, or cannot be taken.</summary>
/// <param name="Line">The line of the file.</param>
public sealed record SheetChange(int Line, string Code, string Variant, string Column, string Old, string New);

/// <param name="Column">The heading, or empty for the whole row.</param>
public sealed record SheetFault(int Line, string Column, string What);

/// <summary>Everything that an import would do.</summary>
public sealed record SheetPlan(
    int Rows,
    IReadOnlyList<SheetChange> Changes,
    IReadOnlyList<SheetFault> Faults,
    IReadOnlyList<string> UnknownColumns,
    IReadOnlyList<SheetMade> Made
)
{
    public bool CanApply => Faults.Count == 0 && Changes.Count + Made.Count > 0;
}

/// <summary>How far an import is; read by others while it runs.</summary>
public sealed class SheetProgress
{
    public SheetPhase Phase { get; set; }
    public int Done { get; set; }
    public int Total { get; set; }
}

/// <summary>Takes figures from a spreadsheet: shows every change and every fault first, then writes all of it or nothing.</summary>
public sealed class SheetImport(UnicusContext db, TimeProvider clock, ChangeProduct products, SheetProducts making)
{
    /// <summary>Tries the import in a transaction that is taken back.</summary>
    /// <param name="code">One product, or null for the range; then each row names its product.</param>
    public async Task<Outcome<SheetPlan>> DryRun(
        string? code,
        byte[] content,
        string fileName,
        Actor by,
        SheetProgress? progress = null,
        CancellationToken stop = default
    )
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var plan = await Work(code, content, fileName, by, isTry: true, progress, stop);
        await transaction.RollbackAsync(stop);
        db.ChangeTracker.Clear();
        return plan;
    }

    /// <summary>Writes the import in one transaction.</summary>
    public async Task<Outcome<SheetPlan>> Run(
        string? code,
        byte[] content,
        string fileName,
        Actor by,
        SheetProgress? progress = null,
        CancellationToken stop = default
    )
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var plan = await Work(code, content, fileName, by, isTry: false, progress, stop);
        stop.ThrowIfCancellationRequested();
        if (plan.Done && plan.Result!.CanApply)
            await transaction.CommitAsync(CancellationToken.None);
        return plan;
    }

    private async Task<Outcome<SheetPlan>> Work(
        string? code,
        byte[] content,
        string fileName,
        Actor by,
        bool isTry,
        SheetProgress? progress,
        CancellationToken stop
    )
    {
        var read = SheetFile.Read(content, fileName, stop);
        if (!read.Ok)
            return Outcome<SheetPlan>.No("file", read.Problem!);
        var table = read.Value!;
        progress ??= new SheetProgress();
        (progress.Total, progress.Phase) = (table.Rows.Count, SheetPhase.Comparing);
        var columns = table.Headings.Select(Column).ToList();
        var faults = new List<SheetFault>();
        var unknown = table.Headings.Where((h, i) => columns[i] is null && h.Length > 0).ToList();
        foreach (
            var twice in table
                .Headings.Where(h => h.Length > 0)
                .GroupBy(h => h, StringComparer.OrdinalIgnoreCase)
                .Where(g => g.Skip(1).Any())
        )
            faults.Add(new SheetFault(1, twice.Key, "This column stands here twice."));
        var codeAt = columns.IndexOf(SheetColumns.Code);
        var nameAt = columns.IndexOf(SheetColumns.Product);
        if (code is null && codeAt < 0 && nameAt < 0)
            return Outcome<SheetPlan>.No(
                "file",
                $"A sheet of the whole range needs a column “{SheetColumns.Code}”, or “{SheetColumns.Product}” to make products."
            );
        if (!columns.Exists(c => c is not null && IsRead(c)))
            return Outcome<SheetPlan>.No(
                "file",
                "No column of figures was found. They are called "
                    + $"{string.Join(", ", SheetColumns.Figures.Where(f => !SheetColumns.IsWorkedOut(f.Figure)).Select(f => f.Heading))}."
            );

        var (changes, made) = (new List<SheetChange>(), new List<SheetMade>());
        var sorted = await making.Sorted(code, table.Rows, codeAt, nameAt, faults);
        var drafts = await making.Drafts(sorted.Fresh, table.Headings, columns, faults, progress, stop);
        made.AddRange(drafts.Select(d => new SheetMade(d.Line, d.Product.Code.Text, d.Product.Name, d.InWords())));
        if (!isTry && faults.Count == 0)
            await making.Insert(drafts, faults, by, stop);
        foreach (var (known, rows) in sorted.Known)
        {
            made.AddRange(await making.MakeValues(known, rows, columns, faults, by));
            await One(known, rows, table.Headings, columns, codeAt, changes, faults, by, progress, stop);
            db.ChangeTracker.Clear();
        }
        return Outcome<SheetPlan>.Of(new SheetPlan(table.Rows.Count, changes, [.. faults.OrderBy(f => f.Line)], unknown, made));
    }

    private static bool IsRead(string column) =>
        SheetMaking.Texts.Contains(column)
        || column.StartsWith(SheetColumns.OptionPrefix, StringComparison.Ordinal)
        || (MatrixFigures.Find(column) is not null && !SheetColumns.IsWorkedOut(column));

    /// <summary>The product with the texts that a sheet has of it; each that differs is told.</summary>
    private static Product WithTexts(
        WorkingCopy copy,
        List<SheetRow> rows,
        IReadOnlyList<string> headings,
        List<string?> columns,
        List<SheetChange> changes
    )
    {
        var product = copy.Product;
        foreach (var (at, column) in columns.Index())
        {
            if (column is null || !SheetMaking.Texts.Contains(column) || SheetMaking.First(rows, at) is not { Length: > 0 } typed)
                continue;
            var after = SheetMaking.With(product, column, typed);
            if (after == product)
                continue;
            var field = ProductFields.All[column == "part number" ? "partNumber" : column];
            var line = rows.First(r => Cell(r.Cells, at).Length > 0).Line;
            changes.Add(new SheetChange(line, copy.Row.Code, copy.Product.Name, headings[at], field.Show(copy), typed));
            product = after;
        }
        return product;
    }

    private async Task One(
        string code,
        List<SheetRow> rows,
        IReadOnlyList<string> headings,
        List<string?> columns,
        int codeAt,
        List<SheetChange> changes,
        List<SheetFault> faults,
        Actor by,
        SheetProgress progress,
        CancellationToken stop
    )
    {
        stop.ThrowIfCancellationRequested();
        var lineOf = new Dictionary<string, int>();
        var counts = new List<CellEdit>();
        var outcome = await products.Apply(
            code,
            "Figures from a sheet",
            by,
            copy =>
            {
                var bySku =
                    rows.Count > 0 && !columns.Exists(c => c?.StartsWith(SheetColumns.OptionPrefix, StringComparison.Ordinal) == true);
                var changed = new Dictionary<string, Variant>();
                var options = copy.Product.Options.Select(o => (Option: o, At: SheetProducts.OptionColumn(columns, o))).ToList();
                progress.Phase = SheetPhase.Comparing;
                foreach (var (line, cells) in rows)
                {
                    stop.ThrowIfCancellationRequested();
                    progress.Done++;
                    if (Find(copy, line, cells, options, bySku, columns, faults) is not { } variant)
                        continue;
                    if (!lineOf.TryAdd(variant.Values.Text, line))
                    {
                        faults.Add(new SheetFault(line, "", $"This variant stands on line {lineOf[variant.Values.Text]} already."));
                        continue;
                    }
                    for (var i = 0; i < columns.Count; i++)
                        if (columns[i] is { } name && MatrixFigures.Find(name) is { } figure && !SheetColumns.IsWorkedOut(name))
                            TakeCell(copy, variant, figure, line, headings[i], Cell(cells, i), changed, counts, changes, faults);
                }
                progress.Phase = SheetPhase.Trying;
                var texts = WithTexts(copy, rows, headings, columns, changes);
                return Read<Product>.Of(
                    changed.Count == 0
                        ? texts
                        : texts with
                        {
                            Variants = [.. copy.Product.Variants.Select(v => changed.GetValueOrDefault(v.Values.Text) ?? v)],
                        }
                );
            },
            scope: _ => VariantScope.All
        );
        foreach (var fault in outcome.Faults)
        {
            var at = CellPlace.Parse(fault.Where);
            faults.Add(
                lineOf.TryGetValue(at.Values, out var line)
                    ? new SheetFault(line, SheetColumns.Figures.FirstOrDefault(f => f.Figure == at.Figure).Heading ?? "", fault.What)
                    : new SheetFault(rows[0].Line, codeAt < 0 ? "" : SheetColumns.Code, fault.What)
            );
        }
        if (outcome.Done && counts.Count > 0 && faults.Count == 0)
        {
            var counted = await new MatrixCells(db, products, clock).Count(code, counts, by);
            faults.AddRange(
                counted.Select(f => new SheetFault(lineOf.GetValueOrDefault(CellPlace.Parse(f.Where).Values), "on hand", f.What))
            );
        }
    }

    /// <summary>The variant that a row means: by its values where there are option columns, else by its SKU.</summary>
    private static MatrixVariant? Find(
        WorkingCopy copy,
        int line,
        IReadOnlyList<string> cells,
        List<(Option Option, int At)> options,
        bool bySku,
        List<string?> columns,
        List<SheetFault> faults
    )
    {
        if (bySku && !copy.Product.Options.IsEmpty)
        {
            var typed = Cell(cells, columns.IndexOf("sku"));
            if (Sku.Parse(typed) is { Ok: true } sku && copy.Matrix.Find(sku.Value) is { } found)
                return found;
            faults.Add(
                new SheetFault(
                    line,
                    "SKU",
                    typed.Length == 0
                        ? "Neither values nor a SKU say which variant this " + "is."
                        : $"{copy.Product.Name} has no SKU {typed}."
                )
            );
            return null;
        }
        var pairs = new List<(Key, Key)>();
        foreach (var (option, at) in options)
        {
            var typed = Cell(cells, at);
            if (SheetProducts.ValueOf(option, typed) is not { } value)
            {
                faults.Add(
                    new SheetFault(
                        line,
                        SheetColumns.OptionPrefix + option.Label,
                        at < 0 ? "This column is missing."
                            : typed.Length == 0 ? "A value is needed."
                            : $"{option.Label} has no value “{typed}”."
                    )
                );
                return null;
            }
            pairs.Add((option.Key, value.Key));
        }
        var variant = copy.Matrix.Find(Combination.Of(pairs));
        if (variant is null)
            faults.Add(new SheetFault(line, "", "This combination is not made."));
        return variant;
    }

    internal static void TakeCell(
        WorkingCopy copy,
        MatrixVariant variant,
        CellFigure figure,
        int line,
        string heading,
        string typed,
        Dictionary<string, Variant> changed,
        List<CellEdit> counts,
        List<SheetChange> changes,
        List<SheetFault> faults
    )
    {
        var key = variant.Values.Text;
        var now = figure.Show(copy, variant).Text;
        if (figure.Name == "gtin")
            typed = Gtin.WithLostZeros(typed);
        if (typed == now || (figure.Name is "sku" or "stock" && typed.Length == 0))
            return;
        string shown;
        if (figure.Name == "stock")
        {
            var units = TypedNumbers.Whole(typed, 0, Movements.MostUnits);
            if (!units.Ok)
            {
                faults.Add(new SheetFault(line, heading, units.Problem!));
                return;
            }
            shown = MatrixFigures.Whole(units.Value ?? 0);
            if (shown == now)
                return;
            counts.Add(new CellEdit(key, "stock", typed, null));
        }
        else
        {
            var taken = figure.Take!(copy, changed.GetValueOrDefault(key) ?? variant.Variant, typed);
            if (!taken.Ok)
            {
                faults.Add(new SheetFault(line, heading, taken.Problem!));
                return;
            }
            // The same figure written another way is no change: 86 for 86.00, also where it is inherited.
            var after = taken.Value!;
            if (figure.Number is not null && Same(copy, variant, figure, typed, now))
                return;
            if (after == (changed.GetValueOrDefault(key) ?? variant.Variant))
                return;
            changed[key] = after;
            shown = typed.Length == 0 ? "inherited" : typed;
        }
        changes.Add(
            new SheetChange(
                line,
                copy.Row.Code,
                variant.Values.Name(copy.Product.Options) is { Length: > 0 } name ? name : copy.Product.Name,
                heading,
                now,
                shown
            )
        );
    }

    private static bool Same(WorkingCopy copy, MatrixVariant variant, CellFigure figure, string typed, string now) =>
        now.Length > 0
        && MatrixFigures.InBulk.FirstOrDefault(f => f.Name == figure.Name) is { } bulk
        && bulk.Amount(copy, typed) is { Ok: true, Value: { } n }
        && n == figure.Number!(copy, variant);

    private static string? Column(string heading)
    {
        if (heading.StartsWith(SheetColumns.OptionPrefix.TrimEnd(), StringComparison.OrdinalIgnoreCase))
            return SheetColumns.OptionPrefix + heading[SheetColumns.OptionPrefix.TrimEnd().Length..].Trim();
        if (string.Equals(heading, SheetColumns.Code, StringComparison.OrdinalIgnoreCase))
            return SheetColumns.Code;
        if (string.Equals(heading, SheetColumns.Product, StringComparison.OrdinalIgnoreCase))
            return SheetColumns.Product;
        if (SheetMaking.Texts.FirstOrDefault(t => string.Equals(t, heading, StringComparison.OrdinalIgnoreCase)) is { } text)
            return text;
        return SheetColumns.Figures.FirstOrDefault(f => string.Equals(f.Heading, heading, StringComparison.OrdinalIgnoreCase)).Figure;
    }

    internal static string Cell(IReadOnlyList<string> cells, int at) => at >= 0 && at < cells.Count ? cells[at].Trim() : "";
}
