using System.Security.Cryptography;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>Who buys, and how it was paid.</summary>
public sealed record Buyer(string Name, string Email, string PostalAddress, string? Payment);

/// <summary>A SKU that ran short.</summary>
public sealed record Shortage(string Sku, int Wanted, int Available);

/// <summary>What became of an order.</summary>
public sealed record Placed(OrderRow? Order, IReadOnlyList<Shortage> Shortages, IReadOnlyList<Fault> Faults);

/// <summary>Places an order: allocates all of it or nothing, in one transaction.</summary>
public sealed class PlaceOrder(UnicusContext db, BasketPricing pricing, TimeProvider clock)
{
    public async Task<Placed> Run(BasketRequest request, Buyer buyer, Actor by)
    {
        var shop = await ShopSettings.Load(db);
        var priced = await pricing.Run(request, shop);
        if (!priced.Done) return new Placed(null, [], priced.Faults);
        var basket = priced.Result!;
        await using var transaction = db.Database.CurrentTransaction is null ? await db.Database.BeginTransactionAsync() : null;

        var skus = new Dictionary<Sku, int>();
        var needs = basket.Lines.SelectMany(Needs).ToList();
        foreach (var sku in needs.Select(n => n.Variant.Sku).Distinct()) skus[sku] = (await SkuLookup.Find(db, sku.Text))!.Id;
        var locations = await db.Locations.OrderBy(l => l.Position).Select(l => l.Id).ToListAsync();
        var ledger = new StockLedger(db);
        var counted = needs.Where(n => n.Variant.Selling.Counted != false).Select(n => skus[n.Variant.Sku]).Distinct().ToList();
        var levels = counted.Count == 0 ? [] : await ledger.Lock(counted, locations);
        var shortages = Shortages(needs, skus, levels, shop.DayAt(clock.GetUtcNow()));
        if (shortages.Count > 0) return new Placed(null, shortages, []);

        var order = Row(basket, buyer, shop);
        db.Orders.Add(order);
        await db.SaveChangesAsync();
        for (var i = 0; i < basket.Lines.Length; i++)
        {
            var line = basket.Lines[i];
            var shares = Allocate(line.Variant, line.Request.Quantity, order.Number);
            var parts = line.Parts.Select(p => new OrderedPart(p.Slot, skus[p.OnSale.Variant.Sku], p.OnSale.Variant.Sku.Text, p.OnSale.Figures.Name, p.PerUnit * line.Request.Quantity, p.OnSale.Figures.Price?.Amount,
                Allocate(p.OnSale.Variant, p.PerUnit * line.Request.Quantity, order.Number))).ToList();
            order.Lines.Add(LineRow(line, i, basket.Totals.LineTax[i], skus[line.Variant.Sku], shares, parts));
        }
        var document = basket.ToJson();
        document.Insert(0, "number", order.Number);
        order.Document = document.ToJsonString();
        Announce(order, shop, basket, skus, levels);
        await db.SaveChangesAsync();
        if (transaction is not null) await transaction.CommitAsync();
        return new Placed(order, [], []);

        Dictionary<int, int> Allocate(MatrixVariant variant, int quantity, int number)
        {
            var shares = variant.Selling.Counted == false ? [] : Share(levels, skus[variant.Sku], locations, quantity);
            foreach (var (location, units) in shares) ledger.Write(levels[(skus[variant.Sku], location)], MovementKind.Allocation, units, by, clock.GetUtcNow(), null, number);
            return shares.ToDictionary(s => s.Location, s => s.Units);
        }
    }

    /// <summary>Every SKU that a line takes, with its units.</summary>
    private static IEnumerable<(MatrixVariant Variant, CompiledEdition Edition, int Units)> Needs(PricedLine line) =>
        line.Parts.Select(p => (p.OnSale.Variant, p.OnSale.Edition, p.PerUnit * line.Request.Quantity)).Prepend((line.Variant, line.Edition, line.Request.Quantity));

    private static List<Shortage> Shortages(IReadOnlyList<(MatrixVariant Variant, CompiledEdition Edition, int Units)> needs, Dictionary<Sku, int> skus, Dictionary<(int Sku, int Location), LevelRow> levels, DateOnly today)
    {
        var shortages = new List<Shortage>();
        foreach (var same in needs.GroupBy(n => n.Variant.Sku))
        {
            var level = levels.Where(l => l.Key.Sku == skus[same.Key]).Aggregate(default(StockLevel), (sum, l) => sum + l.Value.Level);
            var wanted = same.Sum(n => n.Units);
            var availability = Availability.Of(same.First().Variant.Selling, level, today);
            if (!availability.CanSell(wanted)) shortages.Add(new Shortage(same.Key.Text, wanted, availability.Units!.Value));
        }
        return shortages;
    }

    /// <summary>Takes from the first location that has enough of it, then the next; what is sold beyond stock stands at the first.</summary>
    private static List<(int Location, int Units)> Share(Dictionary<(int, int), LevelRow> levels, int sku, List<int> locations, int quantity)
    {
        var shares = new List<(int Location, int Units)>();
        foreach (var location in locations)
        {
            var take = Math.Min(quantity, Math.Max(0, levels[(sku, location)].Level.Available));
            if (take > 0) shares.Add((location, take));
            quantity -= take;
        }
        if (quantity == 0) return shares;
        var first = shares.FindIndex(s => s.Location == locations[0]);
        if (first >= 0) shares[first] = (locations[0], shares[first].Units + quantity);
        else shares.Insert(0, (locations[0], quantity));
        return shares;
    }

    private OrderRow Row(PricedBasket basket, Buyer buyer, ShopSettings shop) => new()
    {
        Token = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(16)),
        PlacedAt = clock.GetUtcNow(),
        Buyer = buyer.Name,
        Email = buyer.Email,
        PostalAddress = buyer.PostalAddress,
        Destination = basket.Destination?.Code,
        Payment = buyer.Payment,
        Currency = shop.Currency.Code,
        Subtotal = basket.Totals.Subtotal.Amount,
        Delivery = basket.Totals.Delivery.Amount,
        Tax = basket.Totals.Tax.Amount,
        Total = basket.Totals.Total.Amount,
        TaxIncluded = basket.TaxIncluded,
        Document = "{}",
    };

    private static OrderLineRow LineRow(PricedLine line, int position, Money tax, int skuId, Dictionary<int, int> shares, List<OrderedPart> parts) => new()
    {
        Position = position,
        ProductId = line.Edition.ProductId,
        ProductCode = line.Edition.Product.Code.Text,
        Edition = line.Edition.Number,
        SkuId = skuId,
        Sku = line.Variant.Sku.Text,
        Title = line.Title,
        Configuration = JsonSerializer.Serialize(line.Edition.Matrix.Options.Select(o => new OrderedAnswer(o.Label, o.Find(line.Variant.Values[o.Key]!.Value)!.Label, false))
            .Concat(line.Extras.Select(e => new OrderedAnswer(e.Label, e.Answer, true))), JsonSerializerOptions.Web),
        Working = PricedBasket.WorkingJson(line.Working).ToJsonString(),
        Quantity = line.Request.Quantity,
        Unit = line.Working.Unit.Amount,
        Total = line.Working.Total.Amount,
        Tax = tax.Amount,
        Cost = line.Cost?.Amount,
        Through = line.Through,
        Allocation = JsonSerializer.Serialize(shares),
        Parts = JsonSerializer.Serialize(parts),
    };

    /// <summary>Puts the confirmation, and one message for each SKU that became low by this order, into the outbox.</summary>
    private void Announce(OrderRow order, ShopSettings shop, PricedBasket basket, Dictionary<Sku, int> skus, Dictionary<(int Sku, int Location), LevelRow> levels)
    {
        var at = clock.GetUtcNow();
        if (order.Email.Length > 0)
            db.Outbox.Add(new OutboxMessage { At = at, To = order.Email, Subject = $"{shop.Name}: your order {order.Number}", Body = $"Thank you. Total {basket.Totals.Total.ForPeople()} {shop.Currency}.\n\n{string.Join('\n', order.Lines.Select(l => string.Join("\n    ", l.Extras().Select(e => $"{e.Option}: {e.Value}").Prepend($"{l.Quantity} × {l.Title}"))))}" });
        foreach (var same in basket.Lines.SelectMany(Needs).GroupBy(n => n.Variant.Sku))
        {
            var (variant, edition, _) = same.First();
            var low = edition.Matrix.Figures.Resolve<int>(variant.Variant.Own, variant.Values, f => f.LowLevel).Figure;
            var now = levels.Where(l => l.Key.Sku == skus[same.Key]).Sum(l => l.Value.Level.Available);
            if (low is { } mark && now <= mark && now + same.Sum(n => n.Units) > mark)
                db.Outbox.Add(new OutboxMessage { At = at, To = "the shop", Subject = $"Low: {variant.Sku}, {now} available", Body = $"{PriceCalculator.Title(edition.Product.Name, variant.Values, edition.Matrix.Options)} fell to {now}; its low level is {mark}." });
        }
    }
}
