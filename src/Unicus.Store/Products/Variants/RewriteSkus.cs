using System.Collections.Immutable;

namespace Unicus.Store;

/// <summary>A SKU that would be rewritten.</summary>
public sealed record RewrittenSku(Combination Values, Sku Old, Sku New);

/// <summary>What rewriting would do.</summary>
/// <param name="Clashes">Codes that stand in the way, in words.</param>
public sealed record RewritePreview(ImmutableArray<RewrittenSku> Rows, ImmutableArray<string> Clashes);

/// <summary>Sets the pattern of a product's SKUs, and rewrites the SKUs that are there by it, shown first.</summary>
public sealed class RewriteSkus(UnicusContext db, ChangeProduct products)
{
    /// <summary>Sets the pattern; the SKUs that are there stay.</summary>
    public Task<Outcome> SetPattern(string code, ImmutableArray<PatternPiece> pattern, Actor by) =>
        products.Apply(code, "SKU pattern", by, copy =>
            pattern.OfType<PatternPiece.OfOption>().FirstOrDefault(p => copy.Product.Options.All(o => o.Key != p.Option)) is { } gone
                ? Read<Product>.No($"There is no option {gone.Option}.")
                : Read<Product>.Of(copy.Product with { SkuPattern = pattern })
        );

    public async Task<RewritePreview?> Preview(string code)
    {
        if (await WorkingCopy.Load(db, code) is not { } copy)
            return null;
        var rows = Rows(copy).ToImmutableArray();
        var clashes = new List<string>();
        foreach (var twice in rows.GroupBy(r => r.New).Where(g => g.Skip(1).Any() && Apart(copy, g) > 1).Take(20))
            clashes.Add(
                $"{twice.Key} would be made for {twice.Count()} variants: "
                    + $"{string.Join("; ", twice.Take(3).Select(t => t.Values.Name(copy.Product.Options)))}."
            );
        var own = copy.Rows.Select(r => r.SkuId).ToHashSet();
        foreach (
            var (sku, _) in (
                await new VariantTable(db).SkusCalled([
                    .. rows.Where(r => r.Old != r.New).Select(r => r.New.Text.ToUpperInvariant()).Distinct(),
                ])
            )
                .Where(s => !own.Contains(s.Sku.Id))
                .Take(20)
        )
            clashes.Add($"{sku.Code} belongs to {db.Products.Where(p => p.Id == sku.ProductId).Select(p => p.Name).FirstOrDefault()}.");
        // Variants that share a SKU are one to rewrite.
        return new RewritePreview([.. rows.Where(r => r.Old.Text != r.New.Text).DistinctBy(r => (r.Old.Text, r.New.Text))], [.. clashes]);
    }

    /// <summary>Gives every variant the SKU that the pattern makes, in one transaction; former codes stay known.</summary>
    public Task<Outcome> Run(string code, Actor by) =>
        products.Apply(
            code,
            "SKUs rewritten",
            by,
            copy =>
            {
                var wanted = Rows(copy).ToDictionary(r => r.Values.Text, r => r.New);
                return Read<Product>.Of(
                    copy.Product with
                    {
                        Variants =
                        [
                            .. copy.Product.Variants.Select(v => wanted.TryGetValue(v.Values.Text, out var sku) ? v with { Sku = sku } : v),
                        ],
                    }
                );
            },
            scope: _ => VariantScope.All
        );

    private static IEnumerable<RewrittenSku> Rows(WorkingCopy copy) =>
        copy.Matrix.Variants.Select((v, i) => new RewrittenSku(v.Values, v.Sku, copy.Matrix.PatternSku(i)));

    private static int Apart(WorkingCopy copy, IEnumerable<RewrittenSku> rows) =>
        rows.Select(r => copy.Product.Options.Where(o => o.SharesSku).Aggregate(r.Values, (c, o) => c.Without(o.Key))).Distinct().Count();
}
