using System.Collections.Immutable;
using System.Runtime.CompilerServices;

namespace Unicus.Core;

/// <summary>A published, numbered state of a product, compiled once and never changed.</summary>
/// <param name="ProductId">The number by which the shop keeps the product.</param>
/// <param name="Number">1 for the first edition, then upwards.</param>
/// <param name="PublishedAt">The moment since which it is on sale.</param>
/// <param name="Product">With the shared sets of extras that reach it.</param>
/// <param name="Matrix">Its variants.</param>
public sealed record Edition(int ProductId, int Number, DateTimeOffset PublishedAt, Product Product, VariantMatrix Matrix)
{
    private readonly Lazy<AnswerSheet> _answers = new(() => new AnswerSheet(Product.Questions));
    private readonly Lazy<Configurator> _configurator = new(() => new Configurator(Product, Matrix));
    private StrongBox<ImmutableArray<UnitSpan>?>? _unitSpans;
    private ImmutableArray<Option> _questions;
    private ImmutableArray<FilledSlot> _slots;

    /// <summary>The shared sets that it was put together with.</summary>
    public required IReadOnlyList<ExtraSet> Sets { get; init; }

    /// <summary>The product's questions, put together once.</summary>
    public ImmutableArray<Option> Questions => _questions.IsDefault ? _questions = Product.Questions : _questions;

    /// <summary>The product's slots with what may fill them, put together once; none where nothing is sold together.</summary>
    public ImmutableArray<FilledSlot> Slots => _slots.IsDefault ? _slots = Product.Slots : _slots;

    /// <summary>What picked answers add.</summary>
    internal AnswerSheet Answers => _answers.Value;

    /// <summary>What is asked about answers. Compiled when it is first asked for.</summary>
    public Configurator Configurator => _configurator.Value;

    /// <summary>What a unit of each variant comes to over all answers, without any rules of prices; null where there are very many, or
    /// where answers bring parts, whose prices are not its own. For slots of sets, which ask again and again.</summary>
    internal ImmutableArray<UnitSpan>? UnitSpans => (_unitSpans ??= new(UnitSpan.Of(this))).Value;

    /// <summary>About how much memory it takes once it is compiled and was asked about, in bytes. An estimate for a cache that
    /// weighs.</summary>
    public long Bytes =>
        60_000
        + 300L * Matrix.Made.Combinations
        + 900L * Product.Variants.Length
        + 1_200L * Product.Questions.Sum(q => 1 + q.Values.Length)
        + 600L * Product.Rules.Length
        + 2L * (Product.Description?.Length ?? 0)
        + (_configurator.IsValueCreated ? Configurator.Bytes : 0);

    /// <summary>“Garden hive, deep, cedar”.</summary>
    public string Title(MatrixVariant variant) => PriceCalculator.Title(Product.Name, variant.Values, Matrix.Options);
}

/// <summary>What a unit of a variant comes to over all its answers, in minor units.</summary>
internal sealed record UnitSpan(VariantOnSale Goods, long Lowest, long Highest)
{
    /// <summary>What one unit takes.</summary>
    public ImmutableArray<LeafNeed> Needs { get; } = [new LeafNeed(LeafPath.Own, Goods, 1, "")];

    /// <summary>The key of its tax class.</summary>
    public string? TaxClass { get; } = Goods.TaxClass;

    private const int MostVariants = 400;

    /// <inheritdoc cref="Edition.UnitSpans"/>
    public static ImmutableArray<UnitSpan>? Of(Edition edition)
    {
        if (edition.Product.Extras.Any(q => q.Values.Any(v => v.Part is not null)))
            return null;
        var configurator = edition.Configurator;
        var offered = configurator.Offered(Configuration.Empty).Take(MostVariants + 1).ToList();
        if (offered.Count > MostVariants)
            return null;
        var spans = ImmutableArray.CreateBuilder<UnitSpan>();
        foreach (var variant in offered)
            if (variant.Price.Figure is not null && configurator.Span(Configuration.Of(variant.Values), _ => null) is { } span)
                spans.Add(new UnitSpan(new VariantOnSale(edition, variant), MinorUnits.Of(span.Lowest), MinorUnits.Of(span.Highest)));
        return spans.ToImmutable();
    }
}

/// <summary>A variant that is on sale: with a page of its own, or as a part of something else.</summary>
public sealed record VariantOnSale(Edition Edition, MatrixVariant Variant)
{
    private PartFigures? _figures;

    /// <summary>Price, cost and name, as they stand in prices of what it is a part of. Put together when they are first asked
    /// for.</summary>
    public PartFigures Figures => _figures ??= new PartFigures(Variant.Price.Figure, Variant.Cost.Figure, Edition.Title(Variant));

    /// <summary>Whether it is the same variant of the same edition.</summary>
    public bool Equals(VariantOnSale? other) => other is not null && Edition == other.Edition && Variant == other.Variant;

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Edition.ProductId, Variant.Sku);

    /// <summary>The key of its tax class; null where it names none, which means the shop's first.</summary>
    public string? TaxClass => Edition.Matrix.Figures.Resolve(Variant.Variant.Own, Variant.Values, f => f.TaxClass).Figure;

    /// <summary>What one unit weighs in grams; null where it is not known.</summary>
    public int? WeightGrams => Edition.Matrix.Figures.Resolve<int>(Variant.Variant.Own, Variant.Values, f => f.WeightGrams).Figure;

    /// <summary>The size of one unit; null where it is not known.</summary>
    public SizeMm? SizeMm => Edition.Matrix.Figures.Resolve(Variant.Variant.Own, Variant.Values, f => f.SizeMm).Figure;

    /// <summary>What one unit holds; null where it is not known.</summary>
    public NetContent? NetContent => Edition.Matrix.Figures.Resolve(Variant.Variant.Own, Variant.Values, f => f.NetContent).Figure;

    /// <summary>The commodity code for customs; null where none is known.</summary>
    public string? CustomsCode => Edition.Matrix.Figures.Resolve(Variant.Variant.Own, Variant.Values, f => f.CustomsCode).Figure;

    /// <summary>The country of origin; null where it is not known.</summary>
    public string? Origin => Edition.Matrix.Figures.Resolve(Variant.Variant.Own, Variant.Values, f => f.Origin).Figure;

    /// <summary>The number of available units at or below which the stock is low; null where none is set.</summary>
    public int? LowLevel => Edition.Matrix.Figures.Resolve<int>(Variant.Variant.Own, Variant.Values, f => f.LowLevel).Figure;
}
