namespace Unicus.Store;

/// <summary>Prices of a time as a column of the matrix: each is one of the product's own price rules that sets prices by SKU.</summary>
public static class DatedPrices
{
    private const string Prefix = "dated-";

    /// <summary>The rules that are columns.</summary>
    public static IEnumerable<PriceRule> Of(Product product) => product.PriceRules.Where(r => r.Effect is PriceEffect.SetBySku);

    /// <summary>The name of the column of a rule.</summary>
    public static string Column(Key rule) => Prefix + rule.Text;

    /// <summary>The key of the rule whose column this is; null for other columns.</summary>
    public static Key? RuleOf(string column) =>
        column.StartsWith(Prefix, StringComparison.Ordinal) && Key.TryParse(column[Prefix.Length..], out var key) ? key : null;

    /// <summary>The column as a figure; null where it is none.</summary>
    public static CellFigure? Figure(string column) =>
        RuleOf(column) is { } key
            ? new CellFigure(
                column,
                $"Price of {key}",
                (copy, variant) =>
                    PriceOf(copy, key, variant) is { } price ? (price.ForPeople(), FigureSource.Own) : ("", FigureSource.None),
                (_, _, _) => Read<Variant>.No("Load the page anew."),
                (copy, variant) => PriceOf(copy, key, variant)?.Amount
            )
            : null;

    /// <summary>The product with a price of a rule typed for a variant; nothing typed takes it out.</summary>
    public static Read<Product> Take(Product product, Key rule, MatrixVariant variant, string typed, Currency currency)
    {
        var at = product.PriceRules.ToList().FindIndex(r => r.Key == rule);
        if (at < 0 || product.PriceRules[at].Effect is not PriceEffect.SetBySku by)
            return Read<Product>.No("This rule is no longer there. Load the page anew.");
        var read = TypedNumbers.Amount(typed, currency);
        if (!read.Ok)
            return Read<Product>.No(read.Problem!);
        var sku = variant.Sku.Text.ToUpperInvariant();
        var prices = read.Value is { } price ? by.Prices.SetItem(sku, MinorUnits.Of(price)) : by.Prices.Remove(sku);
        if (prices.IsEmpty)
            return Read<Product>.No("One price at least stays. Take the rule out in Price rules instead.");
        var changed = product.PriceRules[at] with { Effect = by with { Prices = prices } };
        return Read<Product>.Of(product with { PriceRules = product.PriceRules.SetItem(at, changed) });
    }

    private static Money? PriceOf(WorkingCopy copy, Key rule, MatrixVariant variant) =>
        copy.Product.PriceRules.FirstOrDefault(r => r.Key == rule)?.Effect is PriceEffect.SetBySku by
        && by.Prices.TryGetValue(variant.Sku.Text.ToUpperInvariant(), out var minor)
            ? MinorUnits.ToMoney(minor, copy.Shop.Currency)
            : null;
}
