namespace Unicus.Web.Shell;

/// <summary>Tells a script that sent a form where to go next, instead of leading it there, so that the next page is asked for
/// once.</summary>
public sealed class ScriptRedirects(RequestDelegate next)
{
    public Task Invoke(HttpContext context)
    {
        if (!ProblemReply.IsByScript(context.Request))
            return next(context);
        context.Response.OnStarting(() =>
        {
            var (response, to) = (context.Response, context.Response.Headers.Location.ToString());
            if (response.StatusCode is not (StatusCodes.Status302Found or StatusCodes.Status301MovedPermanently) || to.Length == 0)
                return Task.CompletedTask;
            response.Headers.Remove("Location");
            response.Headers["X-Unicus-To"] = to;
            response.StatusCode = StatusCodes.Status204NoContent;
            return Task.CompletedTask;
        });
        return next(context);
    }
}
