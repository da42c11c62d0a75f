using Microsoft.AspNetCore.Antiforgery;
using Microsoft.Extensions.Caching.Memory;

namespace Unicus.Web.Shop;

/// <summary>The antiforgery token of a visitor's forms, kept for some minutes under their cookie: a visitor looks at many pages, and
/// making one is dear.</summary>
public sealed class FormTokens(IAntiforgery antiforgery) : IDisposable
{
    private const int MostVisitors = 10_000;
    private static readonly TimeSpan Kept = TimeSpan.FromMinutes(10);
    private readonly MemoryCache _tokens = new(new MemoryCacheOptions { SizeLimit = MostVisitors });

    public string Of(HttpContext context)
    {
        // A token belongs to a cookie and a person; one made for another of either would be refused.
        context.Response.Headers.CacheControl = "no-cache, no-store";
        var key = (context.Request.Cookies["unicus-form"], context.User.Identity?.Name);
        if (key.Item1 is not null && _tokens.TryGetValue(key, out string? kept))
            return kept!;
        var made = antiforgery.GetAndStoreTokens(context);
        if (key.Item1 is not null && made.CookieToken is null)
            _tokens.Set(key, made.RequestToken, new MemoryCacheEntryOptions { Size = 1, AbsoluteExpirationRelativeToNow = Kept });
        return made.RequestToken!;
    }

    public void Dispose() => _tokens.Dispose();
}
