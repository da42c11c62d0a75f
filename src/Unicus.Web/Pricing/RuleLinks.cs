namespace Unicus.Web.Pricing;

/// <summary>Where a rule is that workings name.</summary>
public static class RuleLinks
{
    /// <summary>The shop's in Pricing, a product's own on its workbench.</summary>
    /// <param name="id">The key, or <c>CODE/key</c>.</param>
    public static string Of(string id) =>
        id.Split('/') is [var code, var key] ? $"/office/products/{code}/prices?rule={key}" : $"/office/pricing/{id}";
}
