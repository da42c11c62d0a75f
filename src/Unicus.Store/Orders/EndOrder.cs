using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>Dispatches an order, which writes the sale, or cancels it, which releases what was allocated.</summary>
public sealed class EndOrder(UnicusContext db, TimeProvider clock)
{
    public Task<Outcome> Dispatch(int number, Actor by) => Run(number, OrderState.Dispatched, MovementKind.Sale, by);

    public Task<Outcome> Cancel(int number, Actor by) => Run(number, OrderState.Cancelled, MovementKind.Deallocation, by);

    private async Task<Outcome> Run(int number, OrderState next, MovementKind kind, Actor by)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var order = await db.Orders.FromSql($"select * from orders where number = {number} for update").Include(o => o.Lines).SingleOrDefaultAsync();
        if (order is null) return Outcome.No("", $"There is no order {number}.");
        if (order.State == next) return Outcome.Ok;
        if (order.State != OrderState.Placed) return Outcome.No("", $"Order {number} is {order.State.ToString().ToLowerInvariant()} already.");
        var locations = await db.Locations.Select(l => l.Id).ToListAsync();
        var ledger = new StockLedger(db);
        var allocated = order.Lines.SelectMany(l => l.Allocated()).ToList();
        var levels = await ledger.Lock(allocated.Select(a => a.SkuId).Distinct(), locations);
        foreach (var (skuId, sku, shares) in allocated)
            foreach (var (location, units) in shares)
            {
                var written = ledger.Write(levels[(skuId, location)], kind, units, by, clock.GetUtcNow(), null, number);
                if (!written.Ok) return Outcome.No("", $"{sku} cannot leave: {written.Problem} Receive the goods first.");
            }
        order.State = next;
        if (next == OrderState.Dispatched) order.DispatchedAt = clock.GetUtcNow();
        else order.CancelledAt = clock.GetUtcNow();
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return Outcome.Ok;
    }
}
