namespace Unicus.Core.Range;

using Unicus.Core.Variants;

/// <summary>The published state of the shop as one thing to ask: what is on sale, by product code and by SKU.</summary>
/// <remarks>
/// A view of one moment: whatever is asked of it, the answers fit together. What an asker may need is in it beforehand, so that asking
/// never waits for a database.
/// </remarks>
public abstract class PublishedRange
{
    /// <summary>A range in which nothing is on sale.</summary>
    public static PublishedRange Empty { get; } = new Of([]);

    /// <summary>The newest edition of a product; null if it was never published.</summary>
    /// <param name="code">In capitals.</param>
    public abstract Edition? Product(string code);

    /// <summary>The variant with this SKU, or former SKU, in the newest edition of its product; null if it is in none.</summary>
    /// <param name="code">In any letter case.</param>
    /// <remarks>One that is no longer offered is found only where no other has the SKU.</remarks>
    public abstract VariantOnSale? Sku(string code);

    /// <summary>The variant with this SKU if it is on offer; else null.</summary>
    public VariantOnSale? Part(string code) => Sku(code) is { Variant.Variant.Retired: false } found ? found : null;

    /// <summary>A range of these editions, which finds their SKUs by looking through them.</summary>
    public sealed class Of(IEnumerable<Edition> editions) : PublishedRange
    {
        private readonly Dictionary<string, Edition> _byCode = editions.ToDictionary(e => e.Product.Code.Text);

        /// <inheritdoc/>
        public override Edition? Product(string code) => _byCode.GetValueOrDefault(code.ToUpperInvariant());

        /// <inheritdoc/>
        public override VariantOnSale? Sku(string code)
        {
            if (Variants.Sku.Parse(code) is not { Ok: true, Value: var sku })
                return null;
            var found = _byCode
                .Values.Select(e => e.Matrix.Find(sku) is { } v ? new VariantOnSale(e, v) : null)
                .OfType<VariantOnSale>()
                .ToList();
            return found.Find(f => !f.Variant.Variant.Retired) ?? found.FirstOrDefault();
        }
    }
}
