namespace Unicus.CoreTests;

/// <summary>Which units of an order one press ends.</summary>
public class PartsToEndTests
{
    private static readonly Order Order = new RandomOrders(new Random(3)).Order();

    [Theory]
    [InlineData(-1, "", 1, "The order has no line -1.")]
    [InlineData(9, "", 1, "The order has no line 9.")]
    [InlineData(0, "nowhere", 1, "has not one part “nowhere”")]
    public void What_is_not_there_is_said(int line, string slot, int units, string said) =>
        Assert.Contains(said, PartsToEnd.Find(Order, [new EndedPart(line, slot, null, units)]).Problem, StringComparison.Ordinal);

    /// <summary>Law: everything that is left is the same as each leaf that goes by itself asked for in full; what a set made up ahead
    /// holds goes with it.</summary>
    [Fact]
    public void All_of_it_is_each_of_what_goes_by_itself()
    {
        for (var seed = 0; seed < 300; seed++)
        {
            var order = new RandomOrders(new Random(seed)).Order();
            var parts = PartsToEnd.Alone(order).Select(l => new EndedPart(l.Place.Line, l.Path.Text, l.Sku, l.Open)).ToList();
            var found = PartsToEnd.Find(order, parts).Value;
            Assert.Equal(PartsToEnd.All(order).OrderBy(u => (u.Of.Line, u.Of.Leaf)), found.OrderBy(u => (u.Of.Line, u.Of.Leaf)));
            Assert.Equal(found.Length, found.DistinctBy(u => u.Of).Count());
        }
    }

    [Fact]
    public void Units_that_were_ended_meanwhile_are_said()
    {
        var leaf = PartsToEnd.Alone(Order).First(l => !l.MadeUp);
        var asked = new EndedPart(leaf.Place.Line, leaf.Path.Text, leaf.Sku, 1);
        Assert.Contains("Look again", PartsToEnd.Find(Order, [asked with { Seen = leaf.Open + 1 }]).Problem, StringComparison.Ordinal);
        Assert.True(PartsToEnd.Find(Order, [asked with { Seen = leaf.Open }]).Ok);
        Assert.Contains(
            $"{leaf.Open} are still to be sent",
            PartsToEnd.Find(Order, [asked, asked with { Units = leaf.Open }]).Problem,
            StringComparison.Ordinal
        );
    }
}
