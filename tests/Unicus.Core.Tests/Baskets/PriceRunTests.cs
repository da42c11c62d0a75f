using System.Collections.Immutable;
using CsCheck;

namespace Unicus.CoreTests;

/// <summary>Lines, their leaves and their tax.</summary>
public class PriceRunTests
{
    private static Edition Goods(string code, int id, decimal price, decimal? cost, string taxClass, params Option[] extras)
    {
        var product = new Product(ProductCode.Of(code), code)
        {
            Base = Figures.None with
            {
                Price = Sample.Eur(price),
                Cost = cost is { } c ? Sample.Eur(c) : null,
                TaxClass = taxClass,
                WeightGrams = 1_500,
            },
            Extras = [.. extras],
            Variants = [new Variant(Combination.Empty) { Sku = Sku.Of(code) }],
        };
        return new Edition(id, 1, DateTimeOffset.UnixEpoch, product, product.Matrix()) { Sets = [] };
    }

    private static Option Gift(int quantity, decimal adds) =>
        new(Key.Of("gift"), "Gift", OptionRole.Extra)
        {
            Ask = Ask.Several,
            Values =
            [
                new OptionValue(Key.Of("book"), "Book") { Part = new ValuePart("BOOK", quantity) },
                new OptionValue(Key.Of("ribbon"), "Ribbon")
                {
                    Surcharge = new Surcharge.PerUnit(Sample.Eur(adds)),
                    Cost = Sample.Eur(0.20m),
                },
                new OptionValue(Key.Of("early"), "Early") { Surcharge = new Surcharge.Once(Sample.Eur(5)) },
            ],
        };

    private static TradeTerms Terms(bool included) =>
        new(
            Currency.Euro,
            included,
            [new TaxClass(Key.Of("standard"), "Standard"), new TaxClass(Key.Of("reduced"), "Reduced")],
            [
                new Destination(
                    "IE",
                    "Ireland",
                    ImmutableSortedDictionary<string, decimal>.Empty.Add("standard", 20).Add("reduced", 10),
                    [
                        new DeliveryService(
                            Key.Of("parcel"),
                            "Parcel",
                            "standard",
                            [new DeliveryRate(20_000, null, Sample.Eur(6)), new DeliveryRate(20_000, Sample.Eur(1_000), Sample.Eur(0))]
                        ),
                    ]
                ),
            ]
        );

    private static PricedRun Run(Edition hive, PublishedRange range, TradeTerms terms, int quantity, params string[] gifts)
    {
        var goods = new VariantOnSale(hive, hive.Matrix.Variants[0]);
        var answers = Configuration.Empty.With(Key.Of("gift"), new Answer.Ticks([.. gifts.Select(Key.Of)]));
        var needs = ComingApart.Needs(goods, answers, range, null, new EnteredSets(hive.ProductId)).Value;
        return PriceRun.Of([new RunLine(goods, answers, quantity, needs)], new RunTerms(terms, terms.Destinations[0]), range);
    }

    /// <summary>A hive for 100.00 with two books at 12.00 and a ribbon for 1.50, three times, 5.00 once: 381.50; the books take 72.00 of it
    /// and are taxed by their own class.</summary>
    [Fact]
    public void A_line_is_shared_out_among_its_leaves_and_taxed_by_their_classes()
    {
        var (hive, book) = (Goods("HIVE", 1, 100, 40, "standard", Gift(2, 1.50m)), Goods("BOOK", 2, 12, 5, "reduced"));
        var range = new PublishedRange.Of([hive, book]);
        var basket = Run(hive, range, Terms(included: true), 3, "book", "ribbon", "early").Basket!;
        var line = basket.Lines[0];
        Assert.Equal(("125.50", "381.50"), (line.Unit.ToString(), line.Total.ToString()));
        Assert.Equal(
            [("", "HIVE", 3L, "309.50", "120.60"), ("gift", "BOOK", 6L, "72.00", "30.00")],
            line.Leaves.Select(l => (l.Path.Text, l.Goods.Variant.Sku.Text, l.Units, l.Allocated.ToString(), l.Cost!.Value.ToString()))
        );
        // 309.50 ÷ 6 = 51.58, 72.00 ÷ 11 = 6.55, and 6.00 of delivery contains 1.00.
        Assert.Equal(("58.13", "59.13", "387.50"), (line.Tax.ToString(), basket.Tax.ToString(), basket.Total.ToString()));
        Assert.Equal("150.60", line.Cost.ToString());
    }

    [Fact]
    public void What_is_too_heavy_is_not_sent()
    {
        var hive = Goods("HIVE", 1, 10, null, "standard", Gift(1, 0));
        var run = Run(hive, new PublishedRange.Of([hive]), Terms(included: true), 14);
        Assert.Null(run.Basket);
        Assert.Equal("21 kg are too heavy to be sent to Ireland.", Assert.Single(run.Faults).What);
        Assert.Null(Run(hive, new PublishedRange.Of([hive]), Terms(included: true), 1).Basket!.Lines[0].Cost);
    }

    /// <summary>One service takes what is light, the other what is short; what neither takes is not said to be too heavy.</summary>
    [Theory]
    [InlineData(1, null, null)]
    [InlineData(2, null, "This cannot be sent to Ireland: it is too heavy or too long.")]
    [InlineData(2, "light", "This cannot be sent to Ireland by light: it is too heavy or too long.")]
    [InlineData(14, null, "21 kg are too heavy to be sent to Ireland.")]
    [InlineData(1, "air", "There is no delivery air to Ireland.")]
    public void Why_something_is_not_sent_is_said(int quantity, string? by, string? why)
    {
        var bare = Goods("HIVE", 1, 10, null, "standard").Product;
        var product = bare with { Base = bare.Base with { SizeMm = new SizeMm(400, 10, 10) } };
        var hive = new Edition(1, 1, DateTimeOffset.UnixEpoch, product, product.Matrix()) { Sets = [] };
        var terms = Terms(included: true);
        DeliveryService Service(string key, DeliveryRate rate) => new(Key.Of(key), key, "standard", [rate]);
        var destination = terms.Destinations[0] with
        {
            Services =
            [
                Service("light", new DeliveryRate(2_000, null, Sample.Eur(3))),
                Service("short", new DeliveryRate(20_000, null, Sample.Eur(6)) { LongestUpToMm = 300 }),
            ],
        };
        var goods = new VariantOnSale(hive, hive.Matrix.Variants[0]);
        var line = new RunLine(goods, Configuration.Empty, quantity, [new LeafNeed(LeafPath.Own, goods, 1, "")]);
        var run = PriceRun.Of([line], new RunTerms(terms, destination, by), new PublishedRange.Of([hive]));
        Assert.Equal(why, run.Basket is null ? Assert.Single(run.Faults).What : null);
    }

    /// <summary>10.00 may come down to 8.00 (cost 5.00, 20 % inside, floor 25 %). An alone rule is compared with all the others, floor
    /// included (domain.md, section 5).</summary>
    [Theory]
    [InlineData(10, 15, "8.50")]
    [InlineData(10, 30, "8.00")]
    [InlineData(15, 10, "8.50")]
    [InlineData(30, 25, "8.00")]
    public void An_alone_rule_is_compared_with_the_others_floor_included(int others, int alone, string unit)
    {
        PriceRule Rule(string key, int percent, Combine combine) =>
            new(Key.Of(key), key, new PriceEffect.Reduce(percent, null)) { Combine = combine };
        var goods = Goods("A", 1, 10, 5, "standard");
        var terms = RuleTerms.Under([Rule("others", others, Combine.Adds), Rule("alone", alone, Combine.Alone)]);
        terms = terms with { Trade = terms.Trade with { Floor = new Percentage(25) } };
        var sold = new VariantOnSale(goods, goods.Matrix.Variants[0]);
        var line = new RunLine(sold, Configuration.Empty, 1, [new LeafNeed(LeafPath.Own, sold, 1, "")]);
        Assert.Equal(unit, PriceRun.Of([line], terms, new PublishedRange.Of([goods])).Basket!.Lines[0].Unit.ToString());
    }

    /// <summary>Law: steps add up to the line, leaves add up to what is paid for it, and nothing is lost between lines and
    /// total.</summary>
    [Fact]
    public void Steps_and_leaves_add_up() =>
        Gen.Select(Gen.Int[0, 30_000], Gen.Int[0, 9_000], Gen.Int[-400, 400], Gen.Int[1, 4], Gen.Int[0, 7], Gen.Bool)
            .Sample(
                (list, part, ribbon, quantity, picks, included) =>
                {
                    var hive = Goods("HIVE", 1, list / 100m, 1, "standard", Gift(2, ribbon / 100m));
                    var range = new PublishedRange.Of([hive, Goods("BOOK", 2, part / 100m, 1, "reduced")]);
                    string[] gifts = [.. new[] { "book", "ribbon", "early" }.Where((_, i) => (picks >> i & 1) == 1)];
                    var run = Run(hive, range, Terms(included), quantity, gifts);
                    if (run.Basket is not { } basket)
                    {
                        Assert.Contains("below 0", Assert.Single(run.Faults).What);
                        return;
                    }
                    var line = basket.Lines[0];
                    Assert.Equal(line.Total, line.Working.Total);
                    Assert.Equal(line.Unit, line.Working.Unit);
                    Assert.Equal(line.Total + line.Reduction, line.Leaves.Select(l => l.Allocated).Sum(Currency.Euro));
                    var goods = basket.Lines.Select(l => l.Total + l.Reduction).Sum(Currency.Euro) + basket.Delivery;
                    Assert.Equal(included ? goods : goods + basket.Tax, basket.Total);
                    // Without a trace the figures are the same.
                    Assert.Equal(basket.Total, PriceRun.Of([line.Line], basket.Terms, range, trace: false).Basket!.Total);
                }
            );

    /// <summary>A basket of which nobody knows where it goes bears no tax, line by line and in all.</summary>
    [Fact]
    public void Nothing_is_taxed_that_goes_nowhere()
    {
        var goods = new VariantOnSale(Goods("G", 1, 12, 5, "standard"), Goods("G", 1, 12, 5, "standard").Matrix.Variants[0]);
        var line = new RunLine(goods, Configuration.Empty, 2, [new LeafNeed(LeafPath.Own, goods, 1, "")]);
        var basket = PriceRun.Of([line], Sample.Plain, PublishedRange.Empty).Basket!;
        Assert.Equal((0m, 0m, 24m), (basket.Lines[0].Tax.Amount, basket.Tax.Amount, basket.Total.Amount));
        Assert.All(basket.Lines[0].LeafTaxes, t => Assert.True(t.IsZero));
    }
}
