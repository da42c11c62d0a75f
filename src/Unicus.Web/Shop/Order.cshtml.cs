using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Web.Shop;

/// <summary>A placed order, for whoever has its address.</summary>
public sealed class PlacedOrderModel(UnicusContext db) : PageModel
{
    public OrderRow Order { get; private set; } = null!;

    public async Task<IActionResult> OnGet(string token)
    {
        var order = await db
            .Orders.AsNoTracking()
            .Include(o => o.Lines)
                .ThenInclude(l => l.Leaves)
            .SingleOrDefaultAsync(o => o.Token == token);
        if (order is null)
            return NotFound();
        Order = order;
        return Page();
    }
}
