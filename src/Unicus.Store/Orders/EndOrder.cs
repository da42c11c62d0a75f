using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Dispatches an order, which writes the sale; cancels it, which releases what was allocated; or takes the cancelling
/// back.</summary>
public sealed class EndOrder(UnicusContext db, Catalogue catalogue, Coupons coupons, TimeProvider clock)
{
    public const int LongestReason = 300;

    public Task<Outcome> Dispatch(int number, Actor by) => Within(number, OrderState.Dispatched, OrderState.Placed, async (order, shop) =>
        {
            if (await Write(order, MovementKind.Sale, by) is { } problem)
                return problem;
            foreach (var leaf in order.Lines.SelectMany(l => l.Leaves))
                leaf.Sent += leaf.Left;
            order.DispatchedAt = clock.GetUtcNow();
            Tell(OrderMessages.Dispatched(order, shop, clock.GetUtcNow()));
            return null;
        });

    /// <param name="reason">Why, which the buyer is told too; needed.</param>
    public async Task<Outcome> Cancel(int number, string? reason, Actor by)
    {
        var why = TypedText.Line(reason);
        if (why.Length == 0)
            return Outcome.No("reason", "Say why; the buyer is told.");
        if (why.Length > LongestReason)
            return Outcome.No("reason", $"A reason has at most {LongestReason} characters.");
        // Of an order that some of was sent only the rest is cancelled.
        if (await db.OrderLines.AnyAsync(l => l.OrderNumber == number && l.Leaves.Any(f => f.Sent > 0)))
            return await CancelParts(number, [], why, by);
        return await Within(number, OrderState.Cancelled, OrderState.Placed, async (order, shop) =>
        {
            // Sent since it was looked at above: then not all of it may be refunded.
            if (order.Lines.SelectMany(l => l.Leaves).Any(l => l.Sent > 0))
                return "A part of it was sent just now. Look again, then cancel what is left.";
            // Codes before stock, as orders take them, so that two never wait for each other.
            await coupons.GiveBack(order.Number);
            if (await Write(order, MovementKind.Deallocation, by) is { } problem)
                return problem;
            (order.CancelledAt, order.CancelReason) = (clock.GetUtcNow(), why);
            Tell(OrderMessages.Cancelled(order, shop, clock.GetUtcNow()));
            return null;
        });
    }

    /// <summary>Takes the cancelling back: the order stands again and its stock is allocated anew, all of it or nothing.</summary>
    /// <remarks>Refused once anything of its goods was shipped since, or where there is not enough of them.</remarks>
    public Task<Outcome> Reinstate(int number, Actor by) => Within(number, OrderState.Placed, OrderState.Cancelled, async (order, shop) =>
        {
            if (order.Lines.SelectMany(l => l.Leaves).ToList() is { Count: > 0 } leaves && leaves.TrueForAll(l => l.Left == 0))
                return "Each part of it was cancelled by itself. Take a new order instead.";
            if (order.ErasedAt is not null)
                return "Its buyer was erased, so nobody knows where it goes. Take a new order instead.";
            if (await coupons.TakeAgain(order.Number, await RulesOf(order)) is { } used)
                return used;
            if (await AllocateAgain(order, shop, by) is { } problem)
                return problem;
            (order.CancelledAt, order.CancelReason) = (null, null);
            Tell(OrderMessages.StandsAgain(order, shop, clock.GetUtcNow()));
            return null;
        });

    /// <summary>Sends parts of an order before the rest; with the last one it is dispatched.</summary>
    /// <param name="parts">None means everything that is left.</param>
    public Task<Outcome> DispatchParts(int number, IReadOnlyList<EndedPart> parts, Actor by) =>
        EndParts(number, parts, null, MovementKind.Sale, by);

    /// <summary>Cancels parts of an order and refunds what was allocated to them.</summary>
    /// <param name="parts">None means everything that is left.</param>
    /// <param name="reason">Why, which the buyer is told too; needed.</param>
    public async Task<Outcome> CancelParts(int number, IReadOnlyList<EndedPart> parts, string? reason, Actor by)
    {
        var why = TypedText.Line(reason);
        if (why.Length is 0 or > LongestReason)
            return Outcome.No("reason", $"Say why, in at most {LongestReason} characters; the buyer is told.");
        return await EndParts(number, parts, why, MovementKind.Deallocation, by);
    }

    private async Task<Outcome> EndParts(int number, IReadOnlyList<EndedPart> parts, string? reason, MovementKind kind, Actor by)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var order = await Locked(number);
        if (order is null)
            return Outcome.No("", $"There is no order {number}.");
        if (order.State != OrderState.Placed)
            return Outcome.No("", $"Order {number} is {order.State.ToString().ToLowerInvariant()} already.");
        var before = order.Refunded;
        var ending = new EndingParts(order, new StockLedger(db), by, clock.GetUtcNow());
        if (ending.Find(parts) is { } unknown)
            return Outcome.No("", unknown);
        // Codes before stock, as orders take them.
        if (kind == MovementKind.Deallocation && ending.EndsAll && !ending.WasSent)
            await coupons.GiveBack(number);
        if (await ending.Run(kind, await db.Locations.Select(l => l.Id).ToListAsync()) is { } problem)
            return Outcome.No("", problem);
        var (shop, now) = (await ShopSettings.Load(db), clock.GetUtcNow());
        if (order.Lines.SelectMany(l => l.Leaves).All(l => l.Left == 0))
            if (ending.WasSent)
                (order.State, order.DispatchedAt) = (OrderState.Dispatched, now);
            else
                (order.State, order.CancelledAt, order.CancelReason) = (OrderState.Cancelled, now, reason);
        Tell(
            order.State == OrderState.Cancelled ? OrderMessages.Cancelled(order, shop, now)
            : kind == MovementKind.Sale ? OrderMessages.PartsSent(order, ending.Ended, shop, now)
            : OrderMessages.PartsCancelled(order, ending.Ended, reason!, order.Refunded - before, shop, now)
        );
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>The rules that limit uses: the shop's, and those of the products that it has.</summary>
    private async Task<List<PriceRule>> RulesOf(OrderRow order)
    {
        var rules = (await catalogue.Prices(db)).Rules.ToList();
        foreach (var product in order.Lines.Select(l => l.ProductId).Distinct().ToList())
            if (await catalogue.Latest(db, product) is { } edition)
                rules.AddRange(edition.Product.PriceRules);
        return rules;
    }

    /// <summary>An order, held till the end of the transaction; what it has is read only after it is held.</summary>
    private async Task<OrderRow?> Locked(int number)
    {
        await db.Database.ExecuteSqlAsync($"select 1 from orders where number = {number} for update");
        return await db.Orders.Include(o => o.Lines).ThenInclude(l => l.Leaves).SingleOrDefaultAsync(o => o.Number == number);
    }

    /// <summary>Locks an order, does the work if it is in the state that the work needs, and commits.</summary>
    /// <param name="work">Gives what stands in the way, or null.</param>
    private async Task<Outcome> Within(int number, OrderState next, OrderState needed, Func<OrderRow, ShopSettings, Task<string?>> work)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var order = await Locked(number);
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
        var allocated = order.Lines.SelectMany(l => l.Leaves).Where(l => l.Locations.Length > 0).ToList();
        var levels = await ledger.Lock(allocated.Select(l => l.SkuId).Distinct(), locations);
        foreach (var leaf in allocated)
            foreach (var (location, units) in leaf.Locations.Zip(leaf.UnitsAt))
            {
                var written = ledger.Write(levels[(leaf.SkuId, location)], kind, units, by, clock.GetUtcNow(), null, order.Number);
                if (!written.Ok)
                    return $"{leaf.Sku} cannot leave: {written.Problem} Receive the goods first.";
            }
        return null;
    }

    private async Task<string?> AllocateAgain(OrderRow order, ShopSettings shop, Actor by)
    {
        var locations = await db.Locations.OrderBy(l => l.Position).Select(l => l.Id).ToListAsync();
        var ledger = new StockLedger(db);
        var counted = order.Lines.SelectMany(l => l.Leaves).Where(l => l.Locations.Length > 0).ToList();
        var levels = counted.Count == 0 ? [] : await ledger.Lock(counted.Select(l => l.SkuId).Distinct(), locations);
        var allocating = new Allocating(ledger, levels, locations, by, clock.GetUtcNow());
        var today = shop.DayAt(clock.GetUtcNow());
        foreach (var same in counted.GroupBy(l => l.SkuId))
            if (await WhyNotAgain(same.First(), same.Sum(l => (long)l.Allotted), allocating.LevelOf(same.Key), order, today) is { } problem)
                return problem;
        foreach (var leaf in counted)
        {
            var taken = allocating.Take(leaf.SkuId, leaf.Allotted, order.Number);
            if (!taken.Ok)
                return $"{leaf.Sku}: {taken.Problem}";
            (leaf.Locations, leaf.UnitsAt, leaf.Beyond) = (taken.Value!.Locations, taken.Value.Units, taken.Value.Beyond);
        }
        return null;
    }

    /// <summary>Why so many units of a SKU cannot be allocated again; null where they can.</summary>
    private async Task<string?> WhyNotAgain(OrderLeafRow leaf, long units, StockLevel level, OrderRow order, DateOnly today)
    {
        var shipped = await db
            .Movements.Where(m => m.SkuId == leaf.SkuId && m.Kind == MovementKind.Sale && m.At >= order.CancelledAt)
            .SumAsync(m => -m.OnHand);
        if (shipped > 0)
            return $"{shipped:N0} of {leaf.Sku} were shipped since it was cancelled. Take a new order instead.";
        var onSale = await catalogue.OfSku(db, leaf.Sku);
        var selling = onSale is { Variant.Variant.Retired: false } ? onSale.Variant.Selling : Selling.Inherited;
        var available = Availability.Of(selling with { OffForNow = null }, level, today);
        return available.CanSell((int)Math.Min(units, int.MaxValue))
            ? null
            : $"{leaf.Sku}: {units:N0} are needed, " + $"{available.Units:N0} are left.";
    }

    private void Tell(OutboxMessage? message)
    {
        if (message is not null)
            db.Outbox.Add(message);
    }
}
