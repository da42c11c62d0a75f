using System.Collections.Immutable;

namespace Unicus.Store;

/// <summary>A cell of a sheet.</summary>
/// <param name="Line">The line of the file.</param>
/// <param name="Heading">Of its column.</param>
internal readonly record struct SheetCell(int Line, string Heading, string Typed)
{
    /// <summary>What stands at a place of a row; empty where the row is shorter.</summary>
    public static string Text(IReadOnlyList<string> cells, int at) => at >= 0 && at < cells.Count ? cells[at].Trim() : "";
}

/// <summary>What the rows of a sheet say of one product: figures of its variants, what was counted, texts. Each that differs is told, and
/// each that cannot be taken.</summary>
/// <param name="columns">What each column is; null where it is not known.</param>
internal sealed class SheetFigures(
    IReadOnlyList<string> headings,
    List<string?> columns,
    List<SheetChange> changes,
    List<SheetFault> faults
)
{
    private readonly Dictionary<string, int> _lineOf = [];
    private readonly Dictionary<string, Variant> _changed = [];

    /// <summary>What was counted, to be written when the figures are.</summary>
    public List<CellEdit> Counts { get; } = [];

    public bool HasFaults => faults.Count > 0;

    /// <summary>A variant with what the sheet changed of it; null where it changed nothing.</summary>
    public Variant? Changed(MatrixVariant variant) => _changed.GetValueOrDefault(variant.Values.Text);

    /// <summary>The product as the rows have it.</summary>
    public Product Of(WorkingCopy copy, List<SheetRow> rows, SheetProgress progress, CancellationToken stop)
    {
        var bySku = rows.Count > 0 && !columns.Exists(c => c?.StartsWith(SheetColumns.OptionPrefix, StringComparison.Ordinal) == true);
        var options = copy.Product.Options.Select(o => (Option: o, At: SheetProducts.OptionColumn(columns, o))).ToList();
        progress.Phase = SheetPhase.Comparing;
        foreach (var row in rows)
        {
            stop.ThrowIfCancellationRequested();
            progress.Done++;
            if ((bySku && !copy.Product.Options.IsEmpty ? BySku(copy, row) : ByValues(copy, row, options)) is not { } variant)
                continue;
            if (_lineOf.TryAdd(variant.Values.Text, row.Line))
                Take(copy, variant, row);
            else
                faults.Add(new SheetFault(row.Line, "", $"This variant stands on line {_lineOf[variant.Values.Text]} already."));
        }
        progress.Phase = SheetPhase.Trying;
        var texts = WithTexts(copy, rows);
        return _changed.Count == 0
            ? texts
            : texts with
            {
                Variants = [.. copy.Product.Variants.Select(v => _changed.GetValueOrDefault(v.Values.Text) ?? v)],
            };
    }

    /// <summary>Takes the figures that a row has of a variant.</summary>
    public void Take(WorkingCopy copy, MatrixVariant variant, SheetRow row)
    {
        foreach (var (at, column) in columns.Index())
            if (column is not null && MatrixFigures.Find(column) is { } figure && !SheetColumns.IsWorkedOut(column))
                Take(copy, variant, figure, new SheetCell(row.Line, headings[at], SheetCell.Text(row.Cells, at)));
    }

    /// <summary>Tells what stood in the way of writing, each at its line.</summary>
    /// <param name="first">The line of what belongs to no variant.</param>
    public void Tell(IEnumerable<Fault> found, int first)
    {
        foreach (var fault in found)
        {
            var at = CellPlace.Parse(fault.Where);
            faults.Add(
                _lineOf.TryGetValue(at.Values, out var line)
                    ? new SheetFault(line, SheetColumns.Figures.FirstOrDefault(f => f.Figure == at.Figure).Heading ?? "", fault.What)
                    : new SheetFault(first, columns.Contains(SheetColumns.Code) ? SheetColumns.Code : "", fault.What)
            );
        }
    }

    /// <summary>Tells what stood in the way of counts.</summary>
    public void TellCounts(IEnumerable<Fault> found) =>
        faults.AddRange(found.Select(f => new SheetFault(_lineOf.GetValueOrDefault(CellPlace.Parse(f.Where).Values), "on hand", f.What)));

    private MatrixVariant? BySku(WorkingCopy copy, SheetRow row)
    {
        var typed = SheetCell.Text(row.Cells, columns.IndexOf("sku"));
        if (Sku.Parse(typed) is { Ok: true } sku && copy.Matrix.Find(sku.Value) is { } found)
            return found;
        var what = typed.Length == 0 ? "Neither values nor a SKU say which variant this is." : $"{copy.Product.Name} has no SKU {typed}.";
        faults.Add(new SheetFault(row.Line, "SKU", what));
        return null;
    }

    private MatrixVariant? ByValues(WorkingCopy copy, SheetRow row, List<(Option Option, int At)> options)
    {
        var pairs = new List<(Key, Key)>();
        foreach (var (option, at) in options)
        {
            var typed = SheetCell.Text(row.Cells, at);
            if (SheetProducts.ValueOf(option, typed) is not { } value)
            {
                var what =
                    at < 0 ? "This column is missing."
                    : typed.Length == 0 ? "A value is needed."
                    : $"{option.Label} has no value “{typed}”.";
                faults.Add(new SheetFault(row.Line, SheetColumns.OptionPrefix + option.Label, what));
                return null;
            }
            pairs.Add((option.Key, value.Key));
        }
        var variant = copy.Matrix.Find(Combination.Of(pairs));
        if (variant is null)
            faults.Add(new SheetFault(row.Line, "", "This combination is not made."));
        return variant;
    }

    private void Take(WorkingCopy copy, MatrixVariant variant, CellFigure figure, SheetCell cell)
    {
        var now = figure.Show(copy, variant).Text;
        if (figure.Name == "gtin")
            cell = cell with { Typed = Gtin.WithLostZeros(cell.Typed) };
        if (cell.Typed == now || (figure.Name is "sku" or "stock" && cell.Typed.Length == 0))
            return;
        if ((figure.Name == "stock" ? Count(variant, cell, now) : Change(copy, variant, figure, cell, now)) is not { } shown)
            return;
        var name = variant.Values.Name(copy.Product.Options) is { Length: > 0 } own ? own : copy.Product.Name;
        changes.Add(new SheetChange(cell.Line, copy.Row.Code, name, cell.Heading, now, shown));
    }

    /// <returns>What was counted as it is shown; null where it changes nothing.</returns>
    private string? Count(MatrixVariant variant, SheetCell cell, string now)
    {
        var units = TypedNumbers.Whole(cell.Typed, 0, Movements.MostUnits);
        if (!units.Ok)
        {
            faults.Add(new SheetFault(cell.Line, cell.Heading, units.Problem!));
            return null;
        }
        var shown = MatrixFigures.Whole(units.Value ?? 0);
        if (shown == now)
            return null;
        Counts.Add(new CellEdit(variant.Values.Text, "stock", cell.Typed, null));
        return shown;
    }

    /// <returns>The figure as it is shown; null where it changes nothing.</returns>
    private string? Change(WorkingCopy copy, MatrixVariant variant, CellFigure figure, SheetCell cell, string now)
    {
        var before = Changed(variant) ?? variant.Variant;
        var taken = figure.Take!(copy, before, cell.Typed);
        if (!taken.Ok)
        {
            faults.Add(new SheetFault(cell.Line, cell.Heading, taken.Problem!));
            return null;
        }
        // The same figure written another way is no change: 86 for 86.00, also where it is inherited.
        var after = taken.Value!;
        if ((figure.Number is not null && Same(copy, variant, figure, cell.Typed, now)) || after == before)
            return null;
        _changed[variant.Values.Text] = after;
        return cell.Typed.Length == 0 ? "inherited" : cell.Typed;
    }

    private static bool Same(WorkingCopy copy, MatrixVariant variant, CellFigure figure, string typed, string now) =>
        now.Length > 0
        && MatrixFigures.InBulk.FirstOrDefault(f => f.Name == figure.Name) is { } bulk
        && bulk.Amount(copy, typed) is { Ok: true, Value: { } n }
        && n == figure.Number!(copy, variant);

    /// <summary>The product with the texts that a sheet has of it.</summary>
    private Product WithTexts(WorkingCopy copy, List<SheetRow> rows)
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
            var line = rows.First(r => SheetCell.Text(r.Cells, at).Length > 0).Line;
            changes.Add(new SheetChange(line, copy.Row.Code, copy.Product.Name, headings[at], field.Show(copy), typed));
            product = after;
        }
        return product;
    }
}
