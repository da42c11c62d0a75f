using System.Net;
using Microsoft.AspNetCore.Diagnostics.HealthChecks;
using OpenTelemetry.Metrics;
using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>What lets others see how the shop does: whether it lives, whether it is ready, and its measures.</summary>
public static class Watching
{
    private const string Alive = "/health";
    private const string Ready = "/ready";
    private const string Measures = "/metrics";

    /// <summary>Lines of JSON on the standard output, and measures of requests, the runtime, the database and the trade.</summary>
    public static void AddWatching(this WebApplicationBuilder builder)
    {
        builder.Logging.ClearProviders();
        builder.Logging.AddJsonConsole(o =>
        {
            o.UseUtcTimestamp = true;
            o.TimestampFormat = "yyyy-MM-ddTHH:mm:ss.fffZ";
        });
        builder
            .Logging.SetMinimumLevel(LogLevel.Warning)
            .AddFilter("Microsoft.AspNetCore.DataProtection", LogLevel.Error)
            .AddFilter("Microsoft.AspNetCore.Antiforgery", LogLevel.Error);
        builder.Services.AddHealthChecks().AddShop(tags: ["ready"]);
        builder
            .Services.AddOpenTelemetry()
            .WithMetrics(m =>
                m.AddRuntimeInstrumentation()
                    .AddMeter("Microsoft.AspNetCore.Hosting", "Microsoft.AspNetCore.Server.Kestrel", "Npgsql", TradeMeter.Name)
                    .AddPrometheusExporter()
            );
    }

    /// <summary>Maps the three addresses. The measures are only for whoever asks on the machine itself.</summary>
    public static void MapWatching(this WebApplication app)
    {
        app.MapHealthChecks(
            Alive,
            new HealthCheckOptions
            {
                Predicate = _ => false,
                ResponseWriter = (context, report) => context.Response.WriteAsync($"{report.Status}, Unicus {Release.Version}"),
            }
        );
        app.MapHealthChecks(Ready, new HealthCheckOptions { Predicate = c => c.Tags.Contains("ready") });
        app.Use(
            (context, next) =>
            {
                if (!context.Request.Path.StartsWithSegments(Measures) || IsOnMachine(context))
                    return next(context);
                context.SetEndpoint(null);
                context.Response.StatusCode = StatusCodes.Status404NotFound;
                return Task.CompletedTask;
            }
        );
        app.MapPrometheusScrapingEndpoint(Measures);
    }

    private static bool IsOnMachine(HttpContext context) =>
        context.Connection.RemoteIpAddress is { } address
        && IPAddress.IsLoopback(address.IsIPv4MappedToIPv6 ? address.MapToIPv4() : address);

    /// <summary>Whether one of them is asked for; they are not limited.</summary>
    public static bool Is(PathString path) =>
        path.StartsWithSegments(Alive) || path.StartsWithSegments(Ready) || path.StartsWithSegments(Measures);
}
