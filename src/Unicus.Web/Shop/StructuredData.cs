using System.Text.Json.Nodes;

namespace Unicus.Web.Shop;

/// <summary>A product page for machines: schema.org <c>ProductGroup</c> with <c>hasVariant</c> and <c>variesBy</c>.</summary>
public static class StructuredData
{
    private const int MostVariants = 100;

    /// <summary>JSON-LD that is safe inside a script element: <c>&lt;</c> is escaped.</summary>
    public static string Of(BuySource of, string root)
    {
        var product = of.Edition.Product;
        var url = $"{root}/p/{product.Address}";
        var offered = of.Edition.Matrix.Offered.Take(MostVariants).ToList();
        if (product.Options.IsEmpty && offered.Count == 1)
        {
            var single = Product(of, offered[0], url, root);
            single["@context"] = "https://schema.org";
            return single.ToJsonString();
        }
        return new JsonObject
        {
            ["@context"] = "https://schema.org",
            ["@type"] = "ProductGroup",
            ["name"] = product.Name,
            ["description"] = product.Summary,
            ["url"] = url,
            ["productGroupID"] = product.Code.Text,
            ["variesBy"] = new JsonArray([.. product.Options.Select(o => (JsonNode)o.Label!)]),
            ["hasVariant"] = new JsonArray([
                .. offered.Select(v => (JsonNode)Product(of, v, url + BuyForm.Query(Configuration.Of(v.Values)), root)),
            ]),
        }.ToJsonString();
    }

    private static JsonObject Product(BuySource of, MatrixVariant variant, string url, string root)
    {
        var json = new JsonObject
        {
            ["@type"] = "Product",
            ["name"] = of.Edition.Title(variant),
            ["sku"] = variant.Sku.Text,
            ["url"] = url,
        };
        if (of.Edition.Product.PicturesFor(variant.Variant) is [var picture, ..])
            json["image"] = $"{root}/pictures/large/{picture.File}";
        // The lowest price that it can be bought for, needed extras included; where it cannot, what it would cost.
        var given = Configuration.Of(variant.Values);
        var from = ConfigurationStatus.From(of.Edition, given, of.At(of.Edition.Product.Selling.Least));
        if ((from ?? variant.Price.Figure) is not { } price)
            return json;
        var offer = new JsonObject
        {
            ["@type"] = "Offer",
            ["price"] = price.ToString(),
            ["priceCurrency"] = price.Currency.Code,
            ["availability"] = from is null ? "https://schema.org/OutOfStock" : "https://schema.org/InStock",
        };
        var once = of.Edition.Configurator.NeededOnce(of.Edition.Configurator.Answer(given), price.Currency);
        if (!once.IsZero)
            offer["priceSpecification"] = Parts(price, once);
        json["offers"] = offer;
        return json;
    }

    /// <summary>A price for each unit, and what is due once for an order line whatever its quantity.</summary>
    private static JsonObject Parts(Money each, Money once) =>
        new()
        {
            ["@type"] = "CompoundPriceSpecification",
            ["priceCurrency"] = each.Currency.Code,
            ["priceComponent"] = new JsonArray(
                new JsonObject
                {
                    ["@type"] = "UnitPriceSpecification",
                    ["name"] = "Each",
                    ["price"] = each.ToString(),
                    ["priceCurrency"] = each.Currency.Code,
                    ["unitText"] = "piece",
                },
                new JsonObject
                {
                    ["@type"] = "PriceSpecification",
                    ["name"] = "Once, whatever the number",
                    ["price"] = once.ToString(),
                    ["priceCurrency"] = once.Currency.Code,
                }
            ),
        };
}
