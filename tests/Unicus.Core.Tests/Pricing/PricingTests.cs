using System.Collections.Immutable;
using CsCheck;

namespace Unicus.CoreTests;

public class PricingTests
{
    private static Destination To(decimal standard, decimal reduced, decimal delivery) =>
        new(
            "IE",
            "Ireland",
            ImmutableSortedDictionary<string, decimal>.Empty.Add("standard", standard).Add("reduced", reduced),
            [DeliveryService.Flat(Sample.Eur(delivery), "standard")]
        );

    private static TradeTerms Terms(bool included) =>
        new(Currency.Euro, included, [new TaxClass(Key.Of("standard"), "Standard"), new TaxClass(Key.Of("reduced"), "Reduced")], []);

    [Fact]
    public void The_working_names_the_configuration_and_adds_up()
    {
        var matrix = Sample.Hive.Matrix();
        var variant = matrix.Find(Sample.Of("depth=deep", "timber=pine"))!;
        var title = PriceCalculator.Title("Garden hive", variant.Values, matrix.Options);
        var working = LineRun.Start(Sample.Goods(variant), title, 0, 3, []).Working();
        Assert.Equal("Garden hive, deep, pine", Assert.Single(working.Steps).Label);
        Assert.Equal(("166.72", "500.16"), (working.Unit.ToString(), working.Total.ToString()));
    }

    /// <summary>Law: the steps of a list price add up to the price that the matrix shows, for every variant.</summary>
    [Fact]
    public void The_steps_of_a_list_price_add_up_to_it() =>
        Gen.Select(Gen.Int[1, 100_000], Gen.Int[-50, 80], Gen.Int[-500, 5000])
            .Sample(
                (cents, percent, surcharge) =>
                {
                    var options = Sample.Hive.Options.SetItem(
                        0,
                        Sample.Hive.Options[0] with
                        {
                            Values = Sample
                                .Hive.Options[0]
                                .Values.SetItem(
                                    1,
                                    Sample.Hive.Options[0].Values[1] with
                                    {
                                        Surcharge = new Surcharge.Percent(new Percentage(percent)),
                                    }
                                ),
                        }
                    );
                    options = options.SetItem(
                        1,
                        options[1] with
                        {
                            Values = options[1]
                                .Values.SetItem(
                                    1,
                                    options[1].Values[1] with
                                    {
                                        Surcharge = new Surcharge.PerUnit(Sample.Eur(surcharge / 100m)),
                                    }
                                ),
                        }
                    );
                    var product = Sample.Hive with
                    {
                        Base = new Figures { Price = Sample.Eur(1000 + cents / 100m) },
                        Options = options,
                    };
                    var matrix = product.Matrix();
                    Assert.All(matrix.Variants, v =>
                        Assert.Equal(
                            v.Price.Figure,
                            PriceCalculator.ListPrice(product.Base, matrix, v).Select(s => s.Amount).Sum(Currency.Euro)
                        )
                    );
                }
            );

    /// <summary>The figures of document.md: two hives for 411.00 less 20.55 at 23 % contain 73.01 of tax.</summary>
    [Fact]
    public void Tax_is_on_what_is_paid_for_a_line()
    {
        var tax = Taxation.Of([new TaxableAmount(Sample.Eur(411 - 20.55m), null)], Terms(included: true), To(23, 13.5m, 0));
        Assert.Equal("73.01", tax.ToString());
    }

    /// <summary>Two leaves of one class are rounded together, of two classes each by itself: 0.02 + 0.02 at 20 % are 0.01
    /// together.</summary>
    [Fact]
    public void Tax_is_rounded_per_line_and_class()
    {
        TaxableAmount Of(string taxClass) => new(Sample.Eur(0.02m), taxClass);
        Assert.Equal("0.01", Taxation.Of([Of("standard"), Of("standard")], Terms(included: false), To(20, 20, 0)).ToString());
        Assert.Equal("0.00", Taxation.Of([Of("standard"), Of("reduced")], Terms(included: false), To(20, 20, 0)).ToString());
    }

    [Fact]
    public void Without_a_destination_there_is_no_tax() =>
        Assert.True(Taxation.Of([new TaxableAmount(Sample.Eur(10), null)], Terms(included: true), null).IsZero);

    [Fact]
    public void Delivery_is_charged_by_the_lightest_row_that_holds_and_of_these_by_the_dearest_goods()
    {
        DeliveryRate Row(int? grams, decimal? from, decimal amount) => new(grams, from is { } f ? Sample.Eur(f) : null, Sample.Eur(amount));
        var service = new DeliveryService(
            Key.Of("parcel"),
            "Parcel",
            "standard",
            [Row(10_000, null, 9), Row(2_000, null, 5), Row(2_000, 100, 0), Row(10_000, 100, 4)]
        );
        Assert.Equal("5.00", service.Charge(Weighing(2_000), Sample.Eur(99.99m))?.ToString());
        Assert.Equal("0.00", service.Charge(Weighing(2_000), Sample.Eur(100))?.ToString());
        Assert.Equal("9.00", service.Charge(Weighing(2_001), Sample.Eur(1))?.ToString());
        Assert.Equal("4.00", service.Charge(Weighing(10_000), Sample.Eur(100))?.ToString());
        Assert.Null(service.Charge(Weighing(10_001), Sample.Eur(100)));
    }

    [Fact]
    public void What_is_long_or_bulky_has_a_charge_of_its_own()
    {
        var service = new DeliveryService(
            Key.Of("parcel"),
            "Parcel",
            "standard",
            [
                new DeliveryRate(null, null, Sample.Eur(6)) { LongestUpToMm = 1_200 },
                new DeliveryRate(null, null, Sample.Eur(15)) { LongestUpToMm = 2_000 },
            ]
        )
        {
            Bulky = new BulkyCharge(["bulky"], ["HIVE"], Sample.Eur(12)),
        };
        Parcel Of(int longest, string code, params string[] tags) => new(500, longest, [new ParcelGoods(code, [.. tags])]);
        Assert.Equal("6.00", service.Charge(Of(1_200, "JAR"), Sample.Eur(1))?.ToString());
        Assert.Equal("15.00", service.Charge(Of(1_201, "JAR", "glass"), Sample.Eur(1))?.ToString());
        Assert.Equal("18.00", service.Charge(Of(0, "JAR", "Bulky"), Sample.Eur(1))?.ToString());
        Assert.Equal("27.00", service.Charge(Of(1_300, "HIVE"), Sample.Eur(1))?.ToString());
        Assert.Null(service.Charge(Of(2_001, "HIVE"), Sample.Eur(1)));
        Assert.Null(service.FlatCharge);
    }

    private static Parcel Weighing(int grams) => new(grams, 0, []);

    [Theory]
    [InlineData("B", "Words: 1 character")]
    [InlineData("B e", "Words: 2 characters")]
    public void Characters_are_counted_in_the_working(string words, string label)
    {
        var question = new Option(Key.Of("words"), "Words", OptionRole.Extra)
        {
            Ask = Ask.Text,
            Surcharge = new Surcharge.PerCharacter(Sample.Eur(0.60m), null),
        };
        var given = Configuration.Empty.With(question.Key, new Answer.Text(words));
        var amount = Assert.Single(new AnswerPricing([question], _ => null).Amounts(given, Sample.Eur(10)));
        Assert.Equal(label, amount.Step().Label);
    }
}
