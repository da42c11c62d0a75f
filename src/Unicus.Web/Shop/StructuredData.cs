using System.Text.Json.Nodes;
using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Shop;

/// <summary>A product page for machines: schema.org <c>ProductGroup</c> with <c>hasVariant</c> and <c>variesBy</c>.</summary>
public static class StructuredData
{
    private const int MostVariants = 100;

    /// <summary>JSON-LD that is safe inside a script element: <c>&lt;</c> is escaped.</summary>
    public static string Of(CompiledEdition edition, IReadOnlyDictionary<Sku, StockLevel> stock, DateOnly today, string root)
    {
        var product = edition.Product;
        var url = $"{root}/p/{product.Address}";
        var offered = edition.Matrix.Offered.Take(MostVariants).ToList();
        if (product.Options.IsEmpty && offered.Count == 1)
        {
            var single = Product(edition, offered[0], stock, today, url, root);
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
                .. offered.Select(v => (JsonNode)Product(edition, v, stock, today, url + BuyForm.Query(Configuration.Of(v.Values)), root)),
            ]),
        }.ToJsonString();
    }

    private static JsonObject Product(
        CompiledEdition edition,
        MatrixVariant variant,
        IReadOnlyDictionary<Sku, StockLevel> stock,
        DateOnly today,
        string url,
        string root
    )
    {
        var json = new JsonObject
        {
            ["@type"] = "Product",
            ["name"] = PriceCalculator.Title(edition.Product.Name, variant.Values, edition.Matrix.Options),
            ["sku"] = variant.Sku.Text,
            ["url"] = url,
        };
        if (edition.Product.PicturesFor(variant.Variant) is [var picture, ..])
            json["image"] = $"{root}/pictures/large/{picture.File}";
        if (variant.Price.Figure is { } price)
            json["offers"] = new JsonObject
            {
                ["@type"] = "Offer",
                ["price"] = price.ToString(),
                ["priceCurrency"] = price.Currency.Code,
                ["availability"] = Availability.Of(variant.Selling, stock.GetValueOrDefault(variant.Sku), today).CanSell(1)
                    ? "https://schema.org/InStock"
                    : "https://schema.org/OutOfStock",
            };
        return json;
    }
}
