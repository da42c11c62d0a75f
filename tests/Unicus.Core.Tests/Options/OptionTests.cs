using CsCheck;

namespace Unicus.CoreTests;

public class OptionTests
{
    [Theory]
    [InlineData("Deep frame", "deep-frame")]
    [InlineData("  64 cm ", "64-cm")]
    [InlineData("Größe", "grosse")]
    [InlineData("Bee's wax", "bees-wax")]
    [InlineData("蜂蜜", "value")]
    [InlineData("🐝", "value")]
    public void Keys_are_made_from_labels(string label, string key) => Assert.Equal(key, Key.From(label, new HashSet<Key>()).Text);

    /// <summary>Law: whatever the labels, keys made one after the other have the right shape and differ.</summary>
    [Fact]
    public void Made_keys_are_well_formed_and_differ() =>
        Gen.String[0, 30]
            .Array[1, 20]
            .Sample(labels =>
            {
                var taken = new HashSet<Key>();
                foreach (var label in labels)
                {
                    var key = Key.From(label, taken);
                    Assert.True(Key.TryParse(key.Text, out _));
                    Assert.True(taken.Add(key));
                }
            });

    [Theory]
    [InlineData("Deep")]
    [InlineData("deep--frame")]
    [InlineData("-deep")]
    [InlineData("")]
    [InlineData("deep\n")]
    public void Other_texts_are_no_keys(string text) => Assert.False(Key.TryParse(text, out _));

    [Fact]
    public void Values_typed_in_one_go_are_split_by_commas_and_line_breaks()
    {
        var (labels, problems) = TypedValues.Split("Shallow, Medium\nDeep,, deep ", []);
        Assert.Equal(["Shallow", "Medium", "Deep"], labels);
        Assert.Equal("“deep” is there already.", Assert.Single(problems));
    }

    [Fact]
    public void Ten_thousand_values_are_refused_with_the_limit()
    {
        var (labels, problems) = TypedValues.Split(string.Join(',', Enumerable.Range(0, 10_000)), []);
        Assert.Empty(labels);
        Assert.Contains("1,000", Assert.Single(problems));
    }

    [Fact]
    public void Short_codes_are_the_first_letters_and_numbers_as_they_are()
    {
        Assert.Equal(["S", "M", "D"], TypedValues.Make(["Shallow", "Medium", "Deep"], []).Select(v => v.SkuPiece));
        Assert.Equal(["XS", "S", "M", "XL"], TypedValues.Make(["XS", "S", "M", "XL"], []).Select(v => v.SkuPiece));
        Assert.Equal(["C", "CA", "64", "46"], TypedValues.Make(["Cedar", "Canvas", "64 cm", "46 cm"], []).Select(v => v.SkuPiece));
    }

    /// <summary>Law: short codes are unique within the option, and a SKU may hold them.</summary>
    [Fact]
    public void Short_codes_differ_and_fit_a_SKU() =>
        Gen.String[Gen.Char["abcdeäß 0123蜂"], 1, 6]
            .Array[1, 60]
            .Sample(labels =>
            {
                var values = TypedValues.Make(TypedValues.Split(string.Join(',', labels), []).Labels, []);
                Assert.Equal(values.Count, values.Select(v => v.SkuPiece).Distinct(StringComparer.OrdinalIgnoreCase).Count());
                Assert.All(values, v => Assert.True(Sku.Parse(v.SkuPiece).Ok));
            });

    [Fact]
    public void A_combination_is_the_same_in_whatever_order_its_options_stand()
    {
        var (depth, deep, timber, cedar) = (Key.Of("depth"), Key.Of("deep"), Key.Of("timber"), Key.Of("cedar"));
        var one = Combination.Of([(depth, deep), (timber, cedar)]);
        Assert.Equal(one, Combination.Of([(timber, cedar), (depth, deep)]));
        Assert.Equal(one, Combination.Parse(one.Text));
        Assert.Equal("depth=deep,timber=cedar", one.Text);
    }
}
