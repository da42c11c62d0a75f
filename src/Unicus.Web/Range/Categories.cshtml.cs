using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Range;

/// <summary>The tree of categories: what lies below what, what fills itself by a search, and what its products usually have.</summary>
public sealed class CategoriesModel(CategoryTree tree, ChangeProduct products, OptionLibrary library, Visit visit) : PageModel
{
    public IReadOnlyList<CategoryBranch> Branches { get; private set; } = [];
    public IReadOnlyList<Option> Options { get; private set; } = [];
    public string? Problem { get; private set; }
    public int? Open { get; private set; }

    public Task OnGet(int? open) => Look(open);

    public async Task<IActionResult> OnPostNew(string? name, int? parent) => await Told(await tree.Create(name, parent), null);

    public async Task<IActionResult> OnPostChange(
        int id,
        string? name,
        int? parent,
        string? search,
        string[] options,
        string? specifications
    ) =>
        await Told(
            await tree.Change(
                id,
                name,
                parent,
                search,
                [.. options],
                [.. (specifications ?? "").Split([',', '\n', ';'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)],
                Rename
            ),
            id
        );

    public async Task<IActionResult> OnPostRemove(int id) => await Told(await tree.Remove(id), null);

    private async Task<Outcome> Rename(string old, string name)
    {
        foreach (var code in await tree.ProductsIn(old))
        {
            var outcome = await products.Apply(code, $"The category {old} is {name} now", visit.Actor, copy =>
                Read<Product>.Of(
                    copy.Product with
                    {
                        Categories =
                        [
                            .. copy.Product.Categories.Select(c => string.Equals(c, old, StringComparison.OrdinalIgnoreCase) ? name : c),
                        ],
                    }
                )
            );
            if (!outcome.Done)
                return outcome;
        }
        return Outcome.Ok;
    }

    private async Task<IActionResult> Told(Outcome outcome, int? open)
    {
        if (outcome.Done)
            return Redirect("/office/categories");
        Problem = outcome.Faults[0].What;
        await Look(open);
        return Page();
    }

    private async Task Look(int? open)
    {
        Branches = await tree.All();
        Options = [.. (await library.All()).Select(e => e.Option)];
        Open = open;
    }
}
