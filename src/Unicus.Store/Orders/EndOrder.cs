using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>Dispatches an order, which writes the sale; cancels it, which releases what was allocated; or takes the cancelling
/// back.</summary>
public sealed class EndOrder(UnicusContext db, Catalogue catalogue, TimeProvider clock)
{
    public const int LongestReason = 300;

    public Task<Outcome> Dispatch(int number, Actor by) =>
        Within(
            number,
            OrderState.Dispatched,
            OrderState.Placed,
            async (order, shop) =>
            {
                if (await Write(order, MovementKind.Sale, by) is { } problem)
                    return problem;
                order.DispatchedAt = clock.GetUtcNow();
                Tell(OrderMessages.Dispatched(order, shop, clock.GetUtcNow()));
                return null;
            }
        );

    /// <param name="reason">Why, which the buyer is told too; needed.</param>
    public async Task<Outcome> Cancel(int number, string? reason, Actor by)
    {
        var why = TypedText.Line(reason);
        if (why.Length == 0)
            return Outcome.No("reason", "Say why; the buyer is told.");
        if (why.Length > LongestReason)
            return Outcome.No("reason", $"A reason has at most {LongestReason} characters.");
        return await Within(
            number,
            OrderState.Cancelled,
            OrderState.Placed,
            async (order, shop) =>
            {
                if (await Write(order, MovementKind.Deallocation, by) is { } problem)
                    return problem;
                (order.CancelledAt, order.CancelReason) = (clock.GetUtcNow(), why);
                Tell(OrderMessages.Cancelled(order, shop, clock.GetUtcNow()));
                return null;
            }
        );
    }

    /// <summary>Takes the cancelling back: the order stands again and its stock is allocated anew, all of it or nothing.</summary>
    /// <remarks>Refused once anything of its goods was shipped since, or where there is not enough of them.</remarks>
    public Task<Outcome> Reinstate(int number, Actor by) =>
        Within(
            number,
            OrderState.Placed,
            OrderState.Cancelled,
            async (order, shop) =>
            {
                if (await AllocateAgain(order, shop, by) is { } problem)
                    return problem;
                (order.CancelledAt, order.CancelReason) = (null, null);
                Tell(OrderMessages.StandsAgain(order, shop, clock.GetUtcNow()));
                return null;
            }
        );

    /// <summary>Locks an order, does the work if it is in the state that the work needs, and commits.</summary>
    /// <param name="work">Gives what stands in the way, or null.</param>
    private async Task<Outcome> Within(int number, OrderState next, OrderState needed, Func<OrderRow, ShopSettings, Task<string?>> work)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var order = await db
            .Orders.FromSql($"select * from orders where number = {number} for update")
            .Include(o => o.Lines)
            .SingleOrDefaultAsync();
        if (order is null)
            return Outcome.No("", $"There is no order {number}.");
        if (order.State == next)
            return Outcome.Ok;
        if (order.State != needed)
            return Outcome.No("", $"Order {number} is {order.State.ToString().ToLowerInvariant()} already.");
        if (await work(order, await ShopSettings.Load(db)) is { } problem)
            return Outcome.No("", problem);
        order.State = next;
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>Writes a movement of everything that is allocated to the order.</summary>
    private async Task<string?> Write(OrderRow order, MovementKind kind, Actor by)
    {
        var locations = await db.Locations.Select(l => l.Id).ToListAsync();
        var ledger = new StockLedger(db);
        var allocated = order.Lines.SelectMany(l => l.Allocated()).ToList();
        var levels = await ledger.Lock(allocated.Select(a => a.SkuId).Distinct(), locations);
        foreach (var (skuId, sku, shares) in allocated)
        foreach (var (location, units) in shares)
        {
            var written = ledger.Write(levels[(skuId, location)], kind, units, by, clock.GetUtcNow(), null, order.Number);
            if (!written.Ok)
                return $"{sku} cannot leave: {written.Problem} Receive the goods first.";
        }
        return null;
    }

    private async Task<string?> AllocateAgain(OrderRow order, ShopSettings shop, Actor by)
    {
        var locations = await db.Locations.OrderBy(l => l.Position).Select(l => l.Id).ToListAsync();
        var ledger = new StockLedger(db);
        var needed = order
            .Lines.SelectMany(l => l.Allocated())
            .Where(a => a.Shares.Count > 0)
            .GroupBy(a => a.SkuId)
            .ToDictionary(g => g.Key, g => (g.First().Sku, Units: g.Sum(a => a.Shares.Values.Sum())));
        var levels = needed.Count == 0 ? [] : await ledger.Lock(needed.Keys, locations);
        var allocating = new Allocating(ledger, levels, locations, by, clock.GetUtcNow());
        var today = shop.DayAt(clock.GetUtcNow());
        foreach (var (skuId, (sku, units)) in needed)
        {
            var shipped = await db
                .Movements.Where(m => m.SkuId == skuId && m.Kind == MovementKind.Sale && m.At >= order.CancelledAt)
                .SumAsync(m => -m.OnHand);
            if (shipped > 0)
                return $"{shipped:N0} of {sku} were shipped since it was cancelled. Take a new order instead.";
            var selling = (await catalogue.OfSku(db, sku))?.Variant.Selling ?? Selling.Inherited;
            var available = Availability.Of(selling with { OffForNow = null }, allocating.LevelOf(skuId), today);
            if (!available.CanSell(units))
                return $"{sku}: {units:N0} are needed, {available.Units:N0} are left.";
        }
        foreach (var line in order.Lines)
            if (Again(line, order.Number, allocating) is { } problem)
                return problem;
        return null;
    }

    private static string? Again(OrderLineRow line, int order, Allocating allocating)
    {
        var own = JsonSerializer.Deserialize<Dictionary<int, int>>(line.Allocation)!;
        if (own.Count > 0)
        {
            var taken = allocating.Take(line.SkuId, own.Values.Sum(), order);
            if (!taken.Ok)
                return $"{line.Sku}: {taken.Problem}";
            (line.Allocation, line.Beyond) = (JsonSerializer.Serialize(taken.Value!.Shares), taken.Value.Beyond);
        }
        var parts = line.OrderedParts().ToList();
        for (var i = 0; i < parts.Count; i++)
        {
            if (parts[i].Shares.Count == 0)
                continue;
            var taken = allocating.Take(parts[i].SkuId, parts[i].Quantity, order);
            if (!taken.Ok)
                return $"{parts[i].Sku}: {taken.Problem}";
            parts[i] = parts[i] with { Shares = taken.Value!.Shares, Beyond = taken.Value.Beyond };
        }
        if (parts.Count > 0)
            line.Parts = JsonSerializer.Serialize(parts);
        return null;
    }

    private void Tell(OutboxMessage? message)
    {
        if (message is not null)
            db.Outbox.Add(message);
    }
}
