namespace Unicus.Core.Range;

using System.Collections.Immutable;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Answers;
using Unicus.Core.Products;
using Unicus.Core.Variants;

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
