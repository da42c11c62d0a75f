using System.Text.Json;
using CsCheck;

namespace Unicus.CoreTests;

public class MoneyTests
{
    private static readonly Currency Euro = Currency.Euro;
    private static readonly Currency Yen = Currency.Of("JPY");
    private static readonly Currency Dinar = Currency.Of("BHD");

    private static Money Eur(decimal amount) => new(amount, Euro);

    /// <summary>ISO 4217, as published in the data of the npm package currency-codes.</summary>
    [Fact]
    public void Every_currency_has_the_decimals_of_ISO_4217()
    {
        using var json = JsonDocument.Parse(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "currencies.json")));
        var published = json
            .RootElement.EnumerateArray()
            .ToDictionary(c => c.GetProperty("code").GetString()!, c => c.GetProperty("digits").GetInt32());
        Assert.Equal(published.Keys.Order(StringComparer.Ordinal), Currency.Every.Select(c => c.Code));
        Assert.All(Currency.Every, c => Assert.Equal(published[c.Code], c.MinorUnits));
    }

    /// <summary>Regulation (EC) No 1103/97, Article 5: a result exactly half way is rounded up.</summary>
    [Theory]
    [InlineData("EUR", 0.005, "0.01")]
    [InlineData("EUR", 1.115, "1.12")]
    [InlineData("EUR", -1.115, "-1.12")]
    [InlineData("JPY", 12.5, "13")]
    [InlineData("BHD", 1.0005, "1.001")]
    public void Half_a_smallest_unit_is_rounded_away_from_zero(string currency, decimal amount, string rounded) =>
        Assert.Equal(rounded, new Money(amount, Currency.Of(currency)).ToString());

    [Fact]
    public void Amounts_of_two_currencies_are_never_added() => Assert.Throws<InvalidOperationException>(() => Eur(1) + new Money(1, Yen));

    [Theory]
    [InlineData("86", "86.00")]
    [InlineData("86.5", "86.50")]
    [InlineData("86,50", "86.50")]
    [InlineData("1,340.50", "1340.50")]
    [InlineData("1.340,50", "1340.50")]
    [InlineData("1 340", "1340.00")]
    [InlineData("1,340", "1340.00")]
    [InlineData("1'340", "1340.00")]
    [InlineData(" €86 ", "86.00")]
    [InlineData("86 EUR", "86.00")]
    [InlineData("0", "0.00")]
    [InlineData("0.00", "0.00")]
    [InlineData(".50", "0.50")]
    [InlineData("1,234,567.8", "1234567.80")]
    public void Amounts_are_understood_as_people_type_them(string typed, string meant) =>
        Assert.Equal(meant, TypedNumbers.Amount(typed, Euro).Value?.ToString());

    [Theory]
    [InlineData("abc")]
    [InlineData("-5")]
    [InlineData("1.2.3,4,5")]
    [InlineData("12,34,56")]
    [InlineData("1,234,56")]
    [InlineData("1,23,456")]
    [InlineData("1.345")]
    [InlineData("86.505")]
    [InlineData("9999999999999999999999")]
    [InlineData("4 + 4")]
    [InlineData(",")]
    [InlineData("1e5")]
    public void What_is_no_amount_is_refused_with_a_reason(string typed)
    {
        var read = TypedNumbers.Amount(typed, Euro);
        Assert.False(read.Ok);
        Assert.NotEmpty(read.Problem!);
    }

    /// <summary>A currency of three decimals (ISO 4217) has no second way to read three digits behind a point.</summary>
    [Fact]
    public void Three_digits_behind_a_point_are_plain_where_there_are_three_decimals()
    {
        Assert.Equal("1.345", TypedNumbers.Amount("1.345", Currency.Find("KWD")!).Value?.ToString());
        Assert.Contains("two ways", TypedNumbers.Amount("1.345", Euro).Problem, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(1, 2)]
    [InlineData(2, 2)]
    [InlineData(3, 2)]
    public void Amounts_compare_as_their_numbers_do(int one, int other)
    {
        var (a, b) = (Eur(one), Eur(other));
        bool[] expected = [(one < other), (one > other), (one <= other), (one >= other)];
        Assert.Equal<bool[]>(expected, [(a < b), (a > b), (a <= b), (a >= b)]);
        var (first, second) = (Key.Of($"k{one}"), Key.Of($"k{other}"));
        Assert.Equal<bool[]>(expected, [(first < second), (first > second), (first <= second), (first >= second)]);
    }

    [Theory]
    [InlineData("64 × 40 × 3 cm", 640, 400, 30)]
    [InlineData("64x40x3", 640, 400, 30)]
    [InlineData("1 m * 40 cm * 3 mm", 1000, 400, 3)]
    public void Sizes_have_three_sides(string typed, int length, int width, int height)
    {
        var size = Measures.Size(typed).Value!;
        Assert.Equal((length, width, height), (size.Length, size.Width, size.Height));
    }

    [Theory]
    [InlineData("64 × 40")]
    [InlineData("64 × 40 × 3 × 2")]
    [InlineData("64 ×  × 3")]
    public void Other_sizes_are_refused(string typed) => Assert.False(Measures.Size(typed).Ok);

    [Fact]
    public void Nothing_typed_is_no_price_but_zero_is_one()
    {
        Assert.Null(TypedNumbers.Amount("  ", Euro).Value);
        Assert.Equal(Money.Zero(Euro), TypedNumbers.Amount("0", Euro).Value);
    }

    /// <summary>Law: what is shown to people is read back as the same amount, in every currency.</summary>
    [Fact]
    public void Shown_amounts_are_read_back_the_same() =>
        Gen.Select(Gen.Long[0, 99_999_999_999], Gen.OneOfConst(Euro, Yen, Dinar))
            .Sample(
                (units, currency) =>
                {
                    var money = new Money(units * currency.SmallestUnit, currency);
                    return TypedNumbers.Amount(money.ForPeople(), currency).Value == money;
                }
            );

    /// <summary>IFRS 15, Illustrative Example 33, from memory: stand-alone 50, 25, 75 sold for 100 (the standard shows 33, 17,
    /// 50).</summary>
    [Fact]
    public void A_bundle_price_is_allocated_by_stand_alone_prices() =>
        Assert.Equal(["33.33", "16.67", "50.00"], Allocation.Share(Eur(100), [50, 25, 75]).Select(m => m.ToString()));

    [Fact]
    public void All_weights_of_zero_count_as_one() =>
        Assert.Equal(["0.34", "0.33", "0.33"], Allocation.Share(Eur(1), [0, 0, 0]).Select(m => m.ToString()));

    /// <summary>Laws: shares add up to the total exactly, each is within a smallest unit of its exact share, none has the wrong
    /// sign.</summary>
    [Fact]
    public void Shares_add_up_and_stay_next_to_their_exact_share() =>
        Gen.Select(Gen.Int[-1_000_000, 1_000_000], Gen.Int[0, 5000].Array[1, 12], Gen.OneOfConst(Euro, Yen, Dinar))
            .Sample(
                (units, weights, currency) =>
                {
                    var total = new Money(units * currency.SmallestUnit, currency);
                    var shares = Allocation.Share(total, [.. weights.Select(w => (decimal)w)]);
                    Assert.Equal(total, shares.Sum(currency));
                    var sum = weights.Sum(w => (decimal)w);
                    for (var i = 0; i < weights.Length; i++)
                    {
                        var exact = sum == 0 ? total.Amount / weights.Length : total.Amount * weights[i] / sum;
                        Assert.True(Math.Abs(shares[i].Amount - exact) < currency.SmallestUnit);
                        Assert.True(shares[i].Amount * total.Amount >= 0);
                    }
                }
            );

    /// <summary>Common practice, no source: a total split evenly leaves its remainder with the first.</summary>
    [Fact]
    public void A_remainder_stays_with_the_first()
    {
        Assert.Equal([4, 3, 3], Allocation.SplitEvenly(10, 3));
        Gen.Select(Gen.Int[0, 100_000], Gen.Int[1, 50]).Sample((units, ways) => Allocation.SplitEvenly(units, ways).Sum() == units);
    }

    /// <summary>HMRC VAT Notice 700, from memory: the VAT fraction for 20 % is 1/6.</summary>
    [Fact]
    public void Tax_inside_a_price_at_20_per_cent_is_a_sixth() => Assert.Equal(Eur(20), new Percentage(20).ContainedIn(Eur(120)));

    /// <summary>Common practice, no source: 48.00 and 21.00 without tax leave 27.00, 56.3 %.</summary>
    [Fact]
    public void Margin_is_what_is_left_of_the_net_price()
    {
        var profit = Profit.Of(Eur(48), Eur(21), new Percentage(0), includesTax: false);
        Assert.Equal(Eur(27), profit.Left);
        Assert.Equal(56.3m, decimal.Round(profit.Margin!.Value, 1, MidpointRounding.AwayFromZero));
    }

    /// <summary>Law: the price worked out for a margin leaves that margin, to the cent.</summary>
    [Fact]
    public void A_price_for_a_margin_leaves_that_margin() =>
        Gen.Select(Gen.Int[1000, 500_000], Gen.Int[0, 90], Gen.Int[0, 27])
            .Sample(
                (cents, margin, rate) =>
                {
                    var cost = Eur(cents / 100m);
                    var price = Profit.PriceFor(cost, margin, new Percentage(rate), includesTax: true);
                    return Math.Abs(Profit.Of(price, cost, new Percentage(rate), includesTax: true).Margin!.Value - margin) < 0.2m;
                }
            );

    [Theory]
    [InlineData("11.5 kg", 11500)]
    [InlineData("500", 500)]
    [InlineData("3 lb", 1361)]
    [InlineData("12 oz", 340)]
    [InlineData("1,5kg", 1500)]
    [InlineData("0 g", 0)]
    [InlineData("-1 g", null)]
    public void Weights_are_taken_in_the_unit_typed(string typed, int? grams) => Assert.Equal(grams, Measures.Weight(typed).Value?.Size);

    [Theory]
    [InlineData("46 cm", 460)]
    [InlineData("4 in", 102)]
    [InlineData("0.5 m", 500)]
    [InlineData("46", 460)]
    public void Lengths_are_taken_in_the_unit_typed(string typed, int millimetres) =>
        Assert.Equal(millimetres, Measures.Length(typed).Value?.Size);

    [Theory]
    [InlineData(1, -1)]
    [InlineData(-2, 0)]
    public void A_weight_below_nothing_is_no_weight(int one, int other) =>
        Assert.Throws<ArgumentException>(() => Allocation.Share(Eur(1), [one, other]));

    [Fact]
    public void A_unit_that_is_none_is_named_in_the_refusal() => Assert.Contains("stone", Measures.Weight("3 stone").Problem);

    [Fact]
    public void A_weight_is_shown_in_the_unit_it_was_typed_in() => Assert.Equal("3 lb", Measures.ShowWeight(1361, "lb"));

    [Fact]
    public void Amounts_of_two_currencies_are_not_compared() =>
        Assert.Throws<InvalidOperationException>(() => Eur(1).CompareTo(new Money(1, Currency.Of("GBP"))));
}
