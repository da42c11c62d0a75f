using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>Price rules of a product's own.</summary>
internal static class OwnRules
{
    /// <summary>A key for a new one.</summary>
    public static Key FreeKey(Product product, string name) =>
        Key.From(name.Length > 0 ? name : "rule", product.PriceRules.Select(r => r.Key).ToHashSet(), "rule");

    /// <summary>Writes a rule of the product; it acts once that is published.</summary>
    /// <param name="version">Of the working copy, as it was seen.</param>
    public static async Task<Outcome> Put(ChangeProduct products, string code, PriceRule rule, int version, Actor by) =>
        await products.Apply(code, $"Price rule {rule.Name}", by, copy =>
        {
            if (copy.Version != version)
                return Read<Product>.No(ChangePriceRules.WasChanged.What);
            var own = copy.Product.PriceRules;
            var at = own.ToList().FindIndex(r => r.Key == rule.Key);
            return Read<Product>.Of(copy.Product with { PriceRules = at < 0 ? own.Add(rule) : own.SetItem(at, rule) });
        });
}
