using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Orders;

/// <summary>One order, as it was when it was placed; it can be dispatched or cancelled.</summary>
public sealed class OrderModel(OrderReading orders, EndOrder end, EraseBuyers buyers, Visit visit) : PageModel
{
    public Order Order { get; private set; } = null!;
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

    /// <summary>Erases who placed it. For owners.</summary>
    public async Task<IActionResult> OnPostErase(int number)
    {
        if (!User.IsInRole(Roles.Owner))
            return Forbid();
        var outcome = await buyers.OfOrder(number, visit.Actor);
        return await End(number, new Outcome(outcome.Faults));
    }

    /// <summary>Takes the cancelling back.</summary>
    public async Task<IActionResult> OnPostReinstate(int number) => await End(number, await end.Reinstate(number, visit.Actor));

    /// <summary>Sends or cancels units of parts before the rest: as many as stand in their boxes.</summary>
    public async Task<IActionResult> OnPostParts(int number, string? act, string? reason)
    {
        if (!await Look(number))
            return NotFound();
        var (parts, isCancel) = (new List<EndedPart>(), act == "cancel");
        (Typed, PartsReason) = (Request.Form.ToDictionary(f => f.Key, f => f.Value.ToString()), isCancel ? reason : null);
        foreach (var leaf in PartsToEnd.Alone(Order))
        {
            var typed = Typed.GetValueOrDefault(BoxOf(leaf), "").Trim();
            if (typed.Length == 0 || typed == "0")
                continue;
            if (TypedNumbers.Whole(typed, 1, Movements.MostUnits).Value is not { } units)
            {
                Problem = $"“{typed}” of {leaf.Sku}: a whole number is needed.";
                return Page();
            }
            var seen = TypedNumbers.Whole(Typed.GetValueOrDefault("seen-" + BoxOf(leaf)), 0, Movements.MostUnits).Value;
            parts.Add(new EndedPart(leaf.Place.Line, leaf.Path.Text, leaf.Sku, units) { Seen = seen });
        }
        if (parts.Count == 0)
        {
            Problem = "Type how many of a part first.";
            return Page();
        }
        return await End(
            number,
            isCancel ? await end.CancelParts(number, parts, reason, visit.Actor) : await end.DispatchParts(number, parts, visit.Actor)
        );
    }

    /// <summary>What was typed of parts and could not be taken.</summary>
    public IReadOnlyDictionary<string, string> Typed { get; private set; } = new Dictionary<string, string>();

    /// <summary>Why parts are cancelled, as typed; null where nobody cancels them.</summary>
    public string? PartsReason { get; private set; }

    /// <summary>The name of the box of a leaf.</summary>
    public static string BoxOf(OrderLeaf leaf) => $"u-{leaf.Place.Line}-{leaf.Place.Leaf}";

    /// <summary>What was paid for all that goes with a leaf and is still to be sent.</summary>
    public Money StillAllocated(OrderLeaf leaf) =>
        Order
            .Lines[leaf.Place.Line]
            .GoesWith(leaf)
            .Select(l => l.Allocated - MoneyBack.Share(l, l.Allocated, l.Units - l.Open))
            .Sum(Order.Currency);

    private async Task<IActionResult> End(int number, Outcome outcome)
    {
        if (outcome.Done)
            return Redirect($"/office/orders/{number}");
        Problem = outcome.Faults[0].What;
        return await Look(number) ? Page() : NotFound();
    }

    private async Task<bool> Look(int number)
    {
        var order = await orders.Find(number);
        if (order is not null)
            Order = order;
        return order is not null;
    }
}
