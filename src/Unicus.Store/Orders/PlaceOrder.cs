using System.Security.Cryptography;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Who buys, and how it was paid.</summary>
public sealed record Buyer(string Name, string Email, string PostalAddress, string? Payment)
{
    /// <summary>The account that they are signed in with; null for none.</summary>
    public int? Account { get; init; }

    /// <summary>As an order keeps them.</summary>
    internal OrderBuyer ForOrder => new(Name, Email, PostalAddress, Payment) { Account = Account };
}

/// <summary>What became of an order.</summary>
/// <param name="Order">Null where nothing was ordered.</param>
/// <param name="Repriced">The basket as it stands now, where its total is not the one that was expected.</param>
public sealed record Placed(Order? Order, IReadOnlyList<Shortage> Shortages, IReadOnlyList<Fault> Faults, PricedBasket? Repriced = null)
{
    /// <summary>Coupons that were named and cannot be used any more; then nothing was ordered.</summary>
    public IReadOnlyList<CouponReply> UsedUp { get; init; } = [];

    /// <summary>The reply of an earlier call with the same key, which is given again; null where this is the first.</summary>
    public CallReply? Earlier { get; init; }

    /// <summary>An order that was refused.</summary>
    public static Placed No(IReadOnlyList<Fault> faults) => new(null, [], faults);
}

/// <summary>Places an order: allocates all of it or nothing, in one transaction.</summary>
public sealed class PlaceOrder(
    UnicusContext db,
    Catalogue catalogue,
    BasketPricing pricing,
    Coupons coupons,
    RepeatedCalls calls,
    TimeProvider clock
)
{
    /// <summary>Places an order.</summary>
    /// <param name="expected">The total that the buyer was shown; null where none was. Shortages are told before it.</param>
    /// <param name="call">The call that it is placed by; sent again it gives the first reply. Null: it has no key.</param>
    public async Task<Placed> Run(BasketRequest request, Buyer buyer, Actor by, decimal? expected = null, CallKey? call = null)
    {
        CallReply? earlier = null;
        var placed = await InTurn(request.Lines, async () =>
        {
            if (call is not null && (earlier = await calls.Begin(call)) is not null)
                return null;
            var made = await Place(request, buyer, by, expected);
            if (call is not null && made.Order is { } order)
                await calls.Keep(call, OrderDocument.Write(order).ToJsonString());
            return made;
        });
        return placed ?? new Placed(null, [], []) { Earlier = earlier };
    }

    /// <summary>The one way to an order: a turn for its goods, then one transaction, which is committed where there is an order and taken
    /// back where there is none.</summary>
    /// <param name="lines">What will be ordered, as far as is known before; only a hint at which turn to wait for.</param>
    /// <param name="work">Looks at whatever the order comes from, calls <see cref="Place"/>, and notes what came of it; null where
    /// there was nothing to be placed.</param>
    /// <remarks>Others wait for the stock that is held meanwhile: nothing is sent to and fro that the order does not need.</remarks>
    internal async Task<Placed?> InTurn(IEnumerable<LineRequest> lines, Func<Task<Placed?>> work)
    {
        using var turn = await OrderTurn.Take(await OrderTurn.GoodsOf(db, catalogue, lines));
        await using var transaction = await db.Database.BeginTransactionAsync();
        db.Database.AutoSavepointsEnabled = false;
        try
        {
            var placed = await work();
            if (placed?.Order is not null)
                await transaction.CommitAsync();
            if (placed is not null)
                (placed.Order is null ? TradeMeter.OrdersRefused : TradeMeter.OrdersPlaced).Add(1);
            return placed;
        }
        finally
        {
            db.Database.AutoSavepointsEnabled = true;
        }
    }

    /// <summary>Prices, allocates and writes an order within the transaction that runs. It is priced once, while its stock is
    /// held.</summary>
    /// <param name="expected">As for <see cref="Run"/>.</param>
    internal async Task<Placed> Place(BasketRequest request, Buyer buyer, Actor by, decimal? expected)
    {
        var shop = await catalogue.Terms.Settings(db);
        var priced = await PriceLocked(request, shop, buyer.Email);
        if (!priced.Done)
            return Placed.No(priced.Faults);
        var basket = priced.Result!;
        var leaves = basket.Lines.SelectMany(l => l.Leaves).ToList();
        var goods = leaves
            .Select(l => l.Goods)
            .Concat(basket.Lines.SelectMany(l => l.Line.Needs).SelectMany(n => n.All).Select(n => n.Goods))
            .Concat(basket.Lines.Select(l => l.Line.Goods))
            .DistinctBy(g => g.Variant.Sku)
            .ToList();
        var taken = basket.Lines.SelectMany(l => l.Line.Needs).SelectMany(n => n.All).Select(n => n.Goods);
        HashSet<Sku> counted = [.. taken.Where(IsCounted).Select(g => g.Variant.Sku)];
        var (skus, locations, levels) = await HeldStock.Lock(db, [.. goods.Select(g => g.Variant.Sku)], counted);
        var gone = goods.Select(g => g.Variant.Sku).Where(s => !skus.ContainsKey(s)).Distinct().ToList();
        if (gone.Count > 0)
            return Placed.No([.. gone.Select(s => new Fault("#/lines", $"{s} is no longer on sale."))]);

        var now = clock.GetUtcNow();
        var locked = new LockedStock(levels, locations);
        var stock = new StockOutlook(sku => locked.LevelOf(skus[sku]), shop.DayAt(now));
        var shortages = Shortages.Of(basket.Lines.Select(l => l.Line), stock);
        if (shortages.Count > 0)
            return new Placed(null, shortages, []);
        if (basket.Coupons.Where(c => IsUsedUp(c, basket)).ToList() is { Count: > 0 } usedUp)
            return new Placed(null, [], []) { UsedUp = usedUp };
        if (expected is { } shown && shown != basket.Total.Amount)
            return new Placed(null, [], [], basket);

        var token = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(16));
        var placing = new Placing(locked, skus, Asked);
        var made = placing.Of(basket, buyer.ForOrder, token, now, by.Name);
        if (made.Order is not { } placed)
            return Placed.No([new Fault($"#/lines/{made.Fault!.Line}", made.Fault.What)]);
        var order = await Write(placed, by);
        await coupons.Record(order, basket);
        Announce(order, shop, goods, skus, locked);
        await db.SaveChangesAsync();
        return new Placed(order, [], []);
    }

    /// <summary>Writes a new order with what it takes; a number is drawn only now, so that refused orders leave no gaps.</summary>
    private async Task<Order> Write(NewOrder made, Actor by)
    {
        var applied = made.Order.Apply(made.Placed);
        var row = OrderRecord.Write(made.Order, made.Placed);
        await new StockLedger(db).SaveAllocations(row, applied.Movements, by, made.Placed.At);
        db.Orders.Add(row);
        return applied.Order with { Number = row.Number };
    }

    private static string Asked(RunLine line) =>
        AnswerDocument.Write(line.Answers, line.Goods.Edition.Configurator.Questions).ToJsonString();

    /// <summary>Prices with the rules that have limits, and the codes that were named, held till the end of the transaction.</summary>
    private async Task<Outcome<PricedBasket>> PriceLocked(BasketRequest request, ShopSettings shop, string email)
    {
        var priced = await pricing.Run(request, shop, email: email);
        if (priced.Result is not { } basket)
            return priced;
        var named = basket.Terms.Buying.Coupons;
        // Also those that may act once another is used up.
        var limited = basket.RulesOf(r => r.Limits != RuleLimits.None && (!r.When.NeedsCoupon || named.Any(n => n.IsFor(r.When)))).ToList();
        if (limited.Count == 0 && named.All(n => n.List is null))
            return priced;
        await coupons.Lock(limited, named);
        return await pricing.Run(request, shop, email: email);
    }

    private static bool IsUsedUp(CouponReply coupon, PricedBasket basket)
    {
        if (coupon.Acts || basket.Terms.Buying.Coupons.FirstOrDefault(c => c.Code == coupon.Code) is not { } named)
            return false;
        return named.IsUsed || basket.RulesOf(r => named.IsFor(r.When)).Any(r => basket.Terms.Buying.UsedUp.Contains(r.Id));
    }

    private static bool IsCounted(VariantOnSale goods) => goods.Variant.Selling.Counted != false;

    /// <summary>Puts the confirmation, and one message for each SKU that became low by this order, into the outbox.</summary>
    private void Announce(Order order, ShopSettings shop, IReadOnlyList<VariantOnSale> all, Dictionary<Sku, int> skus, LockedStock stock)
    {
        var at = clock.GetUtcNow();
        if (OrderMessages.Placed(order, shop, at) is { } confirmation)
            db.Outbox.Add(confirmation);
        // By what was taken: parts that were in a set made up ahead were not.
        var taken = order.Leaves.ToLookup(l => l.SkuId, l => l.SetAside);
        foreach (var goods in all)
        {
            var sku = skus[goods.Variant.Sku];
            var now = stock.LevelOf(sku).Available;
            if (!IsCounted(goods) || goods.LowLevel is not { } mark || now > mark || now + taken[sku].Sum() <= mark)
                continue;
            db.Outbox.Add(
                new OutboxMessage
                {
                    At = at,
                    To = "the shop",
                    Subject = $"Low: {goods.Variant.Sku}, {now} available",
                    Body = $"{goods.Figures.Name} fell to {now}; its low level is {mark}.",
                }
            );
        }
    }
}
