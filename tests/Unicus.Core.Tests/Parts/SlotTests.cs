using System.Collections.Immutable;
using CsCheck;

namespace Unicus.CoreTests;

/// <summary>Places that parts fill (domain.md, section 6).</summary>
public class SlotTests
{
    private static Slot Tools(params string[] codes) =>
        new(Key.Of("tools"), "Tools") { Of = [.. codes.Select(PartEntry (c) => new PartEntry.OfProduct(c))] };

    [Theory]
    [InlineData("GH1", "gh1")]
    [InlineData("BAR-4/12 Ø", "bar-4-12")]
    [InlineData("--X--", "x")]
    [InlineData("***", null)]
    public void The_key_of_a_candidate_comes_from_its_code(string code, string? key) => Assert.Equal(key, Slot.KeyOf(code)?.Text);

    /// <summary>Law: counted out over every set of picks, so many may be picked as the limits say, and the fewest is the smallest of
    /// them.</summary>
    [Fact]
    public void So_many_may_be_picked_as_the_limits_say() =>
        Gen.Select(Gen.Int[1, 5], Gen.Bool, Gen.Bool, Gen.Int[0, 5], Gen.Int[0, 5])
            .Sample(
                (all, isOptional, isSeveral, least, more) =>
                {
                    var slot = Tools() with
                    {
                        Optional = isOptional,
                        Picks = isSeveral ? new PickLimits(least, more == 0 ? null : least + more) : null,
                    };
                    var counts = PickCounts.Of(slot, all);
                    bool May(int picked) =>
                        picked == 0 ? isOptional
                        : !isSeveral ? picked == 1
                        : picked >= least && (more == 0 ? picked <= Math.Max(1, all) : picked <= least + more);
                    var allowed = Enumerable.Range(0, 12).Where(counts.Allows).ToList();
                    Assert.Equal(Enumerable.Range(0, 12).Where(May), allowed);
                    // Where more are needed than there are, nothing is allowed, and the least is more than there are.
                    Assert.Equal(allowed.Count > 0 ? allowed[0] : Math.Max(1, least), counts.Least);
                }
            );

    [Fact]
    public void Just_so_many_are_what_was_picked()
    {
        Assert.Equal([0], Enumerable.Range(0, 6).Where(PickCounts.Just(0).Allows));
        Assert.Equal([3], Enumerable.Range(0, 6).Where(PickCounts.Just(3).Allows));
        Assert.Equal((0, 3), (PickCounts.Just(0).Least, PickCounts.Just(3).Least));
    }

    [Theory]
    [InlineData(1, 1, null, 1)]
    [InlineData(2, 5, null, null)]
    [InlineData(2, 5, 3, 3)]
    [InlineData(4, 4, null, 4)]
    public void Units_are_decided_by_the_usual_number_or_where_there_is_one_only(int min, int max, int? usual, int? decided) =>
        Assert.Equal(decided, new SlotQuantity(min, max, usual).Decided);

    [Fact]
    public void A_slot_asks_only_where_there_is_something_to_choose()
    {
        Assert.Null(FilledSlot.Of(Tools()).Question);
        Assert.Null(FilledSlot.Of(Tools("HT1")).Question);
        Assert.Equal((Ask.One, false), Asked(Tools("HT1") with { Optional = true }));
        Assert.Equal((Ask.One, true), Asked(Tools("HT1", "BB1")));
        Assert.Equal((Ask.Several, true), Asked(Tools("HT1", "BB1") with { Picks = new PickLimits(1, 2) }));

        static (Ask, bool) Asked(Slot slot) => FilledSlot.Of(slot).Question is { IsSlot: true } q ? (q.Ask, q.Required) : default;
    }

    /// <summary>What is picked beforehand is left out where nothing fills the slot under that key any more.</summary>
    [Fact]
    public void Usual_picks_are_those_that_can_still_be_had()
    {
        var one = FilledSlot.Of(Tools("HT1", "BB1") with { Default = [Key.Of("bb1")] }).Question!;
        Assert.Equal("bb1", one.Default?.Text);
        Assert.Null(FilledSlot.Of(Tools("HT1", "BB1") with { Default = [Key.Of("sm1")] }).Question!.Default);
        var several = Tools("HT1", "BB1", "SM1") with
        {
            Picks = new PickLimits(1, 2),
            Default = [Key.Of("bb1"), Key.Of("gone"), Key.Of("sm1")],
        };
        Assert.Equal("bb1 sm1", string.Join(" ", FilledSlot.Of(several).Question!.Preset));
    }

    [Fact]
    public void The_same_part_named_twice_is_one_candidate() =>
        Assert.Equal(["ht1", "bb1"], FilledSlot.Of(Tools("HT1", "BB1", "ht1")).Candidates.Select(c => c.Key.Text));

    [Fact]
    public void A_counterpart_is_the_same_key_or_what_the_table_says()
    {
        var (small, s) = (Key.Of("small"), Key.Of("s"));
        Assert.Equal(small, new SlotPick.Follows(Key.Of("size"), null).Counterpart(small));
        var table = new SlotPick.Follows(Key.Of("size"), ImmutableSortedDictionary<Key, Key>.Empty.Add(small, s));
        Assert.Equal((s, (Key?)null), (table.Counterpart(small), table.Counterpart(Key.Of("large"))));
    }

    [Theory]
    [InlineData(10, null, 1000, 900)]
    [InlineData(null, 250, 1000, 750)]
    [InlineData(null, 1500, 1000, 0)]
    [InlineData(100, null, 1000, 0)]
    public void A_reduction_never_leaves_less_than_nothing(int? percent, int? cents, long amount, long left)
    {
        Money? off = cents is { } c ? MinorUnits.ToMoney(c, Currency.Euro) : null;
        Assert.Equal(left, new PartReduction(percent, off).Remains(amount));
    }

    [Fact]
    public void A_path_grows_from_the_inside_out()
    {
        Assert.Equal("kit/tools", LeafPath.Own.Under("tools").Under("kit").Text);
        Assert.True(LeafPath.Own.IsOwn);
        Assert.False(LeafPath.Own.Under("tools").IsOwn);
    }
}
