using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;

namespace Unicus.Web.Shop;

/// <summary>A placed order, for whoever has its address.</summary>
public sealed class PlacedOrderModel(OrderReading orders) : PageModel
{
    public Order Order { get; private set; } = null!;

    public async Task<IActionResult> OnGet(string token)
    {
        if (await orders.ByToken(token) is not { } order)
            return NotFound();
        Order = order;
        return Page();
    }
}
