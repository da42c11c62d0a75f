using System.Collections.Immutable;

namespace Unicus.CoreTests;

public class CheckTests
{
    private static readonly TradeTerms Terms = new(Currency.Euro, true, [new TaxClass(Key.Of("standard"), "Standard")], []);

    private static ImmutableArray<ProductCheck> Look(Product product) =>
        ProductChecks.Look(product, product.Matrix(), Terms, ImmutableDictionary<Sku, StockLevel>.Empty);

    [Fact]
    public void No_price_stops_and_says_where()
    {
        var check = Assert.Single(Look(new Product(ProductCode.Of("X"), "X")), c => c.Stops);
        Assert.Equal(("It has no price.", Chapter.Money), (check.Text, check.Mend));
    }

    [Fact]
    public void A_price_of_zero_is_a_price() =>
        Assert.DoesNotContain(Look(new Product(ProductCode.Of("X"), "X") { Base = new Figures { Price = Sample.Eur(0) } }), c => c.Stops);

    [Fact]
    public void Nothing_left_to_sell_stops() =>
        Assert.Contains(Look(Sample.Hive with { NotMade = [Sample.Of("timber=cedar"), Sample.Of("timber=pine")] }), c =>
            c.Stops && c.Mend == Chapter.Matrix
        );

    [Fact]
    public void A_cost_above_the_price_is_pointed_out_and_does_not_stop()
    {
        var hive = Sample.Hive with
        {
            Variants = [new Variant(Sample.Of("depth=deep", "timber=pine")) { Own = new Figures { Cost = Sample.Eur(200) } }],
        };
        Assert.Contains(Look(hive), c => !c.Stops && c.Text.StartsWith("Deep, Pine has a cost above", StringComparison.Ordinal));
    }

    [Fact]
    public void Pictures_follow_the_value_that_they_show()
    {
        var hive = Sample.Hive with
        {
            Pictures = [new ProductPicture("a", "", null), new ProductPicture("p", "", (Key.Of("timber"), Key.Of("pine")))],
        };
        Assert.Equal(["p", "a"], hive.PicturesFor(Configuration.Of(Sample.Of("timber=pine"))).Select(p => p.File));
        Assert.Equal(["a"], hive.PicturesFor(Configuration.Empty).Select(p => p.File));
    }
}
