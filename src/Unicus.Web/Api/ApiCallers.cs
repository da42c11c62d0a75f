using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Security.Cryptography;
using System.Text;
using Unicus.Store;

namespace Unicus.Web.Api;

/// <summary>Who calls the HTTP interface, by the key that came along.</summary>
/// <param name="Name">What the key is for.</param>
/// <param name="Scopes">What it may do, of <see cref="ApiScopes"/>.</param>
public sealed record ApiCaller(string Name, ImmutableArray<string> Scopes);

/// <summary>The scope that a call needs; <see cref="ApiScopes.Read"/> where it says nothing.</summary>
public sealed record NeededScope(string Scope);

/// <summary>Finds out whose key came along: <c>Authorization: Bearer KEY</c>. Before the limits for strangers, which such a caller is
/// not.</summary>
public sealed class ReadApiKey(RequestDelegate next)
{
    private static readonly byte[]? FirstKey = Environment.GetEnvironmentVariable("UNICUS_API_KEY") is { Length: > 0 } key
        ? SHA256.HashData(Encoding.UTF8.GetBytes(key))
        : null;

    /// <summary>When uses of keys were noted last, so that it is done once a minute and not with each call.</summary>
    private readonly ConcurrentDictionary<int, long> _noted = new();

    public async Task Invoke(HttpContext context)
    {
        var sent = context.Request.Headers.Authorization.ToString();
        if (context.Request.Path.StartsWithSegments("/api") && sent.StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase))
            if (await CallerWith(context.RequestServices, sent[7..].Trim()) is { } caller)
                context.Features.Set(caller);
        await next(context);
    }

    private async Task<ApiCaller?> CallerWith(IServiceProvider services, string key)
    {
        if (FirstKey is not null && CryptographicOperations.FixedTimeEquals(SHA256.HashData(Encoding.UTF8.GetBytes(key)), FirstKey))
            return new ApiCaller("--api-key", ApiScopes.All);
        if (!key.StartsWith(ApiKeys.Prefix, StringComparison.Ordinal) || key.Length > 100)
            return null;
        if (await services.GetRequiredService<ShopReading>().KeyWith(Secrets.HashOf(key)) is not { } known)
            return null;
        var now = Environment.TickCount64;
        if (now - _noted.GetValueOrDefault(known.Id, -60_000) >= 60_000)
        {
            _noted[known.Id] = now;
            await services.GetRequiredService<ApiKeys>().NoteUse(known.Id);
        }
        return new ApiCaller(known.Name, known.Scopes);
    }
}

/// <summary>Lets in whoever has a key that may do what is asked.</summary>
public sealed class KeyFilter : IEndpointFilter
{
    public async ValueTask<object?> InvokeAsync(EndpointFilterInvocationContext context, EndpointFilterDelegate next)
    {
        var http = context.HttpContext;
        if (http.Features.Get<ApiCaller>() is not { } caller)
        {
            http.Response.Headers.WWWAuthenticate = "Bearer realm=\"Unicus\"";
            return Problems.Of(401, "The key is missing or wrong. Owners make keys in the back office; --api-key gives the first.");
        }
        var needed = http.GetEndpoint()?.Metadata.GetMetadata<NeededScope>()?.Scope ?? ApiScopes.Read;
        return caller.Scopes.Contains(needed)
            ? await next(context)
            : Problems.Of(403, $"The key “{caller.Name}” may not do that: it lacks the scope {needed}.");
    }
}
