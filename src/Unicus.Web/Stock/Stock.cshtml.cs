using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Stock;

public sealed record StockRow(string Sku, string Code, string Product, StockLevel Level);

/// <summary>Every SKU that has moved, with its levels over all locations.</summary>
public sealed class StockModel(UnicusContext db) : PageModel
{
    public string Q { get; private set; } = "";
    public string Show { get; private set; } = "";
    public int Count { get; private set; }
    public IReadOnlyList<StockRow> Rows { get; private set; } = [];

    public async Task OnGet(string? q, string? show)
    {
        (Q, Show) = (TypedText.Search(q), show ?? "");
        Count = await db.Levels.Select(l => l.SkuId).Distinct().CountAsync();
        var key = Q.ToUpperInvariant();
        var rows = await (
            from s in db.Skus
            join p in db.Products on s.ProductId equals p.Id
            where key == "" || s.CodeKey.Contains(key) || p.Name.ToUpper().Contains(key)
            join l in db.Levels on s.Id equals l.SkuId
            group l by new
            {
                s.Code,
                ProductCode = p.Code,
                p.Name,
            } into g
            select new
            {
                g.Key,
                OnHand = g.Sum(l => l.OnHand),
                Allocated = g.Sum(l => l.Allocated),
                OnHold = g.Sum(l => l.OnHold),
                OnOrder = g.Sum(l => l.OnOrder),
            }
        )
            .OrderBy(x => x.Key.Code)
            .ToListAsync();
        Rows =
        [
            .. rows.Select(r => new StockRow(
                    r.Key.Code,
                    r.Key.ProductCode,
                    r.Key.Name,
                    new StockLevel(r.OnHand, r.Allocated, r.OnHold, r.OnOrder)
                ))
                .Where(r => Show != "none" || r.Level.Available <= 0)
                .Take(400),
        ];
    }
}
