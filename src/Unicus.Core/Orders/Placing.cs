namespace Unicus.Core.Orders;

using System.Collections.Immutable;
using Unicus.Core.Assembling;
using Unicus.Core.Baskets;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Range;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>An order that is about to be placed.</summary>
/// <param name="Order">What is bought; nothing has happened to it yet.</param>
/// <param name="Placed">What happens to it first.</param>
public sealed record NewOrder(Order Order, OrderPlaced Placed);

/// <summary>Makes an order of a priced basket, with the stock that is set aside for it.</summary>
/// <param name="stock">Held; what is taken is taken from it.</param>
/// <param name="skus">The numbers of the SKUs of everything that the basket takes.</param>
/// <param name="asked">Writes the answers of a line as they are asked for again, as JSON.</param>
public sealed class Placing(LockedStock stock, IReadOnlyDictionary<Sku, int> skus, Func<RunLine, string> asked)
{
    /// <summary>Makes it; its number, 0 here, is drawn as it is written.</summary>
    /// <param name="basket">What is ordered.</param>
    /// <param name="buyer">Who buys.</param>
    /// <param name="token">The unguessable piece of its address.</param>
    /// <param name="at">The moment.</param>
    /// <param name="by">Who places it, as the ledger names them.</param>
    /// <returns>The order, or the line that stock refuses.</returns>
    public (NewOrder? Order, LineFault? Fault) Of(PricedBasket basket, OrderBuyer buyer, string token, DateTimeOffset at, string by)
    {
        var lines = ImmutableArray.CreateBuilder<OrderLine>(basket.Lines.Length);
        var allocations = ImmutableArray.CreateBuilder<LeafAllocation>();
        foreach (var (i, priced) in basket.Lines.Index())
        {
            var taking = new LineTaking(stock, skus);
            if (taking.Take(priced.Line.Needs, priced.Line.Quantity) is { } refused)
                return (null, new LineFault(i, refused));
            var leaves = Leaves(priced, i, taking);
            lines.Add(Line(priced, i, [.. leaves.Select(l => l.Leaf)]));
            allocations.AddRange(leaves.Where(l => !l.Taken.At.IsEmpty).Select(l => new LeafAllocation(l.Leaf.Place, l.Taken)));
        }
        var order = new Order
        {
            Number = 0,
            Token = token,
            PlacedAt = at,
            Buyer = buyer,
            Destination = basket.Terms.Destination?.Code,
            Service = basket.Service?.Key.Text,
            CustomerGroup = basket.Terms.Buying.Groups is [var group, ..] ? group.Text : null,
            Subtotal = basket.Subtotal,
            Delivery = basket.Delivery,
            Tax = basket.Tax,
            Total = basket.Total,
            TaxIncluded = basket.Terms.Trade.PricesIncludeTax,
            Reductions = [.. basket.Reductions.Select(r => new OrderedReduction(r.Rule.Id, r.Rule.Name, r.Amount))],
            Coupons = basket.Coupons,
            Lines = lines.MoveToImmutable(),
        };
        return (new NewOrder(order, new OrderPlaced(at, by, allocations.ToImmutable())), null);
    }

    private OrderLine Line(PricedLine priced, int position, ImmutableArray<OrderLeaf> leaves)
    {
        var goods = priced.Line.Goods;
        return new OrderLine
        {
            Position = position,
            ProductId = goods.Edition.ProductId,
            ProductCode = goods.Edition.Product.Code.Text,
            Edition = goods.Edition.Number,
            SkuId = skus[goods.Variant.Sku],
            Sku = priced.Line.IsOfGroup ? "" : goods.Variant.Sku.Text,
            Title = priced.Title,
            Answers = [.. Answers(priced)],
            Asked = asked(priced.Line),
            AskedParts = priced.Line.AskedParts?.ToJsonString(),
            Working = priced.Working,
            Quantity = priced.Line.Quantity,
            Unit = priced.Unit,
            Total = priced.Total,
            Reduction = priced.Reduction,
            Tax = priced.Tax,
            Cost = priced.Cost,
            Through = priced.Line.Through ?? goods.Edition.Product.Code.Text,
            Note = goods.Variant.Selling.AfterOrderNote,
            Leaves = leaves,
        };
    }

    /// <summary>The leaves with what was taken for each. What was made up ahead stands behind what is in it: it is taken from stock, and
    /// what is paid goes through its parts.</summary>
    private List<(OrderLeaf Leaf, AllocatedUnits Taken)> Leaves(PricedLine priced, int line, LineTaking taking)
    {
        var leaves = new List<(OrderLeaf, AllocatedUnits)>();
        foreach (var (leaf, tax) in priced.Leaves.Zip(priced.LeafTaxes))
        {
            var taken = taking.Of(leaf.Path, leaf.Goods) ?? AllocatedUnits.None;
            leaves.Add((Leaf(leaf, new LeafPlace(line, leaves.Count)) with { Tax = tax }, taken));
        }
        var nothing = Money.Zero(priced.Total.Currency);
        foreach (var (path, goods, units, taken) in taking.Rest)
        {
            var made = Leaf(new Leaf(path, goods, units, nothing, nothing), new LeafPlace(line, leaves.Count));
            leaves.Add((made with { MadeUp = true, Shipped = false, WeightGrams = null }, taken));
        }
        return leaves;
    }

    private OrderLeaf Leaf(Leaf leaf, LeafPlace place)
    {
        var isShipped = leaf.Goods.Variant.Selling.Shipped != false;
        return new OrderLeaf
        {
            Place = place,
            Path = leaf.Path,
            ProductId = leaf.Goods.Edition.ProductId,
            SkuId = skus[leaf.Goods.Variant.Sku],
            Sku = leaf.Goods.Variant.Sku.Text,
            Name = leaf.Goods.Figures.Name,
            Units = (int)leaf.Units,
            Allocated = leaf.Allocated,
            Tax = Money.Zero(leaf.Allocated.Currency),
            Cost = leaf.Cost,
            TaxClass = leaf.TaxClass,
            CustomsCode = leaf.Goods.CustomsCode,
            Origin = leaf.Goods.Origin,
            Shipped = isShipped,
            WeightGrams = isShipped ? leaf.Goods.WeightGrams : null,
        };
    }

    private static IEnumerable<OrderedAnswer> Answers(PricedLine priced)
    {
        var (edition, variant) = (priced.Line.Goods.Edition, priced.Line.Goods.Variant);
        return edition
            .Matrix.Options.Select(o => new OrderedAnswer(o.Label, o.Find(variant.Values[o.Key]!.Value)!.Label, false))
            .Concat(priced.Extras.Select(e => new OrderedAnswer(e.Label, e.Answer, true)));
    }
}
