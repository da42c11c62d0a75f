using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>The shop's shelf: everything, a category, or what a search finds.</summary>
public sealed class HomeModel(UnicusContext db, ShopShelf shelf, Visit visit) : PageModel
{
    public string Q { get; private set; } = "";
    public string? Category { get; private set; }
    public string Heading { get; private set; } = "";
    public IReadOnlyList<CategoryRow> Categories { get; private set; } = [];
    public IReadOnlyList<ShelfItem> Items { get; private set; } = [];

    public async Task OnGet(string? q, string? category)
    {
        (Q, Category) = (TypedText.Search(q), category);
        var all = await shelf.Items(await visit.Today());
        var tree = await db.Categories.AsNoTracking().OrderBy(c => c.Name).ToListAsync();
        var wanted = tree.FirstOrDefault(c => c.Key == category);
        // Those at the top, and those below the one that is open; none that would be empty.
        Categories =
        [
            .. tree.Where(c =>
                (c.ParentId is null || c.ParentId == wanted?.Id || c.Id == wanted?.Id)
                && all.Any(i => i.Product.Shelf.Listed && CategoryTree.Holds(tree, c, i.Product))
            ),
        ];
        if (wanted is null)
            Category = null;
        Heading = Q.Length > 0 ? $"“{Q}”" : wanted?.Name ?? "Everything we sell";
        Items =
            Q.Length > 0
                ? [.. all.Where(i => i.Product.Shelf.Searchable && Fits(i, Q))]
                : [.. all.Where(i => i.Product.Shelf.Listed && (wanted is null || CategoryTree.Holds(tree, wanted, i.Product)))];
    }

    private static bool Fits(ShelfItem item, string q) =>
        new[] { item.Product.Name, item.Product.Code.Text, item.Product.Summary ?? "" }
            .Concat(item.Product.Tags)
            .Concat(item.Product.Categories)
            .Any(t => t.Contains(q, StringComparison.OrdinalIgnoreCase));
}
