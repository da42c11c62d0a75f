using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;

namespace Unicus.Web.Options;

/// <summary>The shared sets of extras.</summary>
public sealed class ExtrasModel(ChangeExtraSets sets) : PageModel
{
    public IReadOnlyList<ExtraSet> Sets { get; private set; } = [];
    public string? Problem { get; private set; }

    /// <summary>Sets removed lately, which can be taken back.</summary>
    public IReadOnlyList<(string Key, string Name)> Removed { get; private set; } = [];

    public async Task OnGet() => (Sets, Removed) = (await sets.All(), await sets.Removed());

    public async Task<IActionResult> OnPostBack(string key)
    {
        var outcome = await sets.Undo(key);
        if (outcome.Done)
            return Redirect($"/office/extras/{key}");
        Problem = outcome.Faults[0].What;
        await OnGet();
        return Page();
    }

    public async Task<IActionResult> OnPost(string? name)
    {
        var made = await sets.Create(name ?? "");
        if (made.Done)
            return Redirect($"/office/extras/{made.Result}");
        Problem = made.Faults[0].What;
        await OnGet();
        return Page();
    }
}
