using System.Collections.Concurrent;
using System.Reflection;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;

namespace Unicus.Web.Shell;

/// <summary>
/// Lets only those requests through to a page that it has a handler for, with every text that the handler needs: one that is sent empty is
/// an empty text, one that is not sent at all makes the request one that nobody's form sends.
/// </summary>
public sealed class KnownHandlers : IPageFilter
{
    private static readonly ConcurrentDictionary<ParameterInfo, bool> Needed = [];

    public void OnPageHandlerSelected(PageHandlerSelectedContext context)
    {
        // What is asked for is seen once the handler is about to run.
    }

    public void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        if (context.HandlerMethod is not { } handler)
        {
            if (context.ActionDescriptor.HandlerMethods.Count > 0)
                context.Result = new NotFoundResult();
            return;
        }
        foreach (var parameter in handler.Parameters)
            if (!IsThere(context, parameter.Name!, parameter.ParameterInfo))
                context.Result = new BadRequestResult();
    }

    public void OnPageHandlerExecuted(PageHandlerExecutedContext context)
    {
        // Nothing is left to be done.
    }

    /// <summary>
    /// Whether what is needed is there; texts that are there and empty become empty texts. Of a form that cannot be read, since it holds
    /// NUL, nothing is.
    /// </summary>
    private static bool IsThere(PageHandlerExecutingContext context, string name, ParameterInfo parameter)
    {
        var value = context.HandlerArguments.TryGetValue(name, out var found) ? found : null;
        if (parameter.ParameterType == typeof(string[]))
            context.HandlerArguments[name] = value = ((string?[]?)value ?? []).Select(t => t ?? "").ToArray();
        if (value is not null || parameter.ParameterType.IsValueType || !Needed.GetOrAdd(parameter, IsNeeded))
            return true;
        if (parameter.ParameterType != typeof(string))
            return false;
        var request = context.HttpContext.Request;
        context.HandlerArguments[name] = "";
        return request.Query.ContainsKey(name) || (request.HasFormContentType && request.Form.ContainsKey(name));
    }

    private static bool IsNeeded(ParameterInfo parameter) =>
        new NullabilityInfoContext().Create(parameter).WriteState == NullabilityState.NotNull;
}
