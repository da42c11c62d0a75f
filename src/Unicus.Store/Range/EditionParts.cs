namespace Unicus.Store;

/// <summary>Which other products an edition takes parts of.</summary>
internal static class EditionParts
{
    /// <summary>The products that a product may take parts of, at any depth, itself left out.</summary>
    public static IReadOnlyCollection<int> PartsOf(Edition edition, PublishedRange range) =>
        [.. EditionsIn(edition, range).Select(e => e.ProductId).Order()];

    /// <inheritdoc cref="PartsOf"/>
    public static IReadOnlyList<Edition> EditionsIn(Edition edition, PublishedRange range)
    {
        var found = new List<Edition>();
        var seen = new HashSet<int> { edition.ProductId };
        void Look(Edition at)
        {
            var parts = PartSkus(at.Product)
                .Select(range.Sku)
                .Select(v => v?.Edition)
                .Concat(
                    at.Product.SlotsInRange.SelectMany(s => s.Candidates)
                        .Select(c => c.Sku is { } sku ? range.Sku(sku)?.Edition : range.Product(c.Product!))
                );
            foreach (var part in parts.OfType<Edition>().Where(p => seen.Add(p.ProductId)))
            {
                found.Add(part);
                Look(part);
            }
        }
        Look(edition);
        return found;
    }

    /// <summary>The SKUs of the parts that a product's extras name.</summary>
    public static IEnumerable<string> PartSkus(Product product) =>
        product.Extras.SelectMany(e => e.Values).Select(v => v.Part?.Sku).OfType<string>().Distinct(StringComparer.OrdinalIgnoreCase);
}
