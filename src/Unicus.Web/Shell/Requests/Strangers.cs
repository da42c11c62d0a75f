using System.Net;
using System.Net.Sockets;
using System.Threading.RateLimiting;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.AspNetCore.RateLimiting;
using Unicus.Web.Api;

namespace Unicus.Web.Shell;

/// <summary>How much one address may ask of the shop. Section <c>Strangers</c> of the configuration.</summary>
public sealed class StrangerLimits
{
    /// <summary>Pages and picks that an address may ask for without a pause.</summary>
    public int PagesAtFirst { get; set; } = 120;

    /// <summary>Pages and picks a second after that.</summary>
    public int PagesPerSecond { get; set; } = 8;

    /// <summary>Pages and picks that are worked on at the same time; others wait in turn.</summary>
    public int PagesAtOnce { get; set; } = 2;

    /// <summary>Pictures and pieces of films without a pause, and a second after that.</summary>
    public int FilesAtFirst { get; set; } = 600;

    /// <inheritdoc cref="FilesAtFirst"/>
    public int FilesPerSecond { get; set; } = 60;

    /// <summary>Milliseconds of work for an address without a pause; see <see cref="FairShare"/>.</summary>
    public double WorkAtFirst { get; set; } = 60;

    /// <summary>Milliseconds of work for an address a second after that.</summary>
    public double WorkPerSecond { get; set; } = 40;

    /// <summary>Tries to sign in within a minute.</summary>
    public int SignInsPerMinute { get; set; } = 20;
}

/// <summary>Limits whoever has neither signed in nor a key, by address. Behind a proxy the address is the one that it names.</summary>
public static class Strangers
{
    /// <summary>Names the policy of the sign-in page.</summary>
    public const string SignIn = "sign-in";

    private const int MostWaiting = 40;

    public static void AddStrangerLimits(this WebApplicationBuilder builder)
    {
        var limits = builder.Configuration.GetSection("Strangers").Get<StrangerLimits>() ?? new StrangerLimits();
        builder.Services.AddSingleton(limits).AddSingleton<FairShare>();
        builder.Services.AddRateLimiter(o =>
        {
            o.RejectionStatusCode = StatusCodes.Status429TooManyRequests;
            o.OnRejected = (rejected, _) =>
            {
                rejected.HttpContext.Response.Headers.RetryAfter = "10";
                return ValueTask.CompletedTask;
            };
            o.GlobalLimiter = PartitionedRateLimiter.CreateChained(
                PartitionedRateLimiter.Create<HttpContext, string>(context => ByRate(context, limits)),
                PartitionedRateLimiter.Create<HttpContext, string>(context => ByNumber(context, limits))
            );
            o.AddPolicy(SignIn, context =>
                RateLimitPartition.GetFixedWindowLimiter(AddressOf(context), _ => new FixedWindowRateLimiterOptions
                {
                    PermitLimit = HttpMethods.IsPost(context.Request.Method) ? limits.SignInsPerMinute : limits.SignInsPerMinute * 10,
                    Window = TimeSpan.FromMinutes(1),
                })
            );
        });
    }

    /// <summary>Believes <c>X-Forwarded-For</c> and <c>X-Forwarded-Proto</c> of the proxies that the configuration names, and of nobody
    /// else.</summary>
    /// <returns>Whether there are any: then people reach the shop by HTTPS only.</returns>
    public static bool AddProxies(this WebApplicationBuilder builder)
    {
        var named = (builder.Configuration["Proxies"] ?? "").Split([',', ' '], StringSplitOptions.RemoveEmptyEntries);
        if (named.Length == 0)
            return false;
        builder.Services.Configure<ForwardedHeadersOptions>(o =>
        {
            o.ForwardedHeaders = ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto;
            o.KnownProxies.Clear();
            o.KnownIPNetworks.Clear();
            foreach (var network in named)
                o.KnownIPNetworks.Add(Network(network));
        });
        return true;
    }

    /// <summary>One address or a network such as 10.0.0.0/8.</summary>
    private static System.Net.IPNetwork Network(string text)
    {
        if (text.Contains('/'))
            return System.Net.IPNetwork.Parse(text);
        var address = IPAddress.Parse(text);
        return new System.Net.IPNetwork(address, address.AddressFamily == AddressFamily.InterNetwork ? 32 : 128);
    }

    private static RateLimitPartition<string> ByRate(HttpContext context, StrangerLimits limits)
    {
        if (IsKnown(context))
            return RateLimitPartition.GetNoLimiter("");
        var (first, each) = IsFile(context) ? (limits.FilesAtFirst, limits.FilesPerSecond) : (limits.PagesAtFirst, limits.PagesPerSecond);
        return RateLimitPartition.GetTokenBucketLimiter(KeyOf(context), _ => new TokenBucketRateLimiterOptions
        {
            TokenLimit = first,
            TokensPerPeriod = each,
            ReplenishmentPeriod = TimeSpan.FromSeconds(1),
        });
    }

    private static RateLimitPartition<string> ByNumber(HttpContext context, StrangerLimits limits) =>
        IsKnown(context)
            ? RateLimitPartition.GetNoLimiter("")
            : RateLimitPartition.GetConcurrencyLimiter(KeyOf(context), _ => new ConcurrencyLimiterOptions
            {
                PermitLimit = IsFile(context) ? limits.PagesAtOnce * 4 : limits.PagesAtOnce,
                QueueLimit = MostWaiting,
                QueueProcessingOrder = QueueProcessingOrder.OldestFirst,
            });

    /// <summary>Whether somebody asks who has signed in, or has a key.</summary>
    public static bool IsKnown(HttpContext context) =>
        context.User.Identity?.IsAuthenticated == true
        || context.Features.Get<ApiCaller>() is not null
        || Watching.Is(context.Request.Path);

    /// <summary>Whether a picture or a piece of a film is asked for.</summary>
    public static bool IsFile(HttpContext context) =>
        context.Request.Path.StartsWithSegments("/pictures") || context.Request.Path.StartsWithSegments("/videos");

    private static string KeyOf(HttpContext context) => (IsFile(context) ? "file " : "page ") + AddressOf(context);

    /// <summary>Who asks. Of an IPv6 address the first half, since whoever has one has all of that network.</summary>
    public static string AddressOf(HttpContext context)
    {
        var address = context.Connection.RemoteIpAddress;
        if (address is null)
            return "";
        if (address.IsIPv4MappedToIPv6)
            address = address.MapToIPv4();
        return address.AddressFamily == AddressFamily.InterNetworkV6
            ? Convert.ToHexString(address.GetAddressBytes(), 0, 8)
            : address.ToString();
    }
}
