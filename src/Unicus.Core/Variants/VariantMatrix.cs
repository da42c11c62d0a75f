namespace Unicus.Core.Variants;

using System.Collections;
using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Rules;

/// <summary>One cell of the matrix: a made combination with everything in force for it.</summary>
public sealed class MatrixVariant
{
    private readonly VariantMatrix _matrix;

    internal MatrixVariant(VariantMatrix matrix, int number, Variant variant, Sku sku, Selling selling)
    {
        (_matrix, Number, Variant, Sku, Selling) = (matrix, number, variant, sku, selling);
        Price = matrix.Figures.Price(variant.Own, variant.Values);
    }

    /// <summary>Its place by mixed radix in the matrix.</summary>
    public int Number { get; }

    /// <summary>What is its own.</summary>
    public Variant Variant { get; }

    /// <summary>The SKU in force, its own or by the pattern.</summary>
    public Sku Sku { get; }

    /// <summary>The terms of selling in force.</summary>
    public Selling Selling { get; }

    /// <summary>The list price in force.</summary>
    public Resolved<Money?> Price { get; }

    /// <summary>The cost in force.</summary>
    public Resolved<Money?> Cost => _matrix.Figures.Resolve(Variant.Own, Variant.Values, f => f.Cost);

    /// <summary>The RRP in force.</summary>
    public Resolved<Money?> Rrp => _matrix.Figures.Resolve(Variant.Own, Variant.Values, f => f.Rrp);

    /// <summary>The days until more of it comes in; null where that is not known.</summary>
    public int? LeadTimeDays => _matrix.Figures.Resolve(Variant.Own, Variant.Values, f => f.LeadTimeDays).Figure;

    /// <summary>Its values.</summary>
    public Combination Values => Variant.Values;
}

/// <summary>What a matrix is made from.</summary>
public sealed record MatrixSource(
    ProductCode Code,
    ImmutableArray<Option> Options,
    ImmutableArray<Combination> NotMade,
    Figures Base,
    Selling Selling,
    ImmutableArray<PatternPiece> Pattern,
    ImmutableArray<Variant> Variants
);

/// <summary>All variants of one product, with their figures in force: the Cartesian product of the options less what is not
/// made.</summary>
/// <remarks>A cell is built when it is first asked for, so that a hundred thousand variants cost nothing to those who look at
/// forty.</remarks>
public sealed class VariantMatrix
{
    private const int BlockSize = 256;

    private readonly MatrixSource _source;
    private readonly CompiledPiece[] _pattern;
    private readonly Dictionary<int, Variant> _listed = [];
    private readonly MatrixVariant?[]?[] _cells;
    private Dictionary<Sku, int>? _bySku;
    private bool? _surchargesHold;
    private Func<Combination, bool>? _only;

    /// <exception cref="ArgumentException">There are more combinations than <see cref="MadeSet.MostVariants"/>.</exception>
    public VariantMatrix(MatrixSource source)
    {
        _source = source;
        Options = source.Options;
        Made = new MadeSet(Options, source.NotMade);
        Figures = new Cascade(source.Base, Options);
        _pattern = SkuPattern.Compile(source.Pattern.IsEmpty ? SkuPattern.Default(Options) : source.Pattern, source.Code, Options);
        foreach (var variant in source.Variants)
            if (Made.NumberOf(variant.Values) is { } number)
                _listed[number] = variant;
        _cells = new MatrixVariant?[]?[(Made.Count + BlockSize - 1) / BlockSize];
        Variants = new Cells(this);
    }

    /// <summary>The options, in order.</summary>
    public ImmutableArray<Option> Options { get; }

    /// <summary>Which combinations are made.</summary>
    public MadeSet Made { get; }

    /// <summary>How figures flow down to variants.</summary>
    public Cascade Figures { get; }

    /// <summary>Every made variant in the order of the options, the retired ones too.</summary>
    public IReadOnlyList<MatrixVariant> Variants { get; }

    /// <summary>The variants that are offered.</summary>
    public IEnumerable<MatrixVariant> Offered =>
        Made.Made().Select((number, index) => (number, index)).Where(x => IsOffered(x.number)).Select(x => Cell(x.index, x.number));

    /// <summary>How many variants are offered.</summary>
    public int OfferedCount => _only is null ? Made.Count - _listed.Count(l => l.Value.Retired && Made.IsMade(l.Key)) : Offered.Count();

    /// <summary>Whether each variant is dearer by the surcharges of its values, so that values can say them: not where a variant, or a
    /// value, sets a price of its own.</summary>
    public bool SurchargesHold =>
        _surchargesHold ??=
            !_listed.Values.Any(v => v.Own.Price is not null) && !Options.Any(o => o.Values.Any(v => v.Figures.Price is not null));

    /// <summary>How many combinations are not made.</summary>
    public int NotMadeCount => Made.Combinations - Made.Count;

    /// <summary>The variant with these values; null where none is made.</summary>
    public MatrixVariant? Find(Combination values) => Find(values.Text);

    /// <summary>The made variant with this canonical text of its values, or null.</summary>
    public MatrixVariant? Find(ReadOnlySpan<char> values) =>
        Made.NumberOf(values) is { } number && Made.IndexOf(number) is >= 0 and var index ? Cell(index, number) : null;

    /// <summary>The variant with this number.</summary>
    /// <exception cref="ArgumentOutOfRangeException">The combination is not made.</exception>
    public MatrixVariant At(int number) =>
        Made.IndexOf(number) is >= 0 and var index ? Cell(index, number) : throw new ArgumentOutOfRangeException(nameof(number));

    /// <summary>The first variant with this SKU, or null.</summary>
    public MatrixVariant? Find(Sku sku)
    {
        if (_bySku is null)
        {
            var bySku = new Dictionary<Sku, int>(Made.Count);
            for (var i = 0; i < Made.Count; i++)
                bySku.TryAdd(Cell(i).Sku, i);
            _bySku = bySku;
        }
        return _bySku.TryGetValue(sku, out var index) ? Cell(index) : null;
    }

    /// <summary>What the source lists for the combination with this number, or null.</summary>
    public Variant? Listed(int number) => _listed.GetValueOrDefault(number);

    /// <summary>The SKU in force of the variant at this place among the made ones.</summary>
    public Sku SkuAt(int index) => Listed(Made.Made()[index])?.Sku ?? PatternSku(index);

    /// <summary>The SKU that the pattern makes for the variant at this place among the made ones.</summary>
    public Sku PatternSku(int index) =>
        Sku.Parse(SkuPattern.Make(_pattern, Made, Made.Made()[index], index + 1)) is { Ok: true } read
            ? read.Value
            : Sku.Of($"{_source.Code}-{index + 1}");

    /// <summary>Whether the combination with this number is on offer if it is made: not retired.</summary>
    public bool IsOffered(int number) => !(_listed.TryGetValue(number, out var v) && v.Retired) && _only?.Invoke(Made.At(number)) != false;

    /// <summary>The same matrix with some of its variants on offer only.</summary>
    public VariantMatrix Narrowed(Func<Combination, bool> only) => new(_source) { _only = only };

    private MatrixVariant Cell(int index) => Cell(index, Made.Made()[index]);

    private MatrixVariant Cell(int index, int number)
    {
        var block = _cells[index / BlockSize] ??= new MatrixVariant?[BlockSize];
        if (block[index % BlockSize] is { } kept)
            return kept;
        var variant = _listed.GetValueOrDefault(number) ?? new Variant(Made.At(number));
        return block[index % BlockSize] = new MatrixVariant(
            this,
            number,
            variant,
            variant.Sku ?? PatternSku(index),
            variant.Selling.Over(_source.Selling)
        );
    }

    private sealed class Cells(VariantMatrix matrix) : IReadOnlyList<MatrixVariant>
    {
        public int Count => matrix.Made.Count;
        public MatrixVariant this[int index] => matrix.Cell(index);

        public IEnumerator<MatrixVariant> GetEnumerator() =>
            matrix.Made.Made().Select((number, index) => matrix.Cell(index, number)).GetEnumerator();

        IEnumerator IEnumerable.GetEnumerator() => GetEnumerator();
    }

    /// <summary>“3 variants”, “3 × 3 = 9 variants” or “3 × 3 = 9, 1 not made, 8 variants”; empty without options.</summary>
    public string SizeInWords => Options.IsEmpty ? "" : SizeSentence(Options, NotMadeCount);

    /// <summary>“5 × 4 × 3 = 60, 6 not made, 54 variants”.</summary>
    public static string SizeSentence(IReadOnlyList<Option> options, int notMade)
    {
        var size = MadeSet.Size(options);
        var product = options.Count > 1 ? string.Join(" × ", options.Select(o => o.Values.Length.ToString("N0"))) + " = " : "";
        var left = size - notMade;
        return $"{product}{size:N0}{(notMade > 0 ? $", {notMade:N0} not made, {left:N0}" : "")} "
            + $"{(left == 1 ? "variant" : "variants")}";
    }
}
