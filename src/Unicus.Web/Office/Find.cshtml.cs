using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Office;

public sealed record Hit(string Label, string Kind, string Url);

/// <summary>The find-or-do box: products, SKUs, orders, places and actions by a piece of their name.</summary>
public sealed class FindModel(UnicusContext db) : PageModel
{
    private static readonly Hit[] Places =
    [
        new("New product", "do", "/office/range?new=1"),
        new("Range", "place", "/office/range"),
        new("Stock", "place", "/office/stock"),
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

    private async Task Look(string? q)
    {
        Q = TypedText.Search(q);
        if (Q.Length == 0)
            return;
        var like = $"%{Q.Replace("\\", "\\\\").Replace("%", "\\%").Replace("_", "\\_")}%";
        var products = await db
            .Products.Where(p => EF.Functions.ILike(p.Name, like) || EF.Functions.ILike(p.Code, like))
            .OrderBy(p => p.Name)
            .Take(6)
            .Select(p => new Hit(p.Name, p.Code, $"/office/products/{p.Code}"))
            .ToListAsync();
        var skus = await db
            .Skus.Where(s => EF.Functions.ILike(s.Code, like))
            .OrderBy(s => s.Code)
            .Take(6)
            .Select(s => new Hit(s.Code, "SKU", RawPath.OfSku(s.Code)))
            .ToListAsync();
        var orders = int.TryParse(Q, out var n)
            ? await db
                .Orders.Where(o => o.Number == n)
                .Select(o => new Hit($"Order {o.Number}, {o.Buyer}", "order", $"/office/orders/{o.Number}"))
                .ToListAsync()
            : [];
        Hits = [.. orders, .. products, .. skus, .. Places.Where(p => p.Label.Contains(Q, StringComparison.OrdinalIgnoreCase))];
    }
}
