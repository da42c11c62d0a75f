using System.Collections.Immutable;

namespace Unicus.CoreTests;

public class OptionStockPlanTests
{
    private static readonly Option Size = Sample.Option("size", "s", "m");
    private static readonly Option Colour = Sample.Option("colour", "red", "blue");

    private static List<VariantStake> Stakes(Option[] options, params int[] onHand) =>
        [.. Sample.All(options).Select((c, i) => new VariantStake(new Variant(c), onHand[i], onHand[i] > 0))];

    private static List<StockStep> Plan(Option[] before, Option[] after, List<VariantStake> stakes, OptionDecisions decisions)
    {
        var difference = OptionChange.Work(before, after, [], stakes, decisions);
        return [.. OptionStockPlan.Of(before, difference, decisions)];
    }

    [Fact]
    public void Units_of_a_value_that_goes_are_written_off_or_moved_and_must_be_free()
    {
        Option[] after = [Size with { Values = [Size.Values[0]] }];
        var gone = Assert.Single(Plan([Size], after, Stakes([Size], 3, 4), new()));
        Assert.Equal((StockFate.WriteOff, "size=m", true), (gone.Fate, gone.From.Variant.Values.Text, gone.MustBeFree));

        var moves = new OptionDecisions
        {
            MoveTo = new Dictionary<string, Combination> { ["size=m"] = Sample.Of("size=s") }.ToImmutableDictionary(),
        };
        var moved = Assert.Single(Plan([Size], after, Stakes([Size], 3, 4), moves));
        Assert.Equal((StockFate.Move, "size=s"), (moved.Fate, Assert.Single(moved.To).Text));
    }

    [Fact]
    public void What_merges_goes_to_the_survivor()
    {
        var step = Assert.Single(Plan([Size, Colour], [Size], Stakes([Size, Colour], 1, 2, 0, 0), new()), s => s.From.OnHand > 0);
        Assert.Equal(
            (StockFate.Move, "colour=blue,size=s", "size=s"),
            (step.Fate, step.From.Variant.Values.Text, Assert.Single(step.To).Text)
        );
        Assert.False(step.MustBeFree);
    }

    [Theory]
    [InlineData(StockBeforeOptions.OneValue, null, 0)]
    [InlineData(StockBeforeOptions.CountLater, StockFate.CountLater, 0)]
    [InlineData(StockBeforeOptions.SplitEvenly, StockFate.SplitEvenly, 2)]
    public void Stock_before_the_first_option_goes_as_decided(StockBeforeOptions decision, StockFate? fate, int over)
    {
        var decisions = new OptionDecisions { Stock = decision };
        var stakes = new List<VariantStake> { new(new Variant(Combination.Empty), 9, true) };
        var step = Plan([], [Size], stakes, decisions).SingleOrDefault();
        Assert.Equal((fate, over), (step?.Fate, step?.To.Length ?? 0));
        Assert.False(step?.MustBeFree ?? false);
        var difference = OptionChange.Work([], [Size], [], stakes, decisions);
        Assert.Equal(fate is not null, OptionStockPlan.MovesUnits([], difference, decisions, 9));
        Assert.False(OptionStockPlan.MovesUnits([], difference, decisions, 0));
    }

    /// <summary>Units move where a value goes, where variants merge and where they come to share a SKU; elsewhere none do.</summary>
    [Fact]
    public void Units_move_where_variants_go_merge_or_share_a_SKU()
    {
        bool Moves(Option[] before, Option[] after, params int[] onHand)
        {
            var difference = OptionChange.Work(before, after, [], Stakes(before, onHand), new());
            return OptionStockPlan.MovesUnits(before, difference, new(), onHand.Sum());
        }
        Option[] less = [Size with { Values = [Size.Values[0]] }];
        Option[] shared = [Size, Colour with { SharesSku = true }];
        Assert.True(Moves([Size], less, 3, 4));
        Assert.False(Moves([Size], less, 3, 0));
        Assert.True(Moves([Size, Colour], [Size], 0, 1, 0, 0));
        Assert.False(Moves([Size, Colour], [Size], 0, 0, 0, 0));
        Assert.True(Moves([Size, Colour], shared, 1, 1, 0, 0));
        // The one that has units keeps the SKU.
        Assert.False(Moves([Size, Colour], shared, 0, 1, 0, 0));
        Assert.False(Moves([Size], [Size with { Label = "How large" }], 3, 4));
    }
}
