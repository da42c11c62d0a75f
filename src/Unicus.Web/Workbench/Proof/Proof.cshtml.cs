using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Unicus.Web.Workbench;

/// <summary>The shop's page of the working copy, by itself.</summary>
public sealed class ProofModel(Proofs proofs) : PageModel
{
    public ProofView Shown { get; private set; } = null!;

    public async Task<IActionResult> OnGet(string code) => await Look(code) ? Page() : NotFound();

    public async Task<IActionResult> OnGetBuy(string code) =>
        !await Look(code) ? NotFound()
        : Shown.Group is { } group ? Partial("/Shop/_Group.cshtml", group)
        : Partial("/Shop/_Buy.cshtml", Shown.Buy);

    private async Task<bool> Look(string code)
    {
        if (await proofs.Look(code, Request.Query) is not { } shown)
            return false;
        Shown = shown;
        return true;
    }
}
