using System.Collections.Immutable;

namespace Unicus.CoreTests;

/// <summary>Random orders, over goods that lie at two places and some that are not counted, with the stock they take.</summary>
internal sealed class RandomOrders(Random random)
{
    private const int Skus = 5;

    /// <summary>Goods with this number are not counted.</summary>
    private const int NotCounted = 5;

    private static readonly DateTimeOffset Day = new(2027, 3, 1, 9, 0, 0, TimeSpan.Zero);

    /// <summary>The levels, by SKU and place.</summary>
    public Dictionary<(int Sku, int Location), StockLevel> Levels { get; } =
        (
            from sku in Enumerable.Range(0, Skus)
            from place in new[] { 7, 3 }
            select ((sku, place), new StockLevel(random.Next(0, 25), 0, 0, 0))
        ).ToDictionary(l => l.Item1, l => l.Item2);

    /// <summary>Stock as it is now, to be taken from.</summary>
    public LockedStock Stock() => new(Levels, [7, 3]);

    /// <summary>An order to which nothing has happened yet.</summary>
    public Order Order()
    {
        var isIncluded = random.Next(2) == 0;
        var lines = Enumerable.Range(0, random.Next(1, 4)).Select(Line).ToImmutableArray();
        var (subtotal, paid) = (lines.Select(l => l.Total).Sum(Currency.Euro), lines.Select(l => l.Paid).Sum(Currency.Euro));
        var (delivery, tax) = (Amount(900), lines.Select(l => l.Tax).Sum(Currency.Euro) + Amount(90));
        return new Order
        {
            Number = 1001,
            Token = "t",
            PlacedAt = Day,
            Buyer = new OrderBuyer("Orla", "", "", null),
            Subtotal = subtotal,
            Delivery = delivery,
            Tax = tax,
            Total = paid + delivery + (isIncluded ? Money.Zero(Currency.Euro) : tax),
            TaxIncluded = isIncluded,
            Lines = lines,
        };
    }

    /// <summary>What happens next to an order that was placed; null where what was drawn is refused.</summary>
    public OrderEvent? Next(Order order)
    {
        if (order.State == OrderState.Cancelled)
            return order.CanBeReinstated ? new OrderReinstated(Day, "Tester", Allocations(order, l => l.Released)) : null;
        if (order.State == OrderState.Dispatched)
            return null;
        if (random.Next(6) == 0 && order.Leaves.All(l => l.Sent == 0))
            return new UnitsDropped(Day, "Tester", PartsToEnd.All(order), "no", WithOrder: true);
        var leaf = order.Leaves.ElementAt(random.Next(order.Leaves.Count()));
        var part = new EndedPart(leaf.Place.Line, leaf.Path.Text, leaf.Sku, random.Next(0, leaf.Open + 2));
        var found = PartsToEnd.Find(order, random.Next(20) == 0 ? [] : [part]);
        if (!found.Ok)
            return null;
        return random.Next(2) == 0
            ? new UnitsSent(Day, "Tester", found.Value)
            : new UnitsDropped(Day, "Tester", found.Value, "no", WithOrder: false);
    }

    /// <summary>What is set aside for the leaves of an order, so many units for each.</summary>
    public ImmutableArray<LeafAllocation> Allocations(Order order, Func<OrderLeaf, int> units)
    {
        var stock = Stock();
        return
        [
            .. from leaf in order.Leaves
            where leaf.SkuId != NotCounted && units(leaf) > 0
            select new LeafAllocation(leaf.Place, stock.Take(leaf.SkuId, units(leaf)).Value!),
        ];
    }

    private OrderLine Line(int position)
    {
        var shapes = random.Next(3) switch
        {
            0 => [("", false)],
            1 => [("a", false), ("b", false), ("b/c", false)],
            _ => new[] { ("a", false), ("kit/a", false), ("kit/b", false), ("kit", true) },
        };
        var leaves = shapes.Select((s, i) => Leaf(new LeafPlace(position, i), s.Item1, s.Item2)).ToImmutableArray();
        var paid = leaves.Select(l => l.Allocated).Sum(Currency.Euro);
        var reduction = Amount((int)(paid.Amount * 100) / 4);
        return new OrderLine
        {
            Position = position,
            ProductId = 1,
            ProductCode = "P",
            Edition = 1,
            SkuId = 0,
            Sku = "P",
            Title = "Goods",
            Answers = [],
            Working = new PriceWorking([], 1, Currency.Euro),
            Quantity = 1,
            Unit = paid + reduction,
            Total = paid + reduction,
            Reduction = -reduction,
            Tax = leaves.Select(l => l.Tax).Sum(Currency.Euro),
            Through = "P",
            Leaves = leaves,
        };
    }

    private OrderLeaf Leaf(LeafPlace place, string path, bool isMadeUp)
    {
        var sku = random.Next(Skus + 1);
        return new OrderLeaf
        {
            Place = place,
            Path = new LeafPath(path),
            ProductId = 1,
            SkuId = sku,
            Sku = $"S{sku}",
            Name = $"Goods {sku}",
            Units = random.Next(1, 9),
            Allocated = isMadeUp ? Sample.Eur(0) : Amount(5000),
            Tax = isMadeUp ? Sample.Eur(0) : Amount(900),
            MadeUp = isMadeUp,
        };
    }

    private Money Amount(int mostCents) => Sample.Eur(random.Next(mostCents + 1) / 100m);
}
