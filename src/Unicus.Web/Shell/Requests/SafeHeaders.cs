namespace Unicus.Web.Shell;

/// <summary>Puts the strict content security policy and its companions on every reply.</summary>
public sealed class SafeHeaders(RequestDelegate next)
{
    private const string Policy =
        "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data: blob:; font-src 'self'; media-src 'self'; "
        + "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

    /// <summary>Where nothing is for everybody.</summary>
    private static readonly string[] Private = ["/office", "/api", "/basket", "/checkout", "/order", "/account", "/metrics"];

    /// <summary>Lets one page show films from these hosts too.</summary>
    public static void AllowFilms(HttpResponse response, IEnumerable<string> hosts) =>
        response.Headers.ContentSecurityPolicy = Policy.Replace(
            "media-src 'self'",
            string.Join(' ', hosts.Where(h => System.Text.Ascii.IsValid(h)).Select(h => $"https://{h}").Prepend("media-src 'self'"))
        );

    /// <summary>Puts the headers on a reply whose own were cleared.</summary>
    public static void Put(HttpContext context)
    {
        var headers = context.Response.Headers;
        headers.ContentSecurityPolicy = Policy;
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "same-origin";
        headers["Permissions-Policy"] = "camera=(), geolocation=(), microphone=()";
        if (Array.Exists(Private, p => context.Request.Path.StartsWithSegments(p)))
            headers.CacheControl = "no-store";
    }

    public Task Invoke(HttpContext context)
    {
        Put(context);
        return next(context);
    }
}
