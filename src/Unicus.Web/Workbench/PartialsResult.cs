using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.Rendering;
using Microsoft.AspNetCore.Mvc.ViewEngines;
using Microsoft.AspNetCore.Mvc.ViewFeatures;

namespace Unicus.Web.Workbench;

/// <summary>A partial view and what it shows.</summary>
/// <param name="Path">Of its file, from the root of the pages.</param>
public sealed record Piece(string Path, object Model);

/// <summary>Several partials in one reply; those behind the first are put into their places by their ids.</summary>
public sealed class PartialsResult(PageModel page, IEnumerable<Piece> pieces) : IActionResult
{
    public async Task ExecuteResultAsync(ActionContext context)
    {
        context.HttpContext.Response.ContentType = "text/html; charset=utf-8";
        await context.HttpContext.Response.WriteAsync(await Html());
    }

    /// <summary>The partials, one after the other.</summary>
    public async Task<string> Html()
    {
        var engine = page.HttpContext.RequestServices.GetRequiredService<ICompositeViewEngine>();
        await using var text = new StringWriter();
        foreach (var piece in pieces)
        {
            var view = engine.GetView(null, piece.Path, isMainPage: false).EnsureSuccessful(null).View!;
            var data = new ViewDataDictionary(page.MetadataProvider, page.ModelState) { Model = piece.Model };
            await view.RenderAsync(new ViewContext(page.PageContext, view, data, page.TempData, text, new HtmlHelperOptions()));
        }
        return text.ToString();
    }
}
