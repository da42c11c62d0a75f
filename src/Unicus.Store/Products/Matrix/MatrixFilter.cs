using System.Collections.Immutable;

namespace Unicus.Store;

/// <summary>Which variants of a matrix are meant, and in which order.</summary>
/// <param name="Picks">Pairs <c>option=value</c>: for each option that has any, one of them.</param>
/// <param name="State">One of the keys of <see cref="States"/>; empty for all.</param>
/// <param name="Text">A piece of the SKU, GTIN, note or of a value's label.</param>
/// <param name="Sort">The name of a figure, with a hyphen before it for falling; empty for the order of the options.</param>
public sealed record MatrixFilter(ImmutableArray<string> Picks, string State, string Text, string Sort)
{
    public static MatrixFilter None { get; } = new([], "", "", "");

    public static IReadOnlyList<(string Key, string Label)> States { get; } =
    [
        ("", "all"),
        ("own", "own price"),
        ("blank", "no price"),
        ("below-cost", "below cost"),
        ("out", "out of stock"),
        ("low", "low"),
        ("no-gtin", "no GTIN"),
        ("retired", "retired"),
    ];

    public bool IsNone => Picks.IsEmpty && State.Length == 0 && Text.Length == 0 && Sort.Length == 0;

    /// <summary>Whether more must be looked at than values, so that a large product has to be loaded whole.</summary>
    public bool LooksAtFigures => State.Length > 0 || Text.Length > 0 || Sort.Length > 0;

    /// <summary>The numbers of the made combinations that have the values picked, in the order of the options.</summary>
    public IReadOnlyList<int> ByValues(MadeSet made)
    {
        if (Picks.IsEmpty)
            return made.Made();
        var wanted = Picks.Select(p => p.Split('=')).Where(p => p.Length == 2).ToLookup(p => p[0], p => p[1]);
        var flags = made
            .Options.Select(o =>
                wanted[o.Key.Text].ToHashSet() is { Count: > 0 } keys ? o.Values.Select(v => keys.Contains(v.Key.Text)).ToArray() : null
            )
            .ToArray();
        return
        [
            .. made.Made()
                .Where(n =>
                {
                    for (var i = 0; i < flags.Length; i++)
                        if (flags[i] is { } of && !of[made.ValueAt(n, i)])
                            return false;
                    return true;
                }),
        ];
    }

    /// <summary>The numbers of the variants meant, sorted.</summary>
    /// <param name="copy">Whole, if the filter <see cref="LooksAtFigures"/>.</param>
    public IReadOnlyList<int> Find(WorkingCopy copy)
    {
        var numbers = ByValues(copy.Matrix.Made);
        if (!LooksAtFigures)
            return numbers;
        var fitting = numbers.Select(copy.Matrix.At).Where(v => FitsState(copy, v) && FitsText(copy, v));
        var figure = MatrixFigures.Find(Sort.TrimStart('-'));
        if (figure is not null)
        {
            fitting = figure.Number is { } number
                ? Ordered(fitting, v => number(copy, v), Comparer<decimal?>.Default)
                : Ordered(fitting, v => figure.Show(copy, v).Text, StringComparer.OrdinalIgnoreCase);
        }
        return [.. fitting.Select(v => v.Number)];
    }

    /// <summary>Blanks come last either way.</summary>
    private IEnumerable<MatrixVariant> Ordered<T>(IEnumerable<MatrixVariant> variants, Func<MatrixVariant, T> by, IComparer<T> comparer)
    {
        var blankLast = variants.Select(v => (Variant: v, By: by(v))).OrderBy(x => x.By is null or "");
        return (Sort.StartsWith('-') ? blankLast.ThenByDescending(x => x.By, comparer) : blankLast.ThenBy(x => x.By, comparer)).Select(x =>
            x.Variant
        );
    }

    private bool FitsState(WorkingCopy copy, MatrixVariant v) =>
        State switch
        {
            "own" => v.Variant.Own.Price is not null,
            "blank" => v.Price.Figure is null,
            "below-cost" => Margins.Of(copy.Matrix, copy.Shop.Terms, v) is { Left.Amount: < 0 },
            "out" => copy.Stock.GetValueOrDefault(v.Sku).Available <= 0,
            "low" => copy.Matrix.Figures.Resolve(v.Variant.Own, v.Values, f => f.LowLevel).Figure is { } low
                && copy.Stock.GetValueOrDefault(v.Sku).Available <= low,
            "no-gtin" => v.Variant.Gtin is null,
            "retired" => v.Variant.Retired,
            _ => true,
        };

    private bool FitsText(WorkingCopy copy, MatrixVariant v) =>
        Text.Length == 0
        || v.Sku.Text.Contains(Text, StringComparison.OrdinalIgnoreCase)
        || v.Variant.Gtin?.Text.Contains(Text, StringComparison.Ordinal) == true
        || v.Variant.Note?.Contains(Text, StringComparison.OrdinalIgnoreCase) == true
        || v.Values.Name(copy.Product.Options).Contains(Text, StringComparison.OrdinalIgnoreCase);
}
