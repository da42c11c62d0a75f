using System.Collections.Immutable;

namespace Unicus.Store;

/// <summary>Something that a sheet makes.</summary>
/// <param name="Line">The first line of the file that asks for it.</param>
/// <param name="Code">Of the product.</param>
/// <param name="What">“12 variants of Size and Cloth”, “the value Ash of Timber”.</param>
public sealed record SheetMade(int Line, string Code, string Name, string What);

/// <summary>A draft that a sheet makes, with everything that its rows say of it.</summary>
/// <param name="LineOf">The lines of its variants, by the text of their values.</param>
/// <param name="Counts">Units on hand.</param>
internal sealed record SheetDraft(Product Product, int Line, IReadOnlyDictionary<string, int> LineOf, IReadOnlyList<CellEdit> Counts)
{
    /// <summary>The SKU of each of its variants that a row named.</summary>
    public IEnumerable<(string Sku, int Line)> Skus() =>
        Product.Variants.Where(v => v.Sku is not null).Select(v => (v.Sku!.Value.Text, LineOf[v.Values.Text]));

    /// <summary>“4 variants of Size (4); price 10.00 to 14.00, RRP 16.00 on 2 of 4, 30 on hand”.</summary>
    public string InWords()
    {
        var made = Product.Options.IsEmpty
            ? "one piece"
            : $"{LineOf.Count:N0} {(LineOf.Count == 1 ? "variant" : "variants")} of "
                + string.Join(", ", Product.Options.Select(o => $"{o.Label} ({o.Values.Length:N0})"));
        var figures = new[] { Span("price", f => f.Price), Span("RRP", f => f.Rrp), Span("cost", f => f.Cost), OnHand() };
        var said = string.Join(", ", figures.OfType<string>());
        return said.Length == 0 ? made : $"{made}; {said}";
    }

    private string? Span(string word, Func<Figures, Money?> of)
    {
        var matrix = Product.Matrix();
        var all = matrix.Variants.Select(v => matrix.Figures.Resolve(v.Variant.Own, v.Values, of).Figure).ToList();
        var known = all.OfType<Money>().ToList();
        if (known.Count == 0)
            return null;
        var span = new PriceSpan(known.Min(), known.Max()).ForPeople();
        return $"{word} {span}" + (known.Count < all.Count ? $" on {known.Count:N0} of {all.Count:N0}" : "");
    }

    private string? OnHand()
    {
        var units = Counts.Sum(c => long.TryParse(c.Text, out var counted) ? counted : 0);
        return units == 0 ? null : $"{units:N0} on hand";
    }
}

/// <summary>Makes products of the rows of a sheet: options of its columns, values of its cells in their order, variants of its
/// rows.</summary>
/// <param name="library">Options of the library by their labels; values are taken from there where they are known.</param>
internal sealed class SheetMaking(
    ShopSettings shop,
    IReadOnlyList<string> headings,
    List<string?> columns,
    IReadOnlyDictionary<string, Option> library,
    List<SheetFault> faults
)
{
    /// <summary>More combinations than this are not looked at for a product of a sheet.</summary>
    private const int MostCombinations = 250_000;

    /// <summary>Texts of a product that a sheet may hold, by heading.</summary>
    public static IReadOnlyList<string> Texts { get; } = ["categories", "tags", "summary", "description", "brand", "part number"];

    /// <summary>A product with what a column of the sheet says of it.</summary>
    public static Product With(Product product, string column, string typed)
    {
        ImmutableArray<string> Names() =>
            [.. typed.Split([',', ';'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)];
        return column switch
        {
            "categories" => product with { Categories = [.. Names().Distinct(StringComparer.OrdinalIgnoreCase)] },
            "tags" => product with { Tags = [.. Names().Distinct(StringComparer.OrdinalIgnoreCase)] },
            "summary" => product with { Summary = typed },
            "description" => product with { Description = ProductFields.FromPlain(typed) },
            "brand" => product with { Brand = typed },
            "part number" => product with { PartNumber = typed },
            _ => throw new ArgumentOutOfRangeException(nameof(column)),
        };
    }

    /// <summary>The first text that rows have in a column; empty where none has.</summary>
    public static string First(IEnumerable<SheetRow> rows, int at) =>
        rows.Select(r => SheetCell.Text(r.Cells, at)).FirstOrDefault(c => c.Length > 0) ?? "";

    /// <summary>The draft that some rows make; null where they cannot.</summary>
    public SheetDraft? Draft(string name, ProductCode code, IReadOnlyList<SheetRow> rows)
    {
        var before = faults.Count;
        var product = new Product(code, name) { Options = Options(rows, out var columnOf) };
        if (MadeSet.Size(product.Options) > MostCombinations)
        {
            faults.Add(new SheetFault(rows[0].Line, "", $"{name} would have more than {MostCombinations:N0} combinations."));
            return null;
        }
        var lineOf = new Dictionary<string, int>();
        var rowOf = new Dictionary<string, SheetRow>();
        foreach (var row in rows)
            if (ValuesOf(product.Options, columnOf, row) is { } values)
                if (lineOf.TryAdd(values.Text, row.Line))
                    rowOf[values.Text] = row;
                else
                    faults.Add(new SheetFault(row.Line, "", $"This variant stands on line {lineOf[values.Text]} already."));
        if (faults.Count > before)
            return null;
        product = product with { Base = Usual(rows), NotMade = Unnamed(product.Options, lineOf.Keys) };
        foreach (var (at, column) in columns.Index())
            if (column is not null && Texts.Contains(column) && First(rows, at) is { Length: > 0 } typed)
                product = With(product, column, typed);
        var (variants, counts) = Figures(product, rowOf);
        product = product with { Variants = variants };
        if (
            WorkingCopy.WhatIsUnreadable(DocumentWriter.Write(product, ListedVariants.Differing).ToJsonString(), shop.Currency) is { } wrong
        )
            faults.Add(new SheetFault(rows[0].Line, "", wrong));
        return faults.Count > before ? null : new SheetDraft(product, rows[0].Line, lineOf, counts);
    }

    private ImmutableArray<Option> Options(IReadOnlyList<SheetRow> rows, out List<int> columnOf)
    {
        var options = ImmutableArray.CreateBuilder<Option>();
        columnOf = [];
        var keys = new HashSet<Key>();
        foreach (var (at, column) in columns.Index())
        {
            if (column?.StartsWith(SheetColumns.OptionPrefix, StringComparison.Ordinal) != true)
                continue;
            var labels = rows.Select(r => SheetCell.Text(r.Cells, at)).ToList();
            if (labels.TrueForAll(l => l.Length == 0))
                continue;
            foreach (var (row, label) in rows.Zip(labels).Where(p => p.Second.Length is 0 or > TypedValues.LongestLabel))
                faults.Add(
                    new SheetFault(
                        row.Line,
                        headings[at],
                        label.Length == 0
                            ? "A value is needed, as in its other rows."
                            : $"A value has at most {TypedValues.LongestLabel} characters."
                    )
                );
            var made = Made(
                column[SheetColumns.OptionPrefix.Length..],
                [.. labels.Where(l => l.Length > 0).Distinct(StringComparer.OrdinalIgnoreCase)],
                keys
            );
            keys.Add(made.Key);
            options.Add(made);
            columnOf.Add(at);
        }
        return options.ToImmutable();
    }

    private Option Made(string label, IReadOnlyList<string> labels, HashSet<Key> taken)
    {
        var known = library.GetValueOrDefault(label.ToLowerInvariant());
        var shared = known?.Values.Where(v => labels.Contains(v.Label, StringComparer.OrdinalIgnoreCase)).ToList() ?? [];
        var fresh = TypedValues.Make(labels.Where(l => !shared.Any(v => Same(v.Label, l))), shared);
        var byLabel = shared.Concat(fresh).ToDictionary(v => v.Label, StringComparer.OrdinalIgnoreCase);
        return new Option(
            known is not null && !taken.Contains(known.Key) ? known.Key : Key.From(label, taken, "option"),
            label,
            OptionRole.Variant
        )
        {
            Library = known?.Key,
            Values = [.. labels.Select(l => byLabel[l])],
        };
    }

    private static Combination? ValuesOf(ImmutableArray<Option> options, List<int> columnOf, SheetRow row)
    {
        var pairs = new List<(Key, Key)>();
        foreach (var (option, at) in options.Zip(columnOf))
        {
            if (option.Values.FirstOrDefault(v => Same(v.Label, SheetCell.Text(row.Cells, at))) is not { } value)
                return null;
            pairs.Add((option.Key, value.Key));
        }
        return Combination.Of(pairs);
    }

    /// <summary>What no row names is not made.</summary>
    private static ImmutableArray<Combination> Unnamed(ImmutableArray<Option> options, Dictionary<string, int>.KeyCollection named)
    {
        var all = new MadeSet(options, []);
        return all.Combinations == named.Count
            ? []
            : [.. Enumerable.Range(0, all.Combinations).Select(n => all.At(n)).Where(c => !named.Contains(c.Text))];
    }

    /// <summary>Price, RRP and cost that most rows have, where all have one: what the product has as a whole. A blank stays one.</summary>
    private Figures Usual(IReadOnlyList<SheetRow> rows)
    {
        Money? Most(string figure) =>
            columns.IndexOf(figure) is >= 0 and var at && rows.All(r => SheetCell.Text(r.Cells, at).Length > 0)
                ? rows.Select(r => TypedNumbers.Amount(SheetCell.Text(r.Cells, at), shop.Currency))
                    .Where(a => a.Ok && a.Value is not null)
                    .GroupBy(a => a.Value!.Value)
                    .OrderByDescending(g => g.Count())
                    .FirstOrDefault()
                    ?.Key
                : null;
        return Unicus.Core.Options.Figures.None with { Price = Most("price"), Rrp = Most("rrp"), Cost = Most("cost") };
    }

    /// <summary>What the cells of each row say, read as they are read in the matrix.</summary>
    private (ImmutableArray<Variant> Variants, List<CellEdit> Counts) Figures(Product product, Dictionary<string, SheetRow> rowOf)
    {
        var copy = new WorkingCopy
        {
            Row = new ProductRow
            {
                Code = product.Code.Text,
                Name = product.Name,
                Address = product.Address,
                Definition = "",
            },
            Product = product,
            Matrix = product.Matrix(),
            Shop = shop,
            Sets = [],
            Rows = [],
            Stock = new Dictionary<Sku, StockLevel>(),
            WholeStock = default,
        };
        var figures = new SheetFigures(headings, columns, [], faults);
        foreach (var variant in copy.Matrix.Variants)
            figures.Take(copy, variant, rowOf[variant.Values.Text]);
        return ([.. copy.Matrix.Variants.Select(figures.Changed).OfType<Variant>()], figures.Counts);
    }

    private static bool Same(string one, string other) => string.Equals(one, other, StringComparison.OrdinalIgnoreCase);
}
