using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Options;

/// <summary>The shared sets of extras.</summary>
public sealed class ExtrasModel(UnicusContext db, ChangeExtraSets sets) : PageModel
{
    public IReadOnlyList<ExtraSet> Sets { get; private set; } = [];
    public string? Problem { get; private set; }

    public async Task OnGet() => Sets = await ExtraSets.Load(db);

    public async Task<IActionResult> OnPost(string? name)
    {
        var made = await sets.Create(name ?? "");
        if (made.Done) return Redirect($"/office/extras/{made.Result}");
        Problem = made.Faults[0].What;
        await OnGet();
        return Page();
    }
}
