using System.Security.Cryptography;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;

namespace Unicus.Store;

/// <summary>Who buys, and how it was paid.</summary>
public sealed record Buyer(string Name, string Email, string PostalAddress, string? Payment)
{
    /// <summary>The account that they are signed in with; null for none.</summary>
    public int? Account { get; init; }
}

/// <summary>What became of an order.</summary>
/// <param name="Order">Null where nothing was ordered.</param>
/// <param name="Repriced">The basket as it stands now, where its total is not the one that was expected.</param>
public sealed record Placed(OrderRow? Order, IReadOnlyList<Shortage> Shortages, IReadOnlyList<Fault> Faults, PricedBasket? Repriced = null)
{
    /// <summary>Coupons that were named and cannot be used any more; then nothing was ordered.</summary>
    public IReadOnlyList<CouponReply> UsedUp { get; init; } = [];

    /// <summary>An order that was refused.</summary>
    public static Placed No(IReadOnlyList<Fault> faults) => new(null, [], faults);
}

/// <summary>Places an order: allocates all of it or nothing, in one transaction.</summary>
public sealed class PlaceOrder(UnicusContext db, Catalogue catalogue, BasketPricing pricing, Coupons coupons, TimeProvider clock)
{
    /// <summary>Places an order.</summary>
    /// <param name="expected">The total that the buyer was shown; null where none was. Shortages are told before it.</param>
    /// <remarks>It is priced once, inside its transaction. Where it is refused within a transaction of the caller's, nothing of it is
    /// left to be committed.</remarks>
    public async Task<Placed> Run(BasketRequest request, Buyer buyer, Actor by, decimal? expected = null)
    {
        var placed = db.Database.CurrentTransaction is { } outer
            ? await PlaceWithin(outer, request, buyer, by, expected)
            : await PlaceAlone(request, buyer, by, expected);
        (placed.Order is null ? TradeMeter.OrdersRefused : TradeMeter.OrdersPlaced).Add(1);
        return placed;
    }

    private async Task<Placed> PlaceAlone(BasketRequest request, Buyer buyer, Actor by, decimal? expected)
    {
        using var turn = await OrderTurn.Take(await OrderTurn.GoodsOf(db, catalogue, request.Lines));
        await using var transaction = await db.Database.BeginTransactionAsync();
        var placed = await PlaceQuickly(request, buyer, by, expected);
        if (placed.Order is not null)
            await transaction.CommitAsync();
        return placed;
    }

    private async Task<Placed> PlaceWithin(IDbContextTransaction outer, BasketRequest request, Buyer buyer, Actor by, decimal? expected)
    {
        await outer.CreateSavepointAsync("order");
        var placed = await PlaceQuickly(request, buyer, by, expected);
        if (placed.Order is null)
        {
            await outer.RollbackToSavepointAsync("order");
            db.ChangeTracker.Clear();
        }
        return placed;
    }

    /// <summary>Others wait for the stock that is held meanwhile: nothing is sent to and fro that the order does not need.</summary>
    private async Task<Placed> PlaceQuickly(BasketRequest request, Buyer buyer, Actor by, decimal? expected)
    {
        db.Database.AutoSavepointsEnabled = false;
        try
        {
            return await Place(request, buyer, by, expected);
        }
        finally
        {
            db.Database.AutoSavepointsEnabled = true;
        }
    }

    private async Task<Placed> Place(BasketRequest request, Buyer buyer, Actor by, decimal? expected)
    {
        var shop = await catalogue.Settings(db);
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

        var ledger = new StockLedger(db);
        var allocating = new Allocating(ledger, levels, locations, by, clock.GetUtcNow());
        var stock = new LeafStock(sku => allocating.LevelOf(skus[sku]), shop.DayAt(clock.GetUtcNow()));
        var shortages = Shortages.Of(basket.Lines.Select(l => l.Line), goods => stock.Of(goods.Variant));
        if (shortages.Count > 0)
            return new Placed(null, shortages, []);
        if (basket.Coupons.Where(c => IsUsedUp(c, basket)).ToList() is { Count: > 0 } usedUp)
            return new Placed(null, [], []) { UsedUp = usedUp };
        if (expected is { } shown && shown != basket.Total.Amount)
            return new Placed(null, [], [], basket);

        var order = Row(basket, buyer, shop);
        for (var i = 0; i < basket.Lines.Length; i++)
        {
            var line = LineRow(basket.Lines[i], i, skus, allocating);
            if (!line.Ok)
                return Placed.No([new Fault($"#/lines/{i}", line.Problem!)]);
            order.Lines.Add(line.Value!);
        }
        // A number is drawn only now, so that refused orders leave no gaps.
        await ledger.SaveAllocations(order, by, order.PlacedAt);
        db.Orders.Add(order);
        await coupons.Record(order, basket);
        Announce(order, shop, goods, skus, allocating);
        await db.SaveChangesAsync();
        return new Placed(order, [], []);
    }

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

    private OrderRow Row(PricedBasket basket, Buyer buyer, ShopSettings shop) =>
        new()
        {
            Token = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(16)),
            PlacedAt = clock.GetUtcNow(),
            Buyer = buyer.Name,
            Email = buyer.Email,
            PostalAddress = buyer.PostalAddress,
            Destination = basket.Terms.Destination?.Code,
            Service = basket.Service?.Key.Text,
            Payment = buyer.Payment,
            Currency = shop.Currency.Code,
            Subtotal = basket.Subtotal.Amount,
            Delivery = basket.Delivery.Amount,
            Tax = basket.Tax.Amount,
            Total = basket.Total.Amount,
            TaxIncluded = basket.Terms.Trade.PricesIncludeTax,
            Reductions = JsonSerializer.Serialize(
                basket.Reductions.Select(r => new OrderedReduction(r.Rule.Id, r.Rule.Name, r.Amount.Amount)),
                JsonSerializerOptions.Web
            ),
            Coupons = JsonSerializer.Serialize(basket.Coupons, JsonSerializerOptions.Web),
            CustomerId = buyer.Account,
            CustomerGroup = basket.Terms.Buying.Groups is [var group, ..] ? group.Text : null,
        };

    private static Read<OrderLineRow> LineRow(PricedLine line, int position, Dictionary<Sku, int> skus, Allocating allocating)
    {
        var taking = new TakenStock(allocating, skus);
        if (taking.Take(line.Line.Needs, line.Line.Quantity) is { } refused)
            return Read<OrderLineRow>.No(refused);
        var leaves = new List<OrderLeafRow>();
        foreach (var (leaf, tax) in line.Leaves.Zip(line.LeafTaxes))
        {
            var taken = taking.Of(leaf.Path, leaf.Goods) ?? AllocatedUnits.None;
            var row = LeafRow(leaf, leaves.Count, skus[leaf.Goods.Variant.Sku], taken);
            row.Tax = tax.Amount;
            leaves.Add(row);
        }
        // What was made up ahead stands behind what is in it: it is taken from stock, and what is paid goes through its parts.
        foreach (var (path, made, units, allocated) in taking.Rest)
            leaves.Add(MadeUpRow(path, made, units, leaves.Count, skus[made.Variant.Sku], allocated, line.Total.Currency));
        var (goods, quantity) = (line.Line.Goods, line.Line.Quantity);
        return Read<OrderLineRow>.Of(
            new OrderLineRow
            {
                Position = position,
                ProductId = goods.Edition.ProductId,
                ProductCode = goods.Edition.Product.Code.Text,
                Edition = goods.Edition.Number,
                SkuId = skus[goods.Variant.Sku],
                Sku = line.Line.IsOfGroup ? "" : goods.Variant.Sku.Text,
                Title = line.Title,
                Asked = AnswerDocument.Write(line.Line.Answers, goods.Edition.Configurator.Questions).ToJsonString(),
                AskedParts = line.Line.AskedParts?.ToJsonString(),
                Configuration = JsonSerializer.Serialize(Answers(line), JsonSerializerOptions.Web),
                Working = JsonSerializer.Serialize(line.Working.Steps.Select(Step), JsonSerializerOptions.Web),
                Quantity = quantity,
                Unit = line.Unit.Amount,
                Total = line.Total.Amount,
                Reduction = line.Reduction.Amount,
                Tax = line.Tax.Amount,
                Cost = line.Cost?.Amount,
                Through = line.Line.Through ?? goods.Edition.Product.Code.Text,
                Note = goods.Variant.Selling.AfterOrderNote,
                Leaves = leaves,
            }
        );
    }

    private static OrderLeafRow MadeUpRow(
        LeafPath path,
        VariantOnSale goods,
        long units,
        int position,
        int sku,
        AllocatedUnits taken,
        Currency currency
    )
    {
        var row = LeafRow(new Leaf(path, goods, units, Money.Zero(currency), Money.Zero(currency)), position, sku, taken);
        (row.MadeUp, row.Shipped, row.WeightGrams) = (true, false, null);
        return row;
    }

    private static OrderLeafRow LeafRow(Leaf leaf, int position, int sku, AllocatedUnits taken) =>
        new()
        {
            Position = position,
            Path = leaf.Path.Text,
            ProductId = leaf.Goods.Edition.ProductId,
            SkuId = sku,
            Sku = leaf.Goods.Variant.Sku.Text,
            Name = leaf.Goods.Figures.Name,
            Units = (int)leaf.Units,
            Allocated = leaf.Allocated.Amount,
            Cost = leaf.Cost?.Amount,
            TaxClass = leaf.TaxClass,
            CustomsCode = leaf.Goods.CustomsCode,
            Origin = leaf.Goods.Origin,
            Shipped = leaf.Goods.Variant.Selling.Shipped != false,
            WeightGrams = leaf.Goods.Variant.Selling.Shipped != false ? leaf.Goods.WeightGrams : null,
            Beyond = taken.Beyond,
            Locations = taken.Locations,
            UnitsAt = taken.Units,
        };

    private static OrderedStep Step(WorkingStep step) =>
        new(BasketDocument.Step(step.Step), step.Label, step.Amount.Amount, step.PerLine, step.Rule);

    private static IEnumerable<OrderedAnswer> Answers(PricedLine line)
    {
        var (edition, variant) = (line.Line.Goods.Edition, line.Line.Goods.Variant);
        return edition
            .Matrix.Options.Select(o => new OrderedAnswer(o.Label, o.Find(variant.Values[o.Key]!.Value)!.Label, false))
            .Concat(line.Extras.Select(e => new OrderedAnswer(e.Label, e.Answer, true)));
    }

    /// <summary>Puts the confirmation, and one message for each SKU that became low by this order, into the outbox.</summary>
    private void Announce(
        OrderRow order,
        ShopSettings shop,
        IReadOnlyList<VariantOnSale> all,
        Dictionary<Sku, int> skus,
        Allocating allocating
    )
    {
        var at = clock.GetUtcNow();
        if (OrderMessages.Placed(order, shop, at) is { } confirmation)
            db.Outbox.Add(confirmation);
        // By what was taken: parts that were in a set made up ahead were not.
        var taken = order.Lines.SelectMany(l => l.Leaves).ToLookup(l => l.SkuId, l => l.Allotted);
        foreach (var goods in all)
        {
            var sku = skus[goods.Variant.Sku];
            var now = allocating.LevelOf(sku).Available;
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
