using Microsoft.AspNetCore.Http.Features;

namespace Unicus.Web.Shell;

/// <summary>Pieces of the address as they were sent. The path that routes see cannot tell <c>%2F</c> from <c>/</c>, and SKUs may hold
/// either.</summary>
public static class RawPath
{
    /// <summary>The last piece of the path, decoded once.</summary>
    public static string Last(HttpRequest request)
    {
        var target = request.HttpContext.Features.Get<IHttpRequestFeature>()?.RawTarget is { Length: > 0 } raw
            ? raw
            : request.Path.Value ?? "";
        var path = target.Split('?', 2)[0].TrimEnd('/');
        return Uri.UnescapeDataString(path[(path.LastIndexOf('/') + 1)..]);
    }

    /// <summary>The page of a SKU, whatever signs it holds.</summary>
    public static string OfSku(string sku) => $"/office/stock/{Uri.EscapeDataString(sku)}";
}
