using System.Collections.Immutable;

namespace Unicus.Store;

/// <summary>What reading prices back would do to a product.</summary>
/// <param name="Structure">The base and surcharges that were found.</param>
/// <param name="OwnBefore">How many variants have a price of their own now.</param>
/// <param name="Exceptions">The variants that keep one, with what base and surcharges would come to.</param>
public sealed record ReadBack(PriceStructure Structure, int OwnBefore, IReadOnlyList<PriceException> Exceptions, Product After);

/// <summary>A price that base and surcharges do not come to.</summary>
public sealed record PriceException(MatrixVariant Variant, Money Price, Money? Otherwise);

/// <summary>Replaces prices that were typed for each variant by the base and surcharges behind them; no price changes.</summary>
public sealed class ReadPricesBack(UnicusContext db, ChangeProduct products)
{
    /// <summary>What it would do; null where no variant has a price, or there is no such product.</summary>
    public async Task<ReadBack?> Preview(string code) => await WorkingCopy.Load(db, code) is { } copy ? Work(copy) : null;

    /// <summary>Does it, as one change that can be taken back.</summary>
    /// <param name="version">The version that was seen; another one is refused.</param>
    public Task<Outcome> Run(string code, int version, Actor by) =>
        products.Apply(
            code,
            "Prices read back as base and surcharges",
            by,
            copy =>
                copy.Row.Version != version ? Read<Product>.No("Nothing was saved: the product was changed meanwhile. Look again first.")
                : Work(copy) is { } read ? Read<Product>.Of(read.After)
                : Read<Product>.No("No variant has a price."),
            scope: _ => VariantScope.All
        );

    private static ReadBack? Work(WorkingCopy copy)
    {
        if (PriceReading.Of(copy.Matrix) is not { } structure)
            return null;
        var bare = copy.Product with { Variants = [.. copy.Product.Variants.Select(v => v with { Own = v.Own with { Price = null } })] };
        var after = structure.On(bare, copy.Shop.Currency);
        var made = after.Matrix();
        var (kept, exceptions) = (new Dictionary<string, Money>(), new List<PriceException>());
        foreach (var variant in copy.Matrix.Variants)
        {
            var otherwise = made.Find(variant.Values)?.Price.Figure;
            if (variant.Price.Figure is not { } price || price == otherwise)
                continue;
            kept[variant.Values.Text] = price;
            if (!variant.Variant.Retired)
                exceptions.Add(new PriceException(variant, price, otherwise));
        }
        var own = copy.Product.Variants.Count(v => v.Own.Price is not null && !v.Retired);
        var product = after with { Variants = Keeping(after.Variants, kept) };
        return new ReadBack(structure, own, exceptions, product);
    }

    private static ImmutableArray<Variant> Keeping(ImmutableArray<Variant> variants, Dictionary<string, Money> prices) =>
        [.. variants.Select(v => prices.TryGetValue(v.Values.Text, out var price) ? v with { Own = v.Own with { Price = price } } : v)];
}
