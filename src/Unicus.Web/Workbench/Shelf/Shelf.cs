using Microsoft.AspNetCore.Mvc;
using Microsoft.Extensions.DependencyInjection;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>The chapter Shelf: where the shop shows the product, and what is suggested beside it.</summary>
public sealed partial class WorkbenchModel
{
    private Suggestions Suggested => HttpContext.RequestServices.GetRequiredService<Suggestions>();

    /// <summary>What is often bought with it and not suggested beside it yet.</summary>
    public Task<IReadOnlyList<Proposed>> ProposedCompanions() =>
        Suggested.ProposedFor(Copy.Id, [.. Copy.Product.Companions, .. Copy.Product.StepUps]);

    /// <summary>What is suggested and shown nowhere.</summary>
    public Task<IReadOnlyList<ProductCode>> SuggestedInVain() => Suggested.NotShown([.. Copy.Product.Companions, .. Copy.Product.StepUps]);

    /// <summary>Suggests a product beside it.</summary>
    public async Task<IActionResult> OnPostCompanion(string code)
    {
        if (!await Look())
            return NotFound();
        var typed = string.Join(", ", Copy.Product.Companions.Select(c => c.Text).Append(code));
        return await Answer(await changeField.Run(Code, "companions", typed, null, visit.Actor), $"{code} is suggested beside it");
    }
}
