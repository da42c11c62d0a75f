using System.Collections.Immutable;
using CsCheck;

namespace Unicus.Core.Tests;

public class PricingTests
{
    private static Destination To(decimal standard, decimal reduced, decimal delivery) =>
        new(
            "IE",
            "Ireland",
            ImmutableSortedDictionary<string, decimal>.Empty.Add("standard", standard).Add("reduced", reduced),
            Sample.Eur(delivery),
            "standard"
        );

    private static TradeTerms Terms(bool included) =>
        new(Currency.Euro, included, [new TaxClass(Key.Of("standard"), "Standard"), new TaxClass(Key.Of("reduced"), "Reduced")], []);

    [Fact]
    public void The_working_names_the_configuration_and_adds_up()
    {
        var matrix = Sample.Hive.Matrix();
        var working = PriceCalculator.Price("Garden hive", matrix, matrix.Find(Sample.Of("depth=deep", "timber=pine"))!, 3)!;
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
                    Assert.All(
                        matrix.Variants,
                        v =>
                            Assert.Equal(
                                v.Price.Figure,
                                PriceCalculator.ListPrice(product.Base, matrix, v).Select(s => s.Amount).Sum(Currency.Euro)
                            )
                    );
                }
            );

    /// <summary>The figures of document.md: two hives for 411.00 less 20.55 at 23 % contain 73.01 of tax.</summary>
    [Fact]
    public void Tax_is_on_the_total_less_the_reduction_and_rounded_per_line()
    {
        var totals = Taxation.AddUp([new TaxableLine(Sample.Eur(411), Sample.Eur(-20.55m), null)], Terms(included: true), To(23, 13.5m, 0));
        Assert.Equal(("73.01", "390.45"), (totals.Tax.ToString(), totals.Total.ToString()));
    }

    [Fact]
    public void Tax_is_added_where_prices_do_not_include_it_and_delivery_is_taxed_by_its_own_class()
    {
        var totals = Taxation.AddUp([new TaxableLine(Sample.Eur(10), Sample.Eur(0), "reduced")], Terms(included: false), To(20, 10, 5));
        Assert.Equal("2.00", totals.Tax.ToString());
        Assert.Equal("17.00", totals.Total.ToString());
    }

    [Fact]
    public void Without_a_destination_there_is_no_tax_and_no_delivery()
    {
        var totals = Taxation.AddUp([new TaxableLine(Sample.Eur(10), Sample.Eur(0), null)], Terms(included: true), null);
        Assert.Equal(("0.00", "10.00"), (totals.Tax.ToString(), totals.Total.ToString()));
    }

    /// <summary>Law: the total is the sum of its parts, in either mode of prices.</summary>
    [Fact]
    public void A_basket_adds_up() =>
        Gen.Select(Gen.Int[0, 100_000].Array[1, 8], Gen.Int[0, 27], Gen.Bool)
            .Sample(
                (cents, rate, included) =>
                {
                    var lines = cents.Select(c => new TaxableLine(Sample.Eur(c / 100m), Sample.Eur(0), null)).ToList();
                    var totals = Taxation.AddUp(lines, Terms(included), To(rate, 0, 6.50m));
                    var goods = lines.Select(l => l.Total).Sum(Currency.Euro) + totals.Delivery;
                    Assert.Equal(included ? goods : goods + totals.Tax, totals.Total);
                    var onDelivery = included
                        ? new Percentage(rate).ContainedIn(totals.Delivery)
                        : new Percentage(rate).Of(totals.Delivery);
                    Assert.Equal(totals.Tax, totals.LineTax.Sum(Currency.Euro) + onDelivery);
                }
            );
}
