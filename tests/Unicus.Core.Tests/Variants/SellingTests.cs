namespace Unicus.CoreTests;

/// <summary>How a variant sells: its own words, then its product's, then the shop's.</summary>
public class SellingTests
{
    private static readonly Selling Own = new()
    {
        Counted = true,
        Beyond = new SellBeyond.OnOrder(),
        OffForNow = new OffForNow(null),
        Shipped = true,
        MinimumQuantity = 2,
        MaximumPerOrder = 4,
        AfterOrderNote = "own",
    };

    private static readonly Selling Other = new()
    {
        Counted = false,
        Beyond = new SellBeyond.Unlimited(),
        OffForNow = new OffForNow(new DateOnly(2027, 5, 3)),
        Shipped = false,
        MinimumQuantity = 3,
        MaximumPerOrder = 5,
        AfterOrderNote = "other",
    };

    [Fact]
    public void What_is_said_of_the_thing_itself_goes_before_what_is_said_of_all()
    {
        Assert.Equal(Own, Own.Over(Other));
        Assert.Equal(Other, Selling.Inherited.Over(Other));
        Assert.Equal(Own, Own.Over(Selling.Inherited));
    }

    /// <summary>Each by itself is taken over, and leaves the others where they are.</summary>
    [Fact]
    public void Each_word_is_taken_over_by_itself()
    {
        Func<Selling, Selling, Selling>[] each =
        [
            (to, from) => to with { Counted = from.Counted },
            (to, from) => to with { Beyond = from.Beyond },
            (to, from) => to with { OffForNow = from.OffForNow },
            (to, from) => to with { Shipped = from.Shipped },
            (to, from) => to with { MinimumQuantity = from.MinimumQuantity },
            (to, from) => to with { MaximumPerOrder = from.MaximumPerOrder },
            (to, from) => to with { AfterOrderNote = from.AfterOrderNote },
        ];
        Assert.All(each, put => Assert.Equal(put(Other, Own), put(Selling.Inherited, Own).Over(Other)));
    }
}
