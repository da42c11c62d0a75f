using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.Rendering;
using Microsoft.AspNetCore.Mvc.ViewEngines;
using Microsoft.AspNetCore.Mvc.ViewFeatures;

namespace Unicus.Web.Workbench;

/// <summary>Several partials of one page model, one after the other, for out-of-band replacement.</summary>
public sealed class PartialsResult(PageModel page, params string[] names) : IActionResult
{
    public async Task ExecuteResultAsync(ActionContext context)
    {
        var engine = context.HttpContext.RequestServices.GetRequiredService<ICompositeViewEngine>();
        await using var text = new StringWriter();
        foreach (var name in names)
        {
            var view = engine.GetView(null, $"/Workbench/{name}.cshtml", isMainPage: false).EnsureSuccessful(null).View!;
            var data = new ViewDataDictionary(page.ViewData) { Model = page };
            await view.RenderAsync(new ViewContext(context, view, data, page.TempData, text, new HtmlHelperOptions()));
        }
        context.HttpContext.Response.ContentType = "text/html; charset=utf-8";
        await context.HttpContext.Response.WriteAsync(text.ToString());
    }
}
