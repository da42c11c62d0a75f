using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;

namespace Unicus.Web.Options;

/// <summary>The option library.</summary>
public sealed class OptionsModel(OptionLibrary library) : PageModel
{
    public IReadOnlyList<LibraryEntry> Entries { get; private set; } = [];
    public string? Problem { get; private set; }
    public string? TypedLabel { get; private set; }
    public string? TypedValuesText { get; private set; }

    public async Task OnGet() => Entries = await library.All();

    public async Task<IActionResult> OnPostNew(string? label, string? typed)
    {
        var outcome = await library.Create(label, typed);
        if (outcome.Done)
            return Redirect("/office/options");
        (TypedLabel, TypedValuesText, Problem) = (label, typed, outcome.Faults[0].What);
        Entries = await library.All();
        return Page();
    }
}
