namespace Unicus.Core.Options;

using System.Collections.Immutable;
using Unicus.Core.Money;

/// <summary>Surcharges as people type them: <c>24</c>, <c>-3.50</c>, <c>8 %</c>, <c>6.50 once</c>, <c>0.60 a character, at least 6</c>,
/// <c>0.25 a unit</c>; tables as blocks of a spreadsheet.</summary>
public static class TypedSurcharge
{
    /// <summary>Reads what <see cref="Surcharge.ForPeople"/> writes and other ways to type it. Blank text is null: no
    /// surcharge.</summary>
    public static Read<Surcharge?> Read(string? text, Currency currency, Ask ask)
    {
        var typed = string.Join(' ', (text ?? "").ToLowerInvariant().Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries))
            .TrimStart('+');
        if (typed.Length == 0)
            return Read<Surcharge?>.Of(null);
        if (typed.EndsWith('%'))
            return TypedNumbers.Percent(typed) is var percent && percent.Ok
                ? Read<Surcharge?>.Of(percent.Value is { } p ? new Surcharge.Percent(p) : null)
                : Read<Surcharge?>.No(percent.Problem!);
        var least = (Money?)null;
        if (typed.IndexOf("at least", StringComparison.Ordinal) is > 0 and var at)
        {
            var minimum = TypedNumbers.Amount(typed[(at + 8)..], currency);
            if (!minimum.Ok)
                return Read<Surcharge?>.No(minimum.Problem!);
            (least, typed) = (minimum.Value, typed[..at].TrimEnd(' ', ','));
        }
        foreach (var (words, ending, fits, make) in Endings)
        {
            if (!typed.EndsWith(ending, StringComparison.Ordinal))
                continue;
            if (!fits(ask))
                return Read<Surcharge?>.No($"“{words}” fits another kind of question.");
            var each = TypedNumbers.Amount(Bare(typed[..^ending.Length]), currency, mayBeNegative: words == "once");
            return each is { Ok: true, Value: { } rate }
                ? Read<Surcharge?>.Of(make(rate, least))
                : Read<Surcharge?>.No(each.Problem ?? "How much is it?");
        }
        if (least is not null)
            return Read<Surcharge?>.No("“At least” goes with an amount a character.");
        var amount = TypedNumbers.Amount(typed, currency, mayBeNegative: true);
        return amount.Ok
            ? Read<Surcharge?>.Of(amount.Value is { } a ? new Surcharge.PerUnit(a) : null)
            : Read<Surcharge?>.No(amount.Problem!);
    }

    private static readonly (string Words, string Ending, Func<Ask, bool> Fits, Func<Money, Money?, Surcharge> Make)[] Endings =
    [
        ("once", "once", _ => true, (m, _) => new Surcharge.Once(m)),
        ("a character", "character", a => a == Ask.Text, (m, least) => new Surcharge.PerCharacter(m, least)),
        ("a letter", "letter", a => a == Ask.Text, (m, least) => new Surcharge.PerCharacter(m, least)),
        ("a unit", "unit", a => a == Ask.Number, (m, _) => new Surcharge.PerMeasure(m)),
    ];

    /// <summary>Reads a block as copied from a spreadsheet: a bound and an amount a line; for two measures the first line has the bounds of
    /// the columns.</summary>
    public static Read<Surcharge?> Table(string text, Key? by, Currency currency)
    {
        var lines = text.ReplaceLineEndings("\n")
            .Split('\n')
            .Select(l => l.TrimEnd())
            .Where(l => l.Trim().Length > 0)
            .Select(l => l.Split(l.Contains('\t') ? '\t' : ';').Select(c => c.Trim()).ToArray())
            .ToList();
        if (lines.Count == 0)
            return Read<Surcharge?>.Of(null);
        var no = Read<Surcharge?>.No;
        List<decimal>? heads = null;
        if (by is not null)
        {
            heads = [];
            foreach (var cell in lines[0].Skip(1))
            {
                if (Bound(cell) is not { } head)
                    return no($"“{cell}” in the first line is not a bound of a column. Type a number there, like 60.");
                heads.Add(head);
            }
            lines.RemoveAt(0);
            if (heads.Count == 0 || lines.Count == 0)
                return no("A table of two measures has the bounds of the columns in its first line and at least one line more.");
        }
        var rows = ImmutableArray.CreateBuilder<TableRow>();
        foreach (var line in lines)
        {
            if (Bound(line[0]) is not { } max)
                return no($"“{line[0]}” is not a bound. A line begins with a number, like 30.");
            if (line.Length != (heads?.Count ?? 1) + 1)
                return no(
                    $"The line of {line[0]} has {Amounts(line.Length - 1)}; "
                        + $"{heads?.Count ?? 1} {(heads is null or [_] ? "is" : "are")} needed."
                );
            var cells = ImmutableArray.CreateBuilder<TableCell>();
            for (var i = 1; i < line.Length; i++)
            {
                var amount = TypedNumbers.Amount(line[i], currency, mayBeNegative: true);
                if (!amount.Ok || amount.Value is not { } money)
                    return no(amount.Problem ?? $"The line of {line[0]} lacks an amount.");
                cells.Add(new TableCell(heads?[i - 1] ?? 0, money));
            }
            rows.Add(new TableRow(max, cells.ToImmutable()));
        }
        if (!Surcharge.Table.IsRising(rows.Select(r => r.Max)) || (heads is not null && !Surcharge.Table.IsRising(heads)))
            return no("The bounds of a table rise from line to line and from column to column.");
        return Read<Surcharge?>.Of(new Surcharge.Table(by, rows.ToImmutable()));
    }

    private static string Amounts(int count) => count == 1 ? "1 amount" : $"{count} amounts";

    /// <summary>The table as such a block, with tabs.</summary>
    public static string Write(Surcharge.Table table)
    {
        var head = table.By is null ? "" : string.Concat(table.Rows[0].Columns.Select(c => $"\t{c.Max}")) + "\n";
        return head
            + string.Join('\n', table.Rows.Select(r => $"{r.Max}\t{string.Join('\t', r.Columns.Select(c => c.Amount.ToString()))}"));
    }

    /// <summary>Without the word that joins an amount to what it is for.</summary>
    private static string Bare(string typed)
    {
        var bare = typed.TrimEnd(' ', '/');
        foreach (var word in new[] { " a", " per", " each" })
            if (bare.EndsWith(word, StringComparison.Ordinal))
                return bare[..^word.Length].TrimEnd();
        return bare;
    }

    private static decimal? Bound(string text) => TypedNumbers.Number(text, 3) is { Ok: true } read ? read.Value : null;
}
