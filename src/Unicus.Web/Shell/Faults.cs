using Microsoft.AspNetCore.Http.Extensions;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Web.Shell;

/// <summary>Turns whatever goes wrong into a clear message: a page for people, a problem document for programs, never a stack trace.</summary>
public sealed class Faults(RequestDelegate next, ILogger<Faults> log)
{
    public async Task Invoke(HttpContext context)
    {
        try
        {
            await next(context);
        }
        catch (Exception fault) when (!context.Response.HasStarted && fault is not OperationCanceledException)
        {
            var status = fault switch
            {
                BadHttpRequestException bad => bad.StatusCode,
                InvalidDataException => StatusCodes.Status413PayloadTooLarge,
                DbUpdateConcurrencyException => StatusCodes.Status409Conflict,
                _ => StatusCodes.Status500InternalServerError,
            };
            if (status == 500) log.LogError(fault, "{Method} {Url} failed", context.Request.Method, context.Request.GetDisplayUrl());
            context.Response.Clear();
            context.Response.StatusCode = status;
            if (context.Request.Path.StartsWithSegments("/api"))
                await Results.Problem(statusCode: status, title: Title(status)).ExecuteAsync(context);
        }
    }

    public static string Title(int status) => status switch
    {
        400 => "That request could not be understood.",
        401 => "Sign in first.",
        403 => "Your account may not do that.",
        404 => "There is nothing here.",
        405 => "That cannot be done here.",
        409 => "Somebody else changed the same thing at the same moment. Nothing was saved; try once more.",
        413 => "That is too much at once. Nothing was saved.",
        429 => "Too many tries. Wait a minute.",
        _ => "Something went wrong on our side. Nothing was saved.",
    };
}
