namespace Unicus.Web.Shell;

/// <summary>Behind a proxy, refuses pages of which the proxy does not say that they went over TLS: cookies would be lost on the
/// way.</summary>
public sealed class SaidScheme(RequestDelegate next)
{
    /// <summary>Asked by programs on the machine itself, and without cookies.</summary>
    private static readonly string[] WithoutPages = ["/health", "/ready", "/metrics", "/api", "/openapi", "/schemas"];

    public Task Invoke(HttpContext context)
    {
        if (context.Request.IsHttps || WithoutPages.Any(p => context.Request.Path.StartsWithSegments(p)))
            return next(context);
        context.Response.StatusCode = StatusCodes.Status400BadRequest;
        return context.Response.WriteAsync(
            "The proxy before this shop does not say that the page was asked for over TLS. Let it send “X-Forwarded-Proto: https”."
        );
    }
}
