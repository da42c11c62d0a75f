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

    /// <summary>The shared sets that it was put together with.</summary>
    public required IReadOnlyList<ExtraSet> Sets { get; init; }

    /// <summary>What picked answers add.</summary>
    internal AnswerSheet Answers => _answers.Value;

    /// <summary>What is asked about answers. Compiled when it is first asked for.</summary>
    public Configurator Configurator => _configurator.Value;

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

/// <summary>A variant that is on sale: with a page of its own, or as a part of something else.</summary>
public sealed record VariantOnSale(Edition Edition, MatrixVariant Variant)
{
    /// <summary>Price, cost and name, as they stand in prices of what it is a part of.</summary>
    public PartFigures Figures { get; } = new(Variant.Price.Figure, Variant.Cost.Figure, Edition.Title(Variant));

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
