using System.Security.Cryptography;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>Who buys, and how it was paid.</summary>
public sealed record Buyer(string Name, string Email, string PostalAddress, string? Payment);

/// <summary>A SKU that ran short.</summary>
public sealed record Shortage(string Sku, long Wanted, int Available);

/// <summary>What became of an order.</summary>
/// <param name="Order">Null where nothing was ordered.</param>
/// <param name="Repriced">The basket as it stands now, where its total is not the one that was expected.</param>
public sealed record Placed(OrderRow? Order, IReadOnlyList<Shortage> Shortages, IReadOnlyList<Fault> Faults, PricedBasket? Repriced = null);

/// <summary>Places an order: allocates all of it or nothing, in one transaction.</summary>
public sealed class PlaceOrder(UnicusContext db, BasketPricing pricing, TimeProvider clock)
{
    /// <summary>Places an order.</summary>
    /// <param name="expected">The total that the buyer was shown; null where none was. Shortages are told before it.</param>
    public async Task<Placed> Run(BasketRequest request, Buyer buyer, Actor by, decimal? expected = null)
    {
        await using var transaction = db.Database.CurrentTransaction is null ? await db.Database.BeginTransactionAsync() : null;
        var shop = await ShopSettings.Load(db);
        var priced = await pricing.Run(request, shop);
        if (!priced.Done)
            return new Placed(null, [], priced.Faults);
        var basket = priced.Result!;
        var needs = basket.Lines.SelectMany(Needs).ToList();
        var skus = await SkuLookup.FindAll(db, [.. needs.Select(n => n.Variant.Sku).Distinct()]);
        var gone = needs.Where(n => !skus.ContainsKey(n.Variant.Sku)).Select(n => n.Variant.Sku).Distinct().ToList();
        if (gone.Count > 0)
            return new Placed(null, [], [.. gone.Select(s => new Fault("#/lines", $"{s} is no longer on sale."))]);

        var locations = await db.Locations.OrderBy(l => l.Position).Select(l => l.Id).ToListAsync();
        var ledger = new StockLedger(db);
        var counted = needs.Where(n => n.Variant.Selling.Counted != false).Select(n => skus[n.Variant.Sku]).Distinct().ToList();
        var levels = counted.Count == 0 ? [] : await ledger.Lock(counted, locations);
        var allocating = new Allocating(ledger, levels, locations, by, clock.GetUtcNow());
        var shortages = Shortages(needs, skus, allocating, shop.DayAt(clock.GetUtcNow()));
        if (shortages.Count > 0)
            return new Placed(null, shortages, []);
        if (expected is { } shown && shown != basket.Totals.Total.Amount)
            return new Placed(null, [], [], basket);

        var order = Row(basket, buyer, shop);
        db.Orders.Add(order);
        await db.SaveChangesAsync();
        for (var i = 0; i < basket.Lines.Length; i++)
        {
            var line = LineRow(basket.Lines[i], i, basket.Totals.LineTax[i], order.Number, skus, allocating);
            if (!line.Ok)
                return new Placed(null, [], [new Fault($"#/lines/{i}", line.Problem!)]);
            order.Lines.Add(line.Value!);
        }
        var document = basket.ToJson();
        document.Insert(0, "number", order.Number);
        order.Document = document.ToJsonString();
        Announce(order, shop, basket, skus, allocating);
        await db.SaveChangesAsync();
        if (transaction is not null)
            await transaction.CommitAsync();
        return new Placed(order, [], []);
    }

    /// <summary>Units of one SKU that a line takes.</summary>
    private sealed record Need(MatrixVariant Variant, CompiledEdition Edition, long Units);

    /// <summary>Every SKU that a line takes, with its units.</summary>
    private static IEnumerable<Need> Needs(PricedLine line) =>
        line
            .Parts.Select(p => new Need(p.OnSale.Variant, p.OnSale.Edition, (long)p.PerUnit * line.Request.Quantity))
            .Prepend(new Need(line.Variant, line.Edition, line.Request.Quantity));

    private static List<Shortage> Shortages(IReadOnlyList<Need> needs, Dictionary<Sku, int> skus, Allocating allocating, DateOnly today)
    {
        var shortages = new List<Shortage>();
        foreach (var same in needs.GroupBy(n => n.Variant.Sku))
        {
            var wanted = same.Sum(n => n.Units);
            var availability = Availability.Of(same.First().Variant.Selling, allocating.LevelOf(skus[same.Key]), today);
            var units = Math.Min(availability.Units ?? Movements.MostUnits, Movements.MostUnits);
            if (wanted > units)
                shortages.Add(new Shortage(same.Key.Text, wanted, units));
        }
        return shortages;
    }

    private OrderRow Row(PricedBasket basket, Buyer buyer, ShopSettings shop) =>
        new()
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

    private static Read<OrderLineRow> LineRow(
        PricedLine line,
        int position,
        Money tax,
        int order,
        Dictionary<Sku, int> skus,
        Allocating allocating
    )
    {
        Read<AllocatedUnits> Take(MatrixVariant variant, int units) =>
            variant.Selling.Counted == false
                ? Read<AllocatedUnits>.Of(new AllocatedUnits([], 0))
                : allocating.Take(skus[variant.Sku], units, order);

        var own = Take(line.Variant, line.Request.Quantity);
        if (!own.Ok)
            return Read<OrderLineRow>.No($"{line.Variant.Sku}: {own.Problem}");
        var parts = new List<OrderedPart>();
        foreach (var part in line.Parts)
        {
            var (variant, units) = (part.OnSale.Variant, part.PerUnit * line.Request.Quantity);
            var taken = Take(variant, units);
            if (!taken.Ok)
                return Read<OrderLineRow>.No($"{variant.Sku}: {taken.Problem}");
            parts.Add(
                new OrderedPart(
                    part.Slot,
                    skus[variant.Sku],
                    variant.Sku.Text,
                    part.OnSale.Figures.Name,
                    units,
                    part.OnSale.Figures.Price?.Amount,
                    taken.Value!.Shares,
                    taken.Value.Beyond
                )
            );
        }
        return Read<OrderLineRow>.Of(
            new OrderLineRow
            {
                Position = position,
                ProductId = line.Edition.ProductId,
                ProductCode = line.Edition.Product.Code.Text,
                Edition = line.Edition.Number,
                SkuId = skus[line.Variant.Sku],
                Sku = line.Variant.Sku.Text,
                Title = line.Title,
                Configuration = JsonSerializer.Serialize(Answers(line), JsonSerializerOptions.Web),
                Working = PricedBasket.WorkingJson(line.Working).ToJsonString(),
                Quantity = line.Request.Quantity,
                Beyond = own.Value!.Beyond,
                Unit = line.Working.Unit.Amount,
                Total = line.Working.Total.Amount,
                Tax = tax.Amount,
                Cost = line.Cost?.Amount,
                Through = line.Through,
                Allocation = JsonSerializer.Serialize(own.Value.Shares),
                Parts = JsonSerializer.Serialize(parts),
            }
        );
    }

    private static IEnumerable<OrderedAnswer> Answers(PricedLine line) =>
        line
            .Edition.Matrix.Options.Select(o => new OrderedAnswer(o.Label, o.Find(line.Variant.Values[o.Key]!.Value)!.Label, false))
            .Concat(line.Extras.Select(e => new OrderedAnswer(e.Label, e.Answer, true)));

    /// <summary>Puts the confirmation, and one message for each SKU that became low by this order, into the outbox.</summary>
    private void Announce(OrderRow order, ShopSettings shop, PricedBasket basket, Dictionary<Sku, int> skus, Allocating allocating)
    {
        var at = clock.GetUtcNow();
        if (OrderMessages.Placed(order, shop, at) is { } confirmation)
            db.Outbox.Add(confirmation);
        foreach (var same in basket.Lines.SelectMany(Needs).GroupBy(n => n.Variant.Sku))
        {
            var (variant, edition, _) = same.First();
            var low = edition.Matrix.Figures.Resolve<int>(variant.Variant.Own, variant.Values, f => f.LowLevel).Figure;
            var now = allocating.LevelOf(skus[same.Key]).Available;
            if (low is not { } mark || now > mark || now + same.Sum(n => n.Units) <= mark)
                continue;
            db.Outbox.Add(
                new OutboxMessage
                {
                    At = at,
                    To = "the shop",
                    Subject = $"Low: {variant.Sku}, {now} available",
                    Body =
                        $"{PriceCalculator.Title(edition.Product.Name, variant.Values, edition.Matrix.Options)} fell to {now}; its "
                        + $"low level is {mark}.",
                }
            );
        }
    }
}
