
namespace Unicus.Store;

/// <summary>The published range as far as one question needs it, read beforehand.</summary>
/// <param name="editions">By product code.</param>
/// <param name="skus">By code in capitals.</param>
internal sealed class RangeView(IReadOnlyDictionary<string, Edition> editions, IReadOnlyDictionary<string, VariantOnSale> skus)
    : PublishedRange
{
    /// <summary>The products in it.</summary>
    public IEnumerable<Edition> Editions => editions.Values;

    /// <inheritdoc/>
    public override Edition? Product(string code) => editions.GetValueOrDefault(code.ToUpperInvariant());

    /// <inheritdoc/>
    public override VariantOnSale? Sku(string code) => skus.GetValueOrDefault(code.Trim().ToUpperInvariant());
}
