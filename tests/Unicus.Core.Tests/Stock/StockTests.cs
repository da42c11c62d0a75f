using CsCheck;

namespace Unicus.CoreTests;

public class StockTests
{
    private static readonly DateOnly Today = new(2027, 3, 1);

    /// <summary>Law: whatever movements are asked for, in whatever order, on hand, allocated and on hold never fall below 0, and the level
    /// is the sum of what was let through.</summary>
    [Fact]
    public void Levels_are_the_sum_of_their_movements_and_never_negative() =>
        Gen.Select(Gen.Enum<MovementKind>(), Gen.Int[0, 20])
            .Array[0, 60]
            .Sample(asked =>
            {
                var level = new StockLevel();
                var sum = new StockDelta();
                foreach (var (kind, quantity) in asked)
                {
                    var effect = Movements.Effect(kind, quantity, level);
                    if (!effect.Ok)
                        continue;
                    level = level.After(effect.Value);
                    sum = new StockDelta(
                        sum.OnHand + effect.Value.OnHand,
                        sum.Allocated + effect.Value.Allocated,
                        sum.OnHold + effect.Value.OnHold,
                        sum.OnOrder + effect.Value.OnOrder
                    );
                }
                Assert.True(level is { OnHand: >= 0, Allocated: >= 0, OnHold: >= 0 });
                Assert.Equal(new StockLevel(sum.OnHand, sum.Allocated, sum.OnHold, sum.OnOrder), level);
            });

    [Fact]
    public void A_count_writes_the_difference() =>
        Assert.Equal(new StockDelta(OnHand: -3), Movements.Effect(MovementKind.Count, 7, new StockLevel(10, 0, 0, 0)).Value);

    [Fact]
    public void A_dispatch_takes_what_was_allocated() =>
        Assert.Equal(
            new StockLevel(8, 0, 0, 0),
            new StockLevel(10, 2, 0, 0).After(Movements.Effect(MovementKind.Sale, 2, new StockLevel(10, 2, 0, 0)).Value)
        );

    [Fact]
    public void What_is_allocated_or_on_hold_cannot_be_sold() =>
        Assert.Equal(5, Availability.Of(Selling.Inherited, new StockLevel(10, 3, 2, 0), Today).Units);

    [Fact]
    public void Selling_beyond_stock_adds_what_it_says()
    {
        var level = new StockLevel(1, 3, 0, 10);
        Assert.Equal(0, Availability.Of(Selling.Inherited, level, Today).Units);
        Assert.Equal(3, Availability.Of(new Selling { Beyond = new SellBeyond.Units(5) }, level, Today).Units);
        Assert.Equal(8, Availability.Of(new Selling { Beyond = new SellBeyond.OnOrder() }, level, Today).Units);
        Assert.Null(Availability.Of(new Selling { Beyond = new SellBeyond.Unlimited() }, level, Today).Units);
        Assert.Null(Availability.Of(new Selling { Counted = false }, level, Today).Units);
    }

    [Theory]
    [InlineData(2, 0, "")]
    [InlineData(3, 1, "2 in stock, 1 follows when it comes in.")]
    [InlineData(6, 4, "2 in stock, 4 follow when they come in.")]
    [InlineData(8, 6, "")]
    public void What_is_beyond_stock_is_said_as_long_as_it_can_be_sold(int wanted, int beyond, string words)
    {
        var five = Availability.Of(new Selling { Beyond = new SellBeyond.Units(5) }, new StockLevel(4, 2, 0, 0), Today);
        Assert.Equal((7, 2, beyond, words), (five.Units, five.InStock, five.Beyond(wanted), five.BeyondWords(wanted)));
    }

    [Fact]
    public void All_of_it_may_be_beyond_stock_and_what_is_not_counted_never_is()
    {
        var none = Availability.Of(new Selling { Beyond = new SellBeyond.Unlimited() }, new StockLevel(1, 3, 0, 0), Today);
        Assert.Equal(
            ("Not in stock: it follows when it comes in.", "None in stock: all 3 follow when they come in."),
            (none.BeyondWords(1), none.BeyondWords(3))
        );
        Assert.Equal(0, Availability.Of(new Selling { Counted = false }, default, Today).Beyond(9));
    }

    [Fact]
    public void Off_for_now_wins_until_its_day_has_come()
    {
        var off = new Selling { Counted = false, OffForNow = new OffForNow(new DateOnly(2027, 5, 3)) };
        Assert.Equal(
            (0, "Not on sale just now; back about 3 May"),
            (Availability.Of(off, default, Today).Units, Availability.Of(off, default, Today).Words)
        );
        Assert.Equal(0, Availability.Of(off, new StockLevel(5, 0, 0, 0), Today).InStock);
        Assert.Null(Availability.Of(off, default, new DateOnly(2027, 5, 3)).Units);
    }

    /// <summary>Above the shop's mark a shopper hears no number; none left is said in any case.</summary>
    [Theory]
    [InlineData(9, null, "9 left")]
    [InlineData(9, 10, "9 left")]
    [InlineData(10, 10, "In stock")]
    [InlineData(7_944, 10, "In stock")]
    [InlineData(0, 10, "None left")]
    public void A_number_is_told_only_where_few_are_left(int onHand, int? below, string words) =>
        Assert.Equal(words, Availability.Of(Selling.Inherited, new StockLevel(onHand, 0, 0, 0), default).ShownBelow(below));

    /// <summary>Sold beyond stock without limit, nothing is said while units are there.</summary>
    [Theory]
    [InlineData(2, "")]
    [InlineData(1, "")]
    [InlineData(0, "None in stock; can be ordered")]
    public void What_has_no_limit_says_only_that_none_is_in_stock(int onHand, string words)
    {
        var there = Availability.Of(new Selling { Beyond = new SellBeyond.Unlimited() }, new StockLevel(onHand, 0, 0, 0), Today);
        Assert.Equal((null, onHand, words), (there.Units, there.InStock, there.Words));
    }

    /// <summary>What two units do to 10 on hand, 4 allocated, 3 on hold and 2 on order (domain.md, stock).</summary>
    [Theory]
    [InlineData(MovementKind.Receipt, 12, 4, 3)]
    [InlineData(MovementKind.Return, 12, 4, 3)]
    [InlineData(MovementKind.MakeUp, 12, 4, 3)]
    [InlineData(MovementKind.Count, 2, 4, 3)]
    [InlineData(MovementKind.WriteOff, 8, 4, 3)]
    [InlineData(MovementKind.Transfer, 8, 4, 3)]
    [InlineData(MovementKind.TakeApart, 8, 4, 3)]
    [InlineData(MovementKind.Hold, 10, 4, 5)]
    [InlineData(MovementKind.Release, 10, 4, 1)]
    [InlineData(MovementKind.Allocation, 10, 6, 3)]
    [InlineData(MovementKind.Deallocation, 10, 2, 3)]
    [InlineData(MovementKind.Sale, 8, 2, 3)]
    public void Each_kind_moves_what_it_says(MovementKind kind, int onHand, int allocated, int onHold)
    {
        var level = new StockLevel(10, 4, 3, 2);
        var after = level.After(Movements.Effect(kind, 2, level).Value);
        Assert.Equal(new StockLevel(onHand, allocated, onHold, 2), after);
        Assert.Equal(onHand - allocated - onHold, after.Available);
    }

    [Fact]
    public void Levels_add_up_in_every_state()
    {
        Assert.Equal(new StockLevel(11, 22, 33, 44), new StockLevel(1, 2, 3, 4) + new StockLevel(10, 20, 30, 40));
        Assert.Equal(new StockLevel(11, 22, 33, 44), new StockLevel(1, 2, 3, 4).After(new StockDelta(10, 20, 30, 40)));
    }

    [Fact]
    public void Too_few_units_and_too_many_are_refused_in_words()
    {
        static string? Refused(MovementKind kind, int quantity, int onHand = 0) =>
            Movements.Effect(kind, quantity, new StockLevel(onHand, 0, 0, 0)).Problem;
        Assert.Equal("A count is not negative.", Refused(MovementKind.Count, -1));
        Assert.Null(Refused(MovementKind.Count, 0));
        Assert.Equal("At least 1 unit moves.", Refused(MovementKind.Receipt, 0));
        Assert.Null(Refused(MovementKind.Receipt, 1));
        Assert.Null(Refused(MovementKind.Receipt, 10_000_000, 90_000_000));
        Assert.Equal("A level holds at most 100,000,000 units.", Refused(MovementKind.Receipt, 10_000_000, 90_000_001));
        Assert.Equal("At most 10,000,000 units move at once.", Refused(MovementKind.Receipt, 10_000_001));
        Assert.Equal("Only 3 on hand.", Refused(MovementKind.WriteOff, 4, 3));
        Assert.Equal("Only 0 on hold.", Refused(MovementKind.Release, 1, 3));
        Assert.Equal("Only 0 allocated.", Refused(MovementKind.Deallocation, 1, 3));
    }

    [Fact]
    public void Kinds_are_called_the_same_everywhere()
    {
        Assert.All(Movements.ByHand.Concat(Movements.OfSets), k => Assert.Equal(Movements.Name(k.Kind), k.Name));
        Assert.Equal(9, Movements.ByHand.Concat(Movements.OfSets).Select(k => k.Name).Distinct().Count());
    }
}
