using System.Globalization;

namespace Unicus.Store;

/// <summary>A figure that the matrix shows and takes.</summary>
/// <param name="Name">As in the address and the form: price, cost, …</param>
/// <param name="Show">The text of a cell and its source.</param>
/// <param name="Take">The variant with the typed text; null where the figure is no figure of the variant itself (stock).</param>
/// <param name="Number">The figure in force as a number, for sorting, tinting and bulk changes; null where it is a text.</param>
public sealed record CellFigure(
    string Name,
    string Label,
    Func<WorkingCopy, MatrixVariant, (string Text, FigureSource Source)> Show,
    Func<WorkingCopy, Variant, string, Read<Variant>>? Take,
    Func<WorkingCopy, MatrixVariant, decimal?>? Number = null
)
{
    /// <summary>The label within a sentence.</summary>
    public string Word => Label.All(char.IsUpper) ? Label : Label.ToLowerInvariant();
}

/// <summary>A figure that many variants can be changed in at once.</summary>
/// <param name="Amount">Reads an amount as people type it, in the units of the figure.</param>
/// <param name="Put">Sets the variant's own figure, or clears it.</param>
public sealed record BulkFigure(
    string Name,
    Func<WorkingCopy, string?, Read<decimal?>> Amount,
    Func<WorkingCopy, Variant, decimal?, Variant> Put,
    Func<WorkingCopy, decimal, string> Text,
    int Decimals
);

/// <summary>The figures of the matrix.</summary>
public static class MatrixFigures
{
    public static IReadOnlyList<CellFigure> All { get; } =
    [
        Amount("price", "Price", (f, m) => f with { Price = m }, (_, v) => v.Price),
        Amount("cost", "Cost", (f, m) => f with { Cost = m }, (_, v) => v.Cost),
        Amount("rrp", "RRP", (f, m) => f with { Rrp = m }, (_, v) => v.Rrp),
        new(
            "margin",
            "Margin",
            (c, v) =>
                Margins.Of(c.Matrix, c.Shop.Terms, v)?.Margin is { } m ? ($"{m:0.0} %", FigureSource.Product) : ("", FigureSource.None),
            null,
            (c, v) => Margins.Of(c.Matrix, c.Shop.Terms, v)?.Margin
        ),
        new(
            "stock",
            "On hand",
            (c, v) => (Whole(c.Stock.GetValueOrDefault(v.Sku).OnHand), FigureSource.Own),
            null,
            (c, v) => c.Stock.GetValueOrDefault(v.Sku).OnHand
        ),
        new(
            "available",
            "Available",
            (c, v) => (Whole(c.Stock.GetValueOrDefault(v.Sku).Available), FigureSource.Own),
            null,
            (c, v) => c.Stock.GetValueOrDefault(v.Sku).Available
        ),
        Counted("low", "Low level", f => f.LowLevel, (f, n) => f with { LowLevel = n }, 1_000_000),
        new(
            "sku",
            "SKU",
            (_, v) => (v.Sku.Text, FigureSource.Own),
            (_, v, t) =>
                Sku.Parse(t) is { Ok: true } read ? Read<Variant>.Of(v with { Sku = read.Value }) : Read<Variant>.No(Sku.Parse(t).Problem!)
        ),
        new(
            "gtin",
            "GTIN",
            (_, v) => (v.Variant.Gtin?.Text ?? "", v.Variant.Gtin is null ? FigureSource.None : FigureSource.Own),
            (_, v, t) =>
                Gtin.Parse(t) is { Ok: true } read
                    ? Read<Variant>.Of(v with { Gtin = read.Value })
                    : Read<Variant>.No(Gtin.Parse(t).Problem!)
        ),
        new(
            "weight",
            "Weight",
            (c, v) => Shown(Resolve(c, v, f => f.WeightGrams), g => Measures.ShowWeight(g, c.Row.WeightUnit)),
            (c, v, t) =>
            {
                var read = Measures.Weight(t, c.Row.WeightUnit);
                return read.Ok
                    ? Read<Variant>.Of(v with { Own = v.Own with { WeightGrams = read.Value?.Size } })
                    : Read<Variant>.No(read.Problem!);
            },
            (c, v) => Resolve(c, v, f => f.WeightGrams).Figure
        ),
        new(
            "size",
            "Size",
            (c, v) =>
                c.Matrix.Figures.Resolve(v.Variant.Own, v.Values, f => f.SizeMm) is { Figure: { } s, Source: var from }
                    ? (s.ForPeople(c.Row.LengthUnit), from)
                    : ("", FigureSource.None),
            (c, v, t) =>
            {
                var read = Measures.Size(t, c.Row.LengthUnit);
                return read.Ok
                    ? Read<Variant>.Of(
                        v with
                        {
                            Own = v.Own with { SizeMm = read.Value is { } s ? new SizeMm(s.Length, s.Width, s.Height) : null },
                        }
                    )
                    : Read<Variant>.No(read.Problem!);
            }
        ),
        Counted("lead", "Lead time", f => f.LeadTimeDays, (f, n) => f with { LeadTimeDays = n }, 3650),
        new(
            "tax",
            "Tax class",
            (c, v) =>
                c.Matrix.Figures.Resolve(v.Variant.Own, v.Values, f => f.TaxClass) is { Figure: { } k, Source: var from }
                    ? (c.Shop.Terms.TaxClasses.FirstOrDefault(x => x.Key.Text == k)?.Label ?? k, from)
                    : ("", FigureSource.None),
            (c, v, t) =>
                t.Length == 0 ? Read<Variant>.Of(v with { Own = v.Own with { TaxClass = null } })
                : c.Shop.Terms.TaxClasses.FirstOrDefault(x =>
                    x.Key.Text == t || string.Equals(x.Label, t, StringComparison.OrdinalIgnoreCase)
                )
                    is { } known
                    ? Read<Variant>.Of(v with { Own = v.Own with { TaxClass = known.Key.Text } })
                : Read<Variant>.No(
                    $"There is no tax class {t}: there are {string.Join(", ", c.Shop.Terms.TaxClasses.Select(x => x.Label))}."
                )
        ),
        Written("content", "Net content", f => f.NetContent?.ToString(), TakeContent),
        Written("customs", "Customs code", f => f.CustomsCode, TakeCustomsCode),
        Written("origin", "Origin", f => f.Origin, TakeOrigin),
        new(
            "selling",
            "Selling",
            (_, v) => (SellingWords.Show(v.Selling), v.Variant.Selling == Selling.Inherited ? FigureSource.Product : FigureSource.Own),
            (_, v, t) =>
                SellingWords.Read(t) is { Ok: true } read
                    ? Read<Variant>.Of(v with { Selling = read.Value! })
                    : Read<Variant>.No(SellingWords.Read(t).Problem!)
        ),
        new(
            "picture",
            "Picture",
            (c, v) =>
                c.Product.PictureOf(v.Variant) is { Picture: { } p, Source: var from }
                    ? (PictureName(c.Product, p), from)
                    : ("", FigureSource.None),
            (c, v, t) =>
                t.Length == 0 ? Read<Variant>.Of(v with { Picture = null })
                : FindPicture(c.Product, t) is { } found ? Read<Variant>.Of(v with { Picture = found.File })
                : Read<Variant>.No(
                    c.Product.Pictures.IsEmpty
                        ? "The product has no pictures yet. Add them in Facts."
                        : $"There is no picture “{t}”: type its place among the {c.Product.Pictures.Length} in Facts, "
                            + "its text or its file."
                )
        ),
        new(
            "note",
            "Note",
            (_, v) => (v.Variant.Note ?? "", v.Variant.Note is null ? FigureSource.None : FigureSource.Own),
            (_, v, t) =>
                t.Length > 1000
                    ? Read<Variant>.No("A note has at most 1,000 characters.")
                    : Read<Variant>.Of(v with { Note = t.Length == 0 ? null : t })
        ),
    ];

    /// <summary>What can be changed for many variants at once.</summary>
    public static IReadOnlyList<BulkFigure> InBulk { get; } =
    [
        Money("price", (v, m) => v with { Own = v.Own with { Price = m } }),
        Money("cost", (v, m) => v with { Own = v.Own with { Cost = m } }),
        Money("rrp", (v, m) => v with { Own = v.Own with { Rrp = m } }),
        new(
            "weight",
            (c, t) =>
                Measures.Weight(t, c.Row.WeightUnit) is { Ok: true } w
                    ? Read<decimal?>.Of(w.Value?.Size)
                    : Read<decimal?>.No(Measures.Weight(t, c.Row.WeightUnit).Problem!),
            (_, v, n) => v with { Own = v.Own with { WeightGrams = (int?)n } },
            (c, n) => Measures.ShowWeight((int)n, c.Row.WeightUnit),
            0
        ),
        new("low", Units, (_, v, n) => v with { Own = v.Own with { LowLevel = (int?)n } }, (_, n) => Whole((int)n), 0),
        new("lead", Units, (_, v, n) => v with { Own = v.Own with { LeadTimeDays = (int?)n } }, (_, n) => Whole((int)n), 0),
    ];

    /// <summary>Figures that are texts and stand to the left.</summary>
    public static bool IsText(string name) =>
        name is "sku" or "gtin" or "note" or "selling" or "tax" or "size" or "picture" or "content" or "customs" or "origin";

    /// <summary>The text figures that many variants can be given at once; a SKU or GTIN is each variant's own.</summary>
    public static bool IsTextInBulk(string name) => IsText(name) && name is not ("sku" or "gtin");

    /// <summary>How a picture is called in a cell: by its text where no other has the same, else by its file.</summary>
    public static string PictureName(Product product, ProductPicture picture) =>
        picture.Alt.Length > 0 && product.Pictures.Count(p => p.Alt == picture.Alt) == 1 ? picture.Alt : picture.File;

    private static ProductPicture? FindPicture(Product product, string typed) =>
        product.Pictures.FirstOrDefault(p => p.File == typed)
        ?? product.Pictures.FirstOrDefault(p => string.Equals(p.Alt, typed, StringComparison.OrdinalIgnoreCase))
        ?? (
            int.TryParse(typed, NumberStyles.None, CultureInfo.InvariantCulture, out var place)
            && place >= 1
            && place <= product.Pictures.Length
                ? product.Pictures[place - 1]
                : null
        );

    /// <summary>A figure, or a column of prices of a time; null where there is none.</summary>
    public static CellFigure? Find(string name) => All.FirstOrDefault(f => f.Name == name) ?? DatedPrices.Figure(name);

    public static string Whole(int n) => n.ToString("N0", CultureInfo.InvariantCulture);

    private static Read<decimal?> Units(WorkingCopy copy, string? text) =>
        TypedNumbers.Whole(text, 0, 1_000_000) is { Ok: true } read
            ? Read<decimal?>.Of(read.Value)
            : Read<decimal?>.No(TypedNumbers.Whole(text, 0, 1_000_000).Problem!);

    private static BulkFigure Money(string name, Func<Variant, Money?, Variant> put) =>
        new(
            name,
            (c, t) =>
                TypedNumbers.Amount(t, c.Shop.Currency) is { Ok: true } read
                    ? Read<decimal?>.Of(read.Value?.Amount)
                    : Read<decimal?>.No(TypedNumbers.Amount(t, c.Shop.Currency).Problem!),
            (c, v, n) => put(v, n is { } amount ? new Money(amount, c.Shop.Currency) : null),
            (c, n) => new Money(n, c.Shop.Currency).ForPeople(),
            -1
        );

    private static CellFigure Amount(
        string name,
        string label,
        Func<Figures, Money?, Figures> set,
        Func<WorkingCopy, MatrixVariant, Resolved<Money?>> resolved
    ) =>
        new(
            name,
            label,
            (c, v) => Shown(resolved(c, v), m => m.ForPeople()),
            (c, v, t) =>
            {
                var read = TypedNumbers.Amount(t, c.Shop.Currency);
                return read.Ok ? Read<Variant>.Of(v with { Own = set(v.Own, read.Value) }) : Read<Variant>.No(read.Problem!);
            },
            (c, v) => resolved(c, v).Figure?.Amount
        );

    /// <summary>Figures with typed net content, or what is wrong with it.</summary>
    internal static Read<Figures> TakeContent(Figures figures, string typed) =>
        NetContent.Parse(typed) is { Ok: true } read
            ? Read<Figures>.Of(figures with { NetContent = read.Value })
            : Read<Figures>.No(NetContent.Parse(typed).Problem!);

    /// <summary>Figures with a typed customs code, or what is wrong with it.</summary>
    internal static Read<Figures> TakeCustomsCode(Figures figures, string typed) =>
        typed.Length == 0 ? Read<Figures>.Of(figures with { CustomsCode = null })
        : CustomsText.IsCode(typed) ? Read<Figures>.Of(figures with { CustomsCode = typed })
        : Read<Figures>.No(CustomsText.CodeShape);

    /// <summary>Figures with a typed country of origin, or what is wrong with it.</summary>
    internal static Read<Figures> TakeOrigin(Figures figures, string typed) =>
        typed.Length == 0 ? Read<Figures>.Of(figures with { Origin = null })
        : CustomsText.IsCountry(typed.ToUpperInvariant()) ? Read<Figures>.Of(figures with { Origin = typed.ToUpperInvariant() })
        : Read<Figures>.No(CustomsText.CountryShape);

    private static CellFigure Written(string name, string label, Func<Figures, string?> show, Func<Figures, string, Read<Figures>> take) =>
        new(
            name,
            label,
            (c, v) =>
                c.Matrix.Figures.Resolve(v.Variant.Own, v.Values, show) is { Figure: { } text, Source: var from }
                    ? (text, from)
                    : ("", FigureSource.None),
            (_, v, t) =>
                take(v.Own, t.Trim()) is { Ok: true } read
                    ? Read<Variant>.Of(v with { Own = read.Value! })
                    : Read<Variant>.No(take(v.Own, t.Trim()).Problem!)
        );

    private static CellFigure Counted(string name, string label, Func<Figures, int?> get, Func<Figures, int?, Figures> set, int most) =>
        new(
            name,
            label,
            (c, v) => Shown(Resolve(c, v, get), Whole),
            (c, v, t) =>
            {
                var read = TypedNumbers.Whole(t, 0, most);
                return read.Ok ? Read<Variant>.Of(v with { Own = set(v.Own, read.Value) }) : Read<Variant>.No(read.Problem!);
            },
            (c, v) => Resolve(c, v, get).Figure
        );

    private static Resolved<int?> Resolve(WorkingCopy c, MatrixVariant v, Func<Figures, int?> figure) =>
        c.Matrix.Figures.Resolve(v.Variant.Own, v.Values, figure);

    private static (string, FigureSource) Shown<T>(Resolved<T?> resolved, Func<T, string> text)
        where T : struct => resolved.Figure is { } figure ? (text(figure), resolved.Source) : ("", FigureSource.None);
}
