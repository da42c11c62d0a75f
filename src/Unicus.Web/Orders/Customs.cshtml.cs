using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Orders;

/// <summary>What customs ask of a parcel: every leaf that is sent, with code, origin, weight and value, to be printed.</summary>
public sealed class CustomsModel(OrderReading orders, Visit visit) : PageModel
{
    public Order Order { get; private set; } = null!;
    public ShopSettings Shop { get; private set; } = null!;
    public IReadOnlyList<CustomsRow> Rows { get; private set; } = [];

    /// <summary>Kilograms of something; empty where its weight is not known.</summary>
    public static string Kilograms(long? grams) => grams is { } g ? $"{g / 1000m:0.000}" : "";

    public bool IsIncomplete => Rows.Any(r => r.IsIncomplete);

    public async Task<IActionResult> OnGet(int number)
    {
        if (await orders.Find(number) is not { } order)
            return NotFound();
        (Order, Shop, Rows) = (order, await visit.Shop(), CustomsSheet.Of(order));
        return Page();
    }
}
