using System.Globalization;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>The columns of a sheet by their names in the language of the program.</summary>
public static class SheetColumns
{
    public const string Code = "product code";
    public const string Product = "product";
    public const string OptionPrefix = "option: ";

    /// <summary>Figures that are written out; those that can be typed are taken back.</summary>
    public static IReadOnlyList<(string Heading, string Figure)> Figures { get; } =
    [
        ("SKU", "sku"),
        ("GTIN", "gtin"),
        ("price", "price"),
        ("RRP", "rrp"),
        ("cost", "cost"),
        ("margin", "margin"),
        ("on hand", "stock"),
        ("available", "available"),
        ("low level", "low"),
        ("weight", "weight"),
        ("size", "size"),
        ("lead time", "lead"),
        ("tax class", "tax"),
        ("selling", "selling"),
        ("picture", "picture"),
        ("note", "note"),
    ];

    /// <summary>A word on each column that is read.</summary>
    public static IReadOnlyList<(string Heading, string Words)> Meanings { get; } =
    [
        (Code, "which product; left empty, its name says it, and a new one gets a code of its own"),
        (Product, "its name; a name that is not there yet makes a product"),
        (OptionPrefix + "…", "one column for each option, such as “option: Size”; what is new there becomes a value"),
        ("categories", "separated by commas; “Outside > Gloves” lies in a tree"),
        ("tags", "separated by commas"),
        ("summary", "a sentence for lists"),
        ("description", "text; an empty line begins a paragraph"),
        ("brand", "of the maker"),
        ("part number", "of the maker"),
        ("SKU", "left empty, the pattern makes it"),
        ("GTIN", "8, 12, 13 or 14 digits"),
        ("price", "in the shop's currency"),
        ("RRP", "what others ask"),
        ("cost", "what it costs you"),
        ("on hand", "units that were counted"),
        ("low level", "units at which you want to hear of it"),
        ("weight", "with its unit: 250 g, 1.2 kg"),
        ("size", "length × width × height with a unit"),
        ("lead time", "days"),
        ("tax class", "as the settings call it"),
        ("selling", "off, beyond stock and the like, as in the matrix"),
        ("picture", "one of the product's pictures, by its text or file"),
        ("note", "for you alone"),
    ];

    /// <summary>Three rows that make one product with two options, to begin with.</summary>
    public static (IReadOnlyList<string> Headings, IReadOnlyList<IReadOnlyList<object?>> Rows) Example { get; } =
        (
            [Code, Product, OptionPrefix + "Size", OptionPrefix + "Colour", "categories", "SKU", "price", "cost", "on hand", "weight"],
            [
                ["", "Example", "Small", "Blue", "Examples", "", 12.50m, 6.00m, 10, "250 g"],
                ["", "Example", "Small", "Green", "Examples", "", 12.50m, 6.00m, 4, "250 g"],
                ["", "Example", "Large", "Blue", "Examples", "", 14.00m, 7.20m, 0, "310 g"],
            ]
        );

    /// <summary>Whether a figure is worked out and so not read.</summary>
    public static bool IsWorkedOut(string figure) => figure is "margin" or "available";
}

/// <summary>Writes the matrix of one product, or of the whole range, as a table: one row a variant.</summary>
public sealed class SheetExport(UnicusContext db)
{
    /// <param name="code">One product, or null for the whole range.</param>
    /// <param name="most">So many rows of each product; for a template.</param>
    public async Task<(IReadOnlyList<string> Headings, IReadOnlyList<IReadOnlyList<object?>> Rows)?> Table(
        string? code,
        int most = int.MaxValue
    )
    {
        var codes = code is null ? await db.Products.OrderBy(p => p.Name).Select(p => p.Code).ToListAsync() : [code];
        var copies = new List<WorkingCopy>();
        foreach (var one in codes)
            if (await WorkingCopy.Load(db, one) is { } copy)
                copies.Add(copy);
        if (copies.Count == 0 && code is not null)
            return null;
        var options = copies.SelectMany(c => c.Product.Options.Select(o => o.Label)).Distinct(StringComparer.OrdinalIgnoreCase).ToList();
        string[] headings =
        [
            SheetColumns.Code,
            SheetColumns.Product,
            .. options.Select(o => SheetColumns.OptionPrefix + o),
            .. SheetColumns.Figures.Select(f => f.Heading),
        ];
        return (headings, [.. copies.SelectMany(c => c.Matrix.Variants.Take(most).Select(v => Row(c, v, options)))]);
    }

    private static object?[] Row(WorkingCopy copy, MatrixVariant variant, List<string> options) =>
        [
            copy.Row.Code,
            copy.Product.Name,
            .. options.Select(label =>
                (object?)(
                    copy.Product.Options.FirstOrDefault(o => string.Equals(o.Label, label, StringComparison.OrdinalIgnoreCase)) is { } o
                    && variant.Values[o.Key] is { } v
                        ? o.Find(v)!.Label
                        : ""
                )
            ),
            .. SheetColumns.Figures.Select(f => Cell(copy, variant, f.Figure)),
        ];

    private static object? Cell(WorkingCopy copy, MatrixVariant variant, string figure)
    {
        var of = MatrixFigures.Find(figure)!;
        if (figure == "margin")
            return of.Number!(copy, variant) is { } m ? Math.Round(m, 1) : null;
        return MatrixFigures.IsText(figure) || figure == "weight" ? of.Show(copy, variant).Text
            : of.Number!(copy, variant) is { } n
                ? figure is "price" or "rrp" or "cost"
                        ? decimal.Parse(new Money(n, copy.Shop.Currency).ToString(), CultureInfo.InvariantCulture)
                    : n
            : null;
    }
}
