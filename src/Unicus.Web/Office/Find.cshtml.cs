using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Office;

public sealed record Hit(string Label, string Kind, string Url);

/// <summary>The find-or-do box: products, SKUs, orders, places and actions by a piece of their name.</summary>
public sealed class FindModel(UnicusContext db, OfficeLists lists) : PageModel
{
    private const int MostOfKind = 6;

    private static readonly Hit[] Places =
    [
        new("New product", "do", "/office/range?new=1"),
        new("Range", "place", "/office/range"),
        new("Stock", "place", "/office/stock"),
        new("Pricing", "place", "/office/pricing"),
        new("New price rule", "action", "/office/pricing/new"),
        new("Customer groups and codes", "place", "/office/pricing/groups"),
        new("Orders", "place", "/office/orders"),
        new("Shop settings", "place", "/office/settings"),
        new("Outbox", "place", "/office/outbox"),
        new("Open shop", "place", "/"),
    ];

    public string Q { get; private set; } = "";
    public IReadOnlyList<Hit> Hits { get; private set; } = [];

    public async Task OnGet(string? q) => await Look(q);

    public async Task<IActionResult> OnGetList(string? q)
    {
        await Look(q);
        return Partial("_Found", this);
    }

    /// <summary>A text as a pattern of <c>like</c> that means just itself.</summary>
    public static string Escaped(string text) => text.Replace("\\", "\\\\").Replace("%", "\\%").Replace("_", "\\_");

    private async Task Look(string? q)
    {
        Q = TypedText.Search(q);
        if (Q.Length == 0)
            return;
        var found = await lists.Find(Q);
        int[] ids = [.. found.Products.Take(MostOfKind)];
        var products = await db
            .Products.Where(p => ids.Contains(p.Id))
            .OrderBy(p => p.Name.ToLower())
            .Select(p => new Hit(p.Name, p.Code, $"/office/products/{p.Code}"))
            .ToListAsync();
        var skus = found.BySku.Take(MostOfKind).Select(s => new Hit(s.Code, "SKU", RawPath.OfSku(s.Code)));
        var orders = int.TryParse(Q, out var n)
            ? await db
                .Orders.Where(o => o.Number == n)
                .Select(o => new Hit($"Order {o.Number}, {o.Buyer}", "order", $"/office/orders/{o.Number}"))
                .ToListAsync()
            : [];
        Hits = [.. orders, .. products, .. skus, .. Places.Where(p => p.Label.Contains(Q, StringComparison.OrdinalIgnoreCase))];
    }
}
