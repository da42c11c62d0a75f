using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Orders;

/// <summary>What customs ask of a parcel: every leaf that is sent, with code, origin, weight and value, to be printed.</summary>
public sealed class CustomsModel(UnicusContext db, Visit visit) : PageModel
{
    public OrderRow Order { get; private set; } = null!;
    public ShopSettings Shop { get; private set; } = null!;
    public IReadOnlyList<OrderLeafRow> Leaves { get; private set; } = [];
    public Currency Currency => Currency.Of(Order.Currency);

    public string Value(decimal amount) => new Money(amount, Currency).ForPeople();

    /// <summary>Kilograms of something; empty where its weight is not known.</summary>
    public static string Kilograms(long? grams) => grams is { } g ? $"{g / 1000m:0.000}" : "";

    public long Grams => Leaves.Sum(l => (long)(l.WeightGrams ?? 0) * (l.Units - l.Dropped));
    public bool IsIncomplete => Leaves.Any(l => l.CustomsCode is null || l.Origin is null || l.WeightGrams is null);

    public async Task<IActionResult> OnGet(int number)
    {
        if (
            await db.Orders.AsNoTracking().Include(o => o.Lines).ThenInclude(l => l.Leaves).FirstOrDefaultAsync(o => o.Number == number)
            is not { } order
        )
            return NotFound();
        (Order, Shop) = (order, await visit.Shop());
        Leaves =
        [
            .. order
                .Lines.OrderBy(l => l.Position)
                .SelectMany(l => l.Leaves.OrderBy(x => x.Position))
                .Where(l => l.Shipped && l.Units > l.Dropped),
        ];
        return Page();
    }
}
