using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Orders;

/// <summary>One order, as it was when it was placed; it can be dispatched or cancelled.</summary>
public sealed class OrderModel(UnicusContext db, EndOrder end, Visit visit) : PageModel
{
    public OrderRow Order { get; private set; } = null!;
    public string? Problem { get; private set; }

    /// <summary>The reason for cancelling, as typed; null where nobody cancels.</summary>
    public string? Reason { get; private set; }

    public async Task<IActionResult> OnGet(int number) => await Look(number) ? Page() : NotFound();

    public async Task<IActionResult> OnPostDispatch(int number) => await End(number, await end.Dispatch(number, visit.Actor));

    public async Task<IActionResult> OnPostCancel(int number, string? reason)
    {
        Reason = reason ?? "";
        return await End(number, await end.Cancel(number, reason, visit.Actor));
    }

    /// <summary>Takes the cancelling back.</summary>
    public async Task<IActionResult> OnPostReinstate(int number) => await End(number, await end.Reinstate(number, visit.Actor));

    private async Task<IActionResult> End(int number, Outcome outcome)
    {
        if (outcome.Done)
            return Redirect($"/office/orders/{number}");
        db.ChangeTracker.Clear();
        Problem = outcome.Faults[0].What;
        return await Look(number) ? Page() : NotFound();
    }

    private async Task<bool> Look(int number)
    {
        var order = await db
            .Orders.AsNoTracking()
            .Include(o => o.Lines)
                .ThenInclude(l => l.Leaves)
            .SingleOrDefaultAsync(o => o.Number == number);
        if (order is not null)
            Order = order;
        return order is not null;
    }
}
