using CsCheck;

namespace Unicus.CoreTests;

public class BulkArithmeticTests
{
    [Theory]
    [InlineData(178.00, .50, false, 178.50)]
    [InlineData(183.60, 9.99, false, 189.99)]
    [InlineData(183.60, 9.99, true, 179.99)]
    [InlineData(183.60, 49, false, 249)]
    [InlineData(5.00, 9.99, true, 5.00)]
    public void Endings_are_reached_up_or_down(double amount, double ending, bool down, double expected) =>
        Assert.Equal((decimal)expected, new PriceEnding((decimal)ending, down).Of((decimal)amount));

    [Fact]
    public void An_ending_is_the_nearest_amount_that_ends_so() =>
        Gen.Select(Gen.Int[0, 100_000], Gen.Int[0, 9_999], Gen.Bool)
            .Sample(
                (cents, end, down) =>
                {
                    var (amount, ending) = (cents / 100m, end / 100m);
                    var step =
                        ending < 1 ? 1
                        : ending < 10 ? 10
                        : 100;
                    var reached = new PriceEnding(ending, down).Of(amount);
                    var plain = down
                        ? Enumerable.Range(0, cents + 1).Select(c => amount - c / 100m).Where(a => a >= 0 && (a - ending) % step == 0)
                        : Enumerable.Range(0, 100 * step + 1).Select(c => amount + c / 100m).Where(a => (a - ending) % step == 0);
                    Assert.Equal(plain.Append(amount).First(), reached);
                },
                iter: 300
            );

    [Theory]
    [InlineData(BulkOperation.Set, 7, 7)]
    [InlineData(BulkOperation.Add, 7, 27)]
    [InlineData(BulkOperation.Subtract, 7, 13)]
    [InlineData(BulkOperation.Percent, 12.345, 22.47)]
    [InlineData(BulkOperation.Round, 0, 20)]
    public void What_is_done_to_20_00(BulkOperation operation, double amount, double expected) =>
        Assert.Equal((decimal)expected, new BulkArithmetic(operation, (decimal)amount, null, 2).Of(20m, null, 0));

    [Fact]
    public void A_cleared_figure_and_one_that_was_never_there_stay_none()
    {
        Assert.Null(new BulkArithmetic(BulkOperation.Clear, 0, null, 2).Of(20m, null, 0));
        Assert.Null(new BulkArithmetic(BulkOperation.Percent, 5, new PriceEnding(.99m, false), 2).Of(null, null, 0));
        Assert.Null(new BulkArithmetic(BulkOperation.Copy, 0, null, 2).Of(20m, null, 0));
    }

    [Fact]
    public void Shares_of_a_total_add_up_and_the_first_has_the_remainder() =>
        Gen.Select(Gen.Int[0, 1_000_000], Gen.Int[1, 500], Gen.Int[0, 3])
            .Sample(
                (units, count, decimals) =>
                {
                    var unit = new decimal(1, 0, 0, false, (byte)decimals);
                    var shares = new BulkArithmetic(BulkOperation.Split, units * unit, null, decimals).Shares(count);
                    Assert.Equal(units * unit, shares.Sum());
                    Assert.All(shares.Skip(1), s => Assert.Equal(shares[^1], s));
                    Assert.InRange(shares[0] - shares[^1], 0, (count - 1) * unit);
                }
            );
}
