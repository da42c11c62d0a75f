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
            await One(known, rows, new SheetFigures(table.Headings, columns, changes, faults), by, progress, stop);
            db.ChangeTracker.Clear();
        }
        return Outcome<SheetPlan>.Of(new SheetPlan(table.Rows.Count, changes, [.. faults.OrderBy(f => f.Line)], unknown, made));
    }

    private static bool IsRead(string column) =>
        SheetMaking.Texts.Contains(column)
        || column.StartsWith(SheetColumns.OptionPrefix, StringComparison.Ordinal)
        || (MatrixFigures.Find(column) is not null && !SheetColumns.IsWorkedOut(column));

    /// <summary>Takes the rows of one product.</summary>
    private async Task One(string code, List<SheetRow> rows, SheetFigures figures, Actor by, SheetProgress progress, CancellationToken stop)
    {
        stop.ThrowIfCancellationRequested();
        var outcome = await products.Apply(
            code,
            "Figures from a sheet",
            by,
            copy => Read<Product>.Of(figures.Of(copy, rows, progress, stop)),
            scope: _ => VariantScope.All
        );
        figures.Tell(outcome.Faults, rows[0].Line);
        if (outcome.Done && figures.Counts.Count > 0 && !figures.HasFaults)
            figures.TellCounts(await new MatrixCells(db, products, clock).Count(code, figures.Counts, by));
    }

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
}
