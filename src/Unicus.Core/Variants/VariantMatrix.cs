using System.Collections.Frozen;
using System.Collections.Immutable;

namespace Unicus.Core;

/// <summary>One cell of the matrix: a made combination with everything in force for it.</summary>
/// <param name="Number">Its place by mixed radix in the matrix.</param>
/// <param name="Sku">The SKU in force, its own or by the pattern.</param>
public sealed record MatrixVariant(long Number, Variant Variant, Sku Sku, Resolved<Money?> Price, Resolved<Money?> Cost, Resolved<Money?> Rrp, Selling Selling)
{
    public Combination Values => Variant.Values;
}

/// <summary>What a matrix is made from.</summary>
public sealed record MatrixSource(
    ProductCode Code, ImmutableArray<Option> Options, ImmutableArray<Combination> NotMade, Figures Base, Selling Selling,
    ImmutableArray<PatternPiece> Pattern, ImmutableArray<Variant> Variants);

/// <summary>All variants of one product, with their figures in force: the Cartesian product of the options less what is not made.</summary>
public sealed class VariantMatrix
{
    private readonly FrozenDictionary<string, MatrixVariant> _byValues;

    /// <exception cref="ArgumentException">There are more combinations than <see cref="MadeSet.MostVariants"/>.</exception>
    public VariantMatrix(MatrixSource source)
    {
        Options = source.Options;
        Made = new MadeSet(Options, source.NotMade);
        Figures = new Cascade(source.Base, Options);
        var listed = source.Variants.ToDictionary(v => v.Values.Text);
        var pattern = source.Pattern.IsEmpty ? SkuPattern.Default(Options) : source.Pattern;
        var all = ImmutableArray.CreateBuilder<MatrixVariant>();
        var counter = 0;
        foreach (var number in Made.Made())
        {
            counter++;
            var values = Made.At(number);
            var variant = listed.GetValueOrDefault(values.Text) ?? new Variant(values);
            var sku = variant.Sku ?? Sku.Parse(SkuPattern.Make(pattern, source.Code, Options, values, counter)) switch
            {
                { Ok: true } read => read.Value,
                _ => Sku.Of($"{source.Code}-{counter}"),
            };
            all.Add(new MatrixVariant(number, variant, sku, Figures.Price(variant.Own, values),
                Figures.Resolve(variant.Own, values, f => f.Cost), Figures.Resolve(variant.Own, values, f => f.Rrp), variant.Selling.Over(source.Selling)));
        }
        Variants = all.ToImmutable();
        _byValues = Variants.ToFrozenDictionary(v => v.Values.Text, StringComparer.Ordinal);
        Configurator = new Configurator(Made, Variants.Where(v => !v.Variant.Retired).Select(v => v.Number));
    }

    public ImmutableArray<Option> Options { get; }
    public MadeSet Made { get; }
    public Cascade Figures { get; }

    /// <summary>Every made variant in the order of the options, the retired ones too.</summary>
    public ImmutableArray<MatrixVariant> Variants { get; }

    public Configurator Configurator { get; }

    /// <summary>The variants that are offered.</summary>
    public IEnumerable<MatrixVariant> Offered => Variants.Where(v => !v.Variant.Retired);

    /// <summary>How many combinations are not made.</summary>
    public int NotMadeCount => Made.Combinations - Variants.Length;

    public MatrixVariant? Find(Combination values) => _byValues.GetValueOrDefault(values.Text);

    /// <summary>“3 × 3 = 9 variants” or “3 × 3 = 9, 1 not made, 8 variants”; empty without options.</summary>
    public string SizeInWords => Options.IsEmpty ? "" : SizeSentence(Options, NotMadeCount);

    public static string SizeSentence(IReadOnlyList<Option> options, int notMade)
    {
        var size = MadeSet.Size(options);
        var product = string.Join(" × ", options.Select(o => o.Values.Length.ToString("N0")));
        var left = size - notMade;
        return $"{product} = {size:N0}{(notMade > 0 ? $", {notMade:N0} not made, {left:N0}" : "")} {(left == 1 ? "variant" : "variants")}";
    }
}
