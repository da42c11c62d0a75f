using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Goes on with orders that were placed: sends them or cancels them, as a whole or in parts, or takes the cancelling of the whole
/// back.</summary>
/// <remarks>The order is locked, the core says what an event makes of it, and the event is written with what it moves.</remarks>
public sealed class EndOrder(UnicusContext db, Catalogue catalogue, Coupons coupons, TimeProvider clock)
{
    public const int LongestReason = 300;

    /// <summary>An event that is to happen, and what the buyer is told of it.</summary>
    private sealed record Step(OrderEvent Happened, Func<Applied, ShopSettings, OutboxMessage?> Message);

    /// <summary>Sends everything that is left of an order.</summary>
    public Task<Outcome> Dispatch(int number, Actor by) => Change(number, OrderState.Placed, OrderState.Dispatched, by, (order, shop, at) =>
        {
            var sent = new UnitsSent(at, by.Name, PartsToEnd.All(order));
            return Done(new Step(sent, (done, shop) => OrderMessages.Dispatched(done.Order, shop, at)));
        });

    /// <summary>Cancels an order; of one that some of was sent only the rest.</summary>
    /// <param name="reason">Why, which the buyer is told too; needed.</param>
    public async Task<Outcome> Cancel(int number, string? reason, Actor by)
    {
        var why = TypedText.Line(reason);
        if (why.Length == 0)
            return Outcome.No("reason", "Say why; the buyer is told.");
        if (why.Length > LongestReason)
            return Outcome.No("reason", $"A reason has at most {LongestReason} characters.");
        return await Change(number, OrderState.Placed, OrderState.Cancelled, by, (order, shop, at) =>
        {
            var isWhole = order.Leaves.All(l => l.Sent == 0);
            return Done(Dropping(order, new UnitsDropped(at, by.Name, PartsToEnd.All(order), why, isWhole)));
        });
    }

    /// <summary>Sends parts of an order before the rest; with the last one it is dispatched.</summary>
    /// <param name="parts">None means everything that is left.</param>
    public Task<Outcome> DispatchParts(int number, IReadOnlyList<EndedPart> parts, Actor by) =>
        Change(number, OrderState.Placed, null, by, (order, shop, at) =>
        {
            var found = PartsToEnd.Find(order, parts);
            if (!found.Ok)
                return Done(Read<Step>.No(found.Problem!));
            var sent = new UnitsSent(at, by.Name, found.Value);
            return Done(new Step(sent, (done, shop) => OrderMessages.PartsSent(done.Order, sent.Units, shop, at)));
        });

    /// <summary>Cancels parts of an order and refunds what was allocated to them.</summary>
    /// <param name="parts">None means everything that is left.</param>
    /// <param name="reason">Why, which the buyer is told too; needed.</param>
    public async Task<Outcome> CancelParts(int number, IReadOnlyList<EndedPart> parts, string? reason, Actor by)
    {
        var why = TypedText.Line(reason);
        if (why.Length is 0 or > LongestReason)
            return Outcome.No("reason", $"Say why, in at most {LongestReason} characters; the buyer is told.");
        return await Change(number, OrderState.Placed, null, by, (order, shop, at) =>
        {
            var found = PartsToEnd.Find(order, parts);
            return Done(
                found.Ok
                    ? Read<Step>.Of(Dropping(order, new UnitsDropped(at, by.Name, found.Value, why, WithOrder: false)))
                    : Read<Step>.No(found.Problem!)
            );
        });
    }

    /// <summary>Takes the cancelling back: the order stands again and its stock is allocated anew, all of it or nothing.</summary>
    /// <remarks>Refused once anything of its goods was shipped since, or where there is not enough of them.</remarks>
    public Task<Outcome> Reinstate(int number, Actor by) =>
        Change(number, OrderState.Cancelled, OrderState.Placed, by, async (order, shop, at) =>
        {
            if (!order.CanBeReinstated)
                return Read<Step>.No("Each part of it was cancelled by itself. Take a new order instead.");
            if (order.Buyer.ErasedAt is not null)
                return Read<Step>.No("Its buyer was erased, so nobody knows where it goes. Take a new order instead.");
            if (await coupons.TakeAgain(order.Number, await RulesOf(order)) is { } used)
                return Read<Step>.No(used);
            var allocated = await AllocateAgain(order, shop, at);
            return allocated.Ok
                ? Read<Step>.Of(
                    new Step(new OrderReinstated(at, by.Name, [.. allocated.Value!]), (done, shop) =>
                        OrderMessages.StandsAgain(done.Order, shop, at)
                    )
                )
                : Read<Step>.No(allocated.Problem!);
        });

    private static Step Dropping(Order order, UnitsDropped dropped) =>
        new(dropped, (done, shop) =>
            done.Order.State == OrderState.Cancelled
                ? OrderMessages.Cancelled(done.Order, shop, dropped.At)
                : OrderMessages.PartsCancelled(order, dropped.Units, dropped.Reason, done.Back, shop, dropped.At)
        );

    private static Task<Read<Step>> Done(Step step) => Done(Read<Step>.Of(step));

    private static Task<Read<Step>> Done(Read<Step> step) => Task.FromResult(step);

    /// <summary>Locks an order, lets the event happen if it is in the state that it needs, and commits.</summary>
    /// <param name="needed">The state in which it can happen.</param>
    /// <param name="next">Where it leads; an order that is there already is left as it is. Null where it is asked for each time.</param>
    /// <param name="decide">Gives the event, or what stands in the way.</param>
    private async Task<Outcome> Change(
        int number,
        OrderState needed,
        OrderState? next,
        Actor by,
        Func<Order, ShopSettings, DateTimeOffset, Task<Read<Step>>> decide
    )
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        var order = await new OrderReading(db).Locked(number);
        if (order is null)
            return Outcome.No("", $"There is no order {number}.");
        if (order.State == next)
            return Outcome.Ok;
        if (order.State != needed)
            return Outcome.No("", $"Order {number} is {order.State.ToString().ToLowerInvariant()} already.");
        var shop = await ShopSettings.Load(db);
        var decided = await decide(order, shop, clock.GetUtcNow());
        if (!decided.Ok)
            return Outcome.No("", decided.Problem!);
        if (await Happen(order, decided.Value!, shop, by) is { } problem)
            return Outcome.No("", problem);
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    /// <summary>Writes an event with what it moves and what the buyer is told.</summary>
    /// <returns>What stands in the way; null for nothing.</returns>
    private async Task<string?> Happen(Order order, Step step, ShopSettings shop, Actor by)
    {
        var applied = order.Apply(step.Happened);
        // Codes before stock, as orders take them, so that two never wait for each other.
        if (applied.Order.State == OrderState.Cancelled)
            await coupons.GiveBack(order.Number);
        var ledger = new StockLedger(db);
        var skus = applied.Movements.Select(m => m.Sku).Distinct().ToList();
        var levels = skus.Count == 0 ? [] : await ledger.Lock(skus, await db.Locations.Select(l => l.Id).ToListAsync());
        if (ledger.WriteAll(applied.Movements, levels, order, by, step.Happened.At) is { } problem)
            return problem;
        await db
            .Orders.Where(o => o.Number == order.Number)
            .ExecuteUpdateAsync(u => u.SetProperty(o => o.State, applied.Order.State).SetProperty(o => o.EndedAt, applied.Order.EndedAt));
        var sequence = await db.OrderEvents.CountAsync(e => e.OrderNumber == order.Number);
        db.OrderEvents.Add(OrderEvents.Write(step.Happened, order.Number, sequence));
        if (step.Message(applied, shop) is { } message)
            db.Outbox.Add(message);
        return null;
    }

    /// <summary>The rules that limit uses: the shop's, and those of the products that it has.</summary>
    private async Task<List<PriceRule>> RulesOf(Order order)
    {
        var rules = (await catalogue.Terms.Prices(db)).Rules.ToList();
        foreach (var product in order.Lines.Select(l => l.ProductId).Distinct().ToList())
            if (await catalogue.Editions.Latest(db, product) is { } edition)
                rules.AddRange(edition.Product.PriceRules);
        return rules;
    }

    /// <summary>What is set aside for the order anew, as much as was released with it.</summary>
    private async Task<Read<List<LeafAllocation>>> AllocateAgain(Order order, ShopSettings shop, DateTimeOffset at)
    {
        var locations = await db.Locations.OrderBy(l => l.Position).Select(l => l.Id).ToListAsync();
        var counted = order.Leaves.Where(l => l.Released > 0).ToList();
        var levels = counted.Count == 0 ? [] : await new StockLedger(db).Lock(counted.Select(l => l.SkuId).Distinct(), locations);
        var stock = new LockedStock(levels.Select(l => KeyValuePair.Create(l.Key, l.Value.Level)), locations);
        var today = shop.DayAt(at);
        foreach (var same in counted.GroupBy(l => l.SkuId))
            if (await WhyNotAgain(same.First(), same.Sum(l => (long)l.Released), stock.LevelOf(same.Key), order, today) is { } problem)
                return Read<List<LeafAllocation>>.No(problem);
        var allocations = new List<LeafAllocation>();
        foreach (var leaf in counted)
        {
            var taken = stock.Take(leaf.SkuId, leaf.Released);
            if (!taken.Ok)
                return Read<List<LeafAllocation>>.No($"{leaf.Sku}: {taken.Problem}");
            allocations.Add(new LeafAllocation(leaf.Place, taken.Value!));
        }
        return Read<List<LeafAllocation>>.Of(allocations);
    }

    /// <summary>Why so many units of a SKU cannot be allocated again; null where they can.</summary>
    private async Task<string?> WhyNotAgain(OrderLeaf leaf, long units, StockLevel level, Order order, DateOnly today)
    {
        var shipped = await db
            .Movements.Where(m => m.SkuId == leaf.SkuId && m.Kind == MovementKind.Sale && m.At >= order.EndedAt)
            .SumAsync(m => -m.OnHand);
        if (shipped > 0)
            return $"{shipped:N0} of {leaf.Sku} were shipped since it was cancelled. Take a new order instead.";
        var onSale = await catalogue.Editions.OfSku(db, leaf.Sku);
        var selling = onSale is { Variant.Variant.Retired: false } ? onSale.Variant.Selling : Selling.Inherited;
        var available = Availability.Of(selling with { OffForNow = null }, level, today);
        return available.CanSell((int)Math.Min(units, int.MaxValue))
            ? null
            : $"{leaf.Sku}: {units:N0} are needed, {available.Units:N0} are left.";
    }
}
