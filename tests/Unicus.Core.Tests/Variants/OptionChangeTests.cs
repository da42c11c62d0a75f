using System.Collections.Immutable;
using CsCheck;

namespace Unicus.CoreTests;

public class OptionChangeTests
{
    private static readonly Option Depth = Sample.Option("depth", "shallow", "deep");
    private static readonly Option Timber = Sample.Option("timber", "cedar", "pine");

    private static VariantStake Stake(int onHand, params string[] pairs) => new(new Variant(Sample.Of(pairs)), onHand, onHand > 0);

    private static List<VariantStake> Four(params int[] onHand) =>
        [
            .. Sample
                .All([Depth, Timber])
                .Select((c, i) => new VariantStake(new Variant(c), onHand.ElementAtOrDefault(i), onHand.ElementAtOrDefault(i) > 0)),
        ];

    private static MatrixDifference Work(
        Option[] before,
        Option[] after,
        IEnumerable<VariantStake> stakes,
        OptionDecisions? decisions = null
    ) => OptionChange.Work(before, after, [], stakes, decisions ?? new());

    [Fact]
    public void Adding_a_value_makes_the_new_combinations_only()
    {
        var larch = Timber with { Values = Timber.Values.Add(new OptionValue(Key.Of("larch"), "Larch")) };
        var d = Work([Depth, Timber], [Depth, larch], Four(1, 2, 3, 4));
        Assert.Equal(["depth=shallow,timber=larch", "depth=deep,timber=larch"], d.New.Select(n => n.Text));
        Assert.Equal(4, d.Kept.Length);
        Assert.Equal("+2 new, 0 lost", d.InWords());
        Assert.True(d.IsHarmless);
    }

    [Fact]
    public void Renaming_and_reordering_change_nothing_else()
    {
        var turned = Timber with { Label = "Wood", Values = [Timber.Values[1] with { Label = "Scots pine" }, Timber.Values[0]] };
        var d = Work([Depth, Timber], [turned, Depth], Four(1, 2, 3, 4));
        Assert.All(d.Kept, k => Assert.Equal(k.Stake.Variant.Values, k.Values));
        Assert.Equal("+0 new, 0 lost", d.InWords());
    }

    [Fact]
    public void Removing_a_value_retires_variants_that_have_stock_and_deletes_the_rest()
    {
        var d = Work([Depth, Timber], [Depth, Timber with { Values = [Timber.Values[0]] }], Four(0, 41, 0, 0));
        Assert.Equal("depth=shallow,timber=pine", Assert.Single(d.Retired).Variant.Values.Text);
        Assert.Equal("depth=deep,timber=pine", Assert.Single(d.Deleted).Variant.Values.Text);
        Assert.Equal("+0 new, 1 lost, 1 to retire: 41 units on hand", d.InWords());
        Assert.False(d.IsHarmless);
    }

    [Fact]
    public void Adding_the_first_option_keeps_the_one_variant_at_the_value_taken()
    {
        var d = Work(
            [],
            [Depth],
            [Stake(7)],
            new OptionDecisions { Takes = ImmutableDictionary<Key, Key>.Empty.Add(Key.Of("depth"), Key.Of("deep")) }
        );
        Assert.Equal("depth=deep", Assert.Single(d.Kept).Values.Text);
        Assert.Equal("depth=shallow", Assert.Single(d.New).Text);
    }

    [Fact]
    public void Removing_an_option_merges_what_coincides_and_the_merchant_picks_who_stays()
    {
        var d = Work([Depth, Timber], [Depth], Four(1, 2, 3, 4), new OptionDecisions { Survivors = ["depth=deep,timber=pine"] });
        Assert.Equal(2, d.Merged.Length);
        Assert.Equal(["depth=shallow,timber=cedar", "depth=deep,timber=pine"], d.Merged.Select(m => m.Survivor.Variant.Values.Text));
        Assert.Equal(10, d.Merged.Sum(m => m.Survivor.OnHand + m.Absorbed.Sum(a => a.OnHand)));
    }

    private static readonly Option Shared = Timber with { SharesSku = true };

    [Fact]
    public void What_shared_a_SKU_before_joins_as_one()
    {
        var d = Work([Depth, Shared], [Depth with { SharesSku = true }, Shared], Four(5, 5, 0, 0));
        var joined = Assert.Single(d.Joined);
        Assert.Equal("depth=shallow,timber=cedar", joined.Holder.Values.Text);
        Assert.Equal("depth=deep,timber=cedar", Assert.Single(joined.Joining).Values.Text);
    }

    [Fact]
    public void Coming_to_share_a_SKU_joins_what_differs_in_nothing_else_and_the_one_with_stock_holds()
    {
        var d = Work([Depth, Timber], [Depth, Shared], Four(0, 3, 0, 0));
        Assert.Equal(
            ["depth=shallow,timber=pine < depth=shallow,timber=cedar", "depth=deep,timber=cedar < depth=deep,timber=pine"],
            d.Joined.Select(j => $"{j.Holder.Values} < {Assert.Single(j.Joining).Values}")
        );
        Assert.Equal("depth=shallow,timber=pine", Work([Depth, Timber], [Depth, Shared], Four(0, 1, 0, 0)).Joined[0].Holder.Values.Text);
        Assert.Equal("+0 new, 0 lost, 4 SKUs become 2", d.InWords());
        Assert.True(d.IsHarmless);
        Assert.False(Work([Depth, Timber], [Depth, Shared], Four(1, 3, 0, 0)).IsHarmless);
        Assert.Equal(
            "depth=shallow,timber=cedar",
            Work([Depth, Timber], [Depth, Shared], Four(0, 3, 0, 0), new OptionDecisions { Survivors = ["depth=shallow,timber=cedar"] })
                .Joined[0]
                .Holder.Values.Text
        );
    }

    [Fact]
    public void No_longer_sharing_parts_all_but_the_first()
    {
        var d = Work([Depth, Shared], [Depth, Timber], Four(2, 2, 0, 0));
        Assert.Equal(["depth=shallow,timber=pine", "depth=deep,timber=pine"], d.Parted.Select(k => k.Values.Text));
        Assert.False(d.IsHarmless);
        Assert.Empty(Work([Depth, Shared], [Depth, Shared], Four(2, 2, 0, 0)).Parted);
    }

    [Fact]
    public void A_retired_variant_that_still_names_an_option_keeps_its_value_when_the_option_returns()
    {
        var retired = new VariantStake(new Variant(Sample.Of("depth=deep", "timber=pine")) { Retired = true }, 0, true);
        var d = Work([Depth], [Depth, Timber], [Stake(1, "depth=shallow"), Stake(0, "depth=deep"), retired]);
        Assert.Contains(d.Kept, k => k.Values == Sample.Of("depth=deep", "timber=pine"));
        Assert.Equal(["depth=shallow,timber=pine"], d.New.Select(n => n.Text));
    }

    /// <summary>
    /// Laws, over random changes from one set of options to another: every variant is afterwards exactly one of kept, merged, deleted,
    /// retired; none with stock is deleted; kept, merged and new together are exactly the new matrix, each combination once.
    /// </summary>
    [Fact]
    public void Every_variant_is_accounted_for_and_the_new_matrix_is_whole() =>
        Gen.Select(Sample.Matrices, Sample.Matrices, Gen.Int[0, 3].Array[256])
            .Sample(
                (before, after, units) =>
                {
                    var made = new MadeSet(before.Options, before.NotMade);
                    var stakes = made.Made()
                        .Select(made.At)
                        .Select((c, i) => new VariantStake(new Variant(c), units[i], units[i] > 0))
                        .ToList();
                    var d = OptionChange.Work(before.Options, after.Options, before.NotMade, stakes, new OptionDecisions());
                    var accounted = d
                        .Kept.Select(k => k.Stake)
                        .Concat(d.Deleted)
                        .Concat(d.Retired)
                        .Concat(d.Merged.SelectMany(m => m.Absorbed.Append(m.Survivor)))
                        .ToList();
                    Assert.Equal(stakes.Select(s => s.Variant.Values.Text).Order(), accounted.Select(s => s.Variant.Values.Text).Order());
                    Assert.Equal(stakes.Sum(s => s.OnHand), accounted.Sum(s => s.OnHand));
                    Assert.All(d.Deleted, s => Assert.Equal(0, s.OnHand));
                    var whole = new MadeSet(after.Options, d.NotMade);
                    Assert.Equal(
                        whole.Made().Select(n => whole.At(n).Text).Order(),
                        d.Kept.Select(k => k.Values.Text)
                            .Concat(d.Merged.Select(m => m.Values.Text))
                            .Concat(d.New.Select(n => n.Text))
                            .Order()
                    );
                }
            );
}
