using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Http.Extensions;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>Turns whatever goes wrong into a status; <see cref="ProblemReply"/> then says it. Never a stack trace.</summary>
public sealed class Faults(RequestDelegate next, ILogger<Faults> log)
{
    public async Task Invoke(HttpContext context)
    {
        try
        {
            await next(context);
        }
        catch (Exception) when (context.RequestAborted.IsCancellationRequested)
        {
            // Nobody waits for the reply any more.
        }
        catch (Exception fault) when (!context.Response.HasStarted)
        {
            var status = StatusOf(fault);
            if (status == StatusCodes.Status500InternalServerError || fault is FormatException or JsonException)
                log.LogError(fault, "{Method} {Url} failed", context.Request.Method, context.Request.GetDisplayUrl());
            context.Response.Clear();
            context.Response.StatusCode = status;
            if (DatabaseFaults.Sentence(fault) is { } sentence)
                ProblemReply.Say(context, sentence);
        }
    }

    private static int StatusOf(Exception fault) =>
        fault switch
        {
            BadHttpRequestException bad => bad.StatusCode,
            AntiforgeryValidationException => StatusCodes.Status400BadRequest,
            InvalidDataException => StatusCodes.Status413PayloadTooLarge,
            DbUpdateConcurrencyException => StatusCodes.Status409Conflict,
            // A key, a code, values: what no form of ours sends.
            FormatException or JsonException => StatusCodes.Status400BadRequest,
            // Half a surrogate pair: no text that any encoding has.
            EncoderFallbackException => StatusCodes.Status400BadRequest,
            _ => DatabaseFaults.KindOf(fault) switch
            {
                DatabaseFault.Clash => StatusCodes.Status409Conflict,
                DatabaseFault.UnfitText => StatusCodes.Status400BadRequest,
                DatabaseFault.Unreachable => StatusCodes.Status503ServiceUnavailable,
                _ => StatusCodes.Status500InternalServerError,
            },
        };
}
