using System.Collections.Immutable;
using System.Text.Json;

namespace Unicus.Store;

/// <summary>Orders as they are kept: what was bought as rows, what became of it as events.</summary>
internal static class OrderRecord
{
    private sealed record Reduced(string Rule, string Name, decimal Amount);

    /// <param name="PerLine">Whether the amount is for the line; else for each unit.</param>
    private sealed record KeptStep(string Step, string Label, decimal Amount, bool PerLine, string? Rule);

    /// <summary>What was bought, and what its events made of it.</summary>
    /// <param name="row">With lines, leaves and events.</param>
    public static Order Read(OrderRow row)
    {
        var currency = Currency.Of(row.Currency);
        Money Of(decimal amount) => new(amount, currency);
        var bought = new Order
        {
            Number = row.Number,
            Token = row.Token,
            PlacedAt = row.PlacedAt,
            Buyer = new OrderBuyer(row.Buyer, row.Email, row.PostalAddress, row.Payment)
            {
                Account = row.CustomerId,
                ErasedAt = row.ErasedAt,
            },
            Destination = row.Destination,
            Service = row.Service,
            CustomerGroup = row.CustomerGroup,
            Subtotal = Of(row.Subtotal),
            Delivery = Of(row.Delivery),
            Tax = Of(row.Tax),
            Total = Of(row.Total),
            TaxIncluded = row.TaxIncluded,
            Reductions = [.. FromJson<List<Reduced>>(row.Reductions).Select(r => new OrderedReduction(r.Rule, r.Name, Of(r.Amount)))],
            Coupons = FromJson<ImmutableArray<CouponReply>>(row.Coupons),
            Lines = [.. row.Lines.OrderBy(l => l.Position).Select(l => Line(l, currency))],
        };
        return bought.After(row.Events.OrderBy(e => e.Sequence).Select(OrderEvents.Read));
    }

    /// <summary>The rows of a new order with its first event; the ids and the number that are drawn stand in them afterwards.</summary>
    public static OrderRow Write(Order order, OrderPlaced placed) =>
        new()
        {
            Number = order.Number,
            Token = order.Token,
            PlacedAt = order.PlacedAt,
            Buyer = order.Buyer.Name,
            Email = order.Buyer.Email,
            PostalAddress = order.Buyer.PostalAddress,
            Payment = order.Buyer.Payment,
            CustomerId = order.Buyer.Account,
            Destination = order.Destination,
            Service = order.Service,
            CustomerGroup = order.CustomerGroup,
            Currency = order.Currency.Code,
            Subtotal = order.Subtotal.Amount,
            Delivery = order.Delivery.Amount,
            Tax = order.Tax.Amount,
            Total = order.Total.Amount,
            TaxIncluded = order.TaxIncluded,
            Reductions = ToJson(order.Reductions.Select(r => new Reduced(r.Rule, r.Name, r.Amount.Amount))),
            Coupons = ToJson(order.Coupons),
            Lines = [.. order.Lines.Select(Line)],
            Events = [OrderEvents.Write(placed, order.Number, 0)],
        };

    private static OrderLine Line(OrderLineRow row, Currency currency)
    {
        Money Of(decimal amount) => new(amount, currency);
        var steps = FromJson<List<KeptStep>>(row.Working)
            .Select(s => new WorkingStep(BasketDocument.StepNamed(s.Step), s.Label, Of(s.Amount), s.PerLine, s.Rule));
        return new OrderLine
        {
            Position = row.Position,
            ProductId = row.ProductId,
            ProductCode = row.ProductCode,
            Edition = row.Edition,
            SkuId = row.SkuId,
            Sku = row.Sku,
            Title = row.Title,
            Answers = FromJson<ImmutableArray<OrderedAnswer>>(row.Configuration),
            Asked = row.Asked,
            AskedParts = row.AskedParts,
            Working = new PriceWorking([.. steps], row.Quantity, currency),
            Quantity = row.Quantity,
            Unit = Of(row.Unit),
            Total = Of(row.Total),
            Reduction = Of(row.Reduction),
            Tax = Of(row.Tax),
            Cost = row.Cost is { } cost ? Of(cost) : null,
            Through = row.Through,
            Note = row.Note,
            Leaves = [.. row.Leaves.OrderBy(l => l.Position).Select(l => Leaf(l, new LeafPlace(row.Position, l.Position), currency))],
        };
    }

    private static OrderLeaf Leaf(OrderLeafRow row, LeafPlace place, Currency currency) =>
        new()
        {
            Place = place,
            Path = new LeafPath(row.Path),
            ProductId = row.ProductId,
            SkuId = row.SkuId,
            Sku = row.Sku,
            Name = row.Name,
            Units = row.Units,
            Allocated = new Money(row.Allocated, currency),
            Tax = new Money(row.Tax, currency),
            Cost = row.Cost is { } cost ? new Money(cost, currency) : null,
            TaxClass = row.TaxClass,
            CustomsCode = row.CustomsCode,
            Origin = row.Origin,
            WeightGrams = row.WeightGrams,
            Shipped = row.Shipped,
            MadeUp = row.MadeUp,
        };

    private static OrderLineRow Line(OrderLine line) =>
        new()
        {
            Position = line.Position,
            ProductId = line.ProductId,
            ProductCode = line.ProductCode,
            Edition = line.Edition,
            SkuId = line.SkuId,
            Sku = line.Sku,
            Title = line.Title,
            Asked = line.Asked,
            AskedParts = line.AskedParts,
            Configuration = ToJson(line.Answers),
            Working = ToJson(
                line.Working.Steps.Select(s => new KeptStep(BasketDocument.Step(s.Step), s.Label, s.Amount.Amount, s.PerLine, s.Rule))
            ),
            Quantity = line.Quantity,
            Unit = line.Unit.Amount,
            Total = line.Total.Amount,
            Reduction = line.Reduction.Amount,
            Tax = line.Tax.Amount,
            Cost = line.Cost?.Amount,
            Through = line.Through,
            Note = line.Note,
            Leaves = [.. line.Leaves.Select(Leaf)],
        };

    private static OrderLeafRow Leaf(OrderLeaf leaf) =>
        new()
        {
            Position = leaf.Place.Leaf,
            Path = leaf.Path.Text,
            ProductId = leaf.ProductId,
            SkuId = leaf.SkuId,
            Sku = leaf.Sku,
            Name = leaf.Name,
            Units = leaf.Units,
            Allocated = leaf.Allocated.Amount,
            Tax = leaf.Tax.Amount,
            Cost = leaf.Cost?.Amount,
            TaxClass = leaf.TaxClass,
            CustomsCode = leaf.CustomsCode,
            Origin = leaf.Origin,
            WeightGrams = leaf.WeightGrams,
            Shipped = leaf.Shipped,
            MadeUp = leaf.MadeUp,
        };

    private static T FromJson<T>(string json) => JsonSerializer.Deserialize<T>(json, JsonSerializerOptions.Web)!;

    private static string ToJson<T>(T value) => JsonSerializer.Serialize(value, JsonSerializerOptions.Web);
}
