using Microsoft.AspNetCore.Mvc;
using Microsoft.Extensions.DependencyInjection;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>The chapter Shelf: where the shop shows the product, and what is suggested beside it.</summary>
public sealed class ShelfChapter(Bench bench, Suggestions suggestions) : ChapterModel(bench)
{
    public override Chapter Chapter => Chapter.Shelf;

    /// <summary>What is often bought with it and not suggested beside it yet.</summary>
    public Task<IReadOnlyList<Proposed>> ProposedCompanions() =>
        suggestions.ProposedFor(Copy.Id, [.. Copy.Product.Companions, .. Copy.Product.StepUps]);

    /// <summary>What is suggested and shown nowhere.</summary>
    public Task<IReadOnlyList<ProductCode>> SuggestedInVain() =>
        suggestions.NotShown([.. Copy.Product.Companions, .. Copy.Product.StepUps]);

    /// <summary>Suggests a product beside it.</summary>
    public async Task<IActionResult> OnPostCompanion([FromServices] ChangeField changeField, string code)
    {
        if (!await Look())
            return NotFound();
        var typed = string.Join(", ", Copy.Product.Companions.Select(c => c.Text).Append(code));
        return await Answer(await changeField.Run(Code, "companions", typed, null, Visit.Actor), $"{code} is suggested beside it");
    }
}
