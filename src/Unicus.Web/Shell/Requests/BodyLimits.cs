using Microsoft.AspNetCore.Http.Metadata;
using Unicus.Web.Api;

namespace Unicus.Web.Shell;

/// <summary>Refuses a body that says it is longer than its page or call takes, before anything of it is read. Bodies that do not say so
/// end at the same limit.</summary>
public sealed class BodyLimits(RequestDelegate next)
{
    public Task Invoke(HttpContext context)
    {
        var most = context.GetEndpoint()?.Metadata.GetMetadata<IRequestSizeLimitMetadata>()?.MaxRequestBodySize ?? Bodies.Usual;
        if (context.Request.ContentLength is not { } length || length <= most)
            return next(context);
        context.Response.StatusCode = StatusCodes.Status413PayloadTooLarge;
        ProblemReply.Say(context, $"That is too much at once: at most {most / 1024 / 1024:N0} MB are taken here. Nothing was saved.");
        return Task.CompletedTask;
    }
}
