namespace Unicus.CoreTests;

public class PriceReadingTests
{
    /// <summary>A product of five options with a planted structure, some prices of its own, and how many of these there are.</summary>
    private sealed record Planted(Product Product, int Own);

    private static Surcharge.PerUnit? Adding(Random random) =>
        random.Next(10) < 3 ? null : new Surcharge.PerUnit(Sample.Eur(random.Next(-400, 2_500) / 100m));

    private static Planted Plant(int[] sizes, Surcharge?[] adds, bool baseOnFirst, decimal percent, int noise, int seed)
    {
        var random = new Random(seed);
        var next = 0;
        var options = sizes
            .Select(
                (size, o) =>
                    Sample.Option($"o{o}", [.. Enumerable.Range(0, size).Select(v => $"v{v}")]) is var option
                        ? option with
                        {
                            Values =
                            [
                                .. option.Values.Select(
                                    (v, i) =>
                                        o == 0 && baseOnFirst
                                            ? v with
                                            {
                                                Figures = Figures.None with { Price = Sample.Eur(40 + 17.5m * i) },
                                            }
                                        : i == 0 ? v
                                        : v with
                                        {
                                            Surcharge =
                                                o == 1 && percent != 0 && i == 1
                                                    ? new Surcharge.Percent(new Percentage(percent))
                                                    : adds[next++ % adds.Length],
                                        }
                                ),
                            ],
                        }
                        : option
            )
            .ToList();
        var product = new Product(ProductCode.Of("P"), "P")
        {
            Base = Figures.None with { Price = Sample.Eur(120) },
            Options = [.. options],
        };
        var matrix = product.Matrix();
        var own = new List<Variant>();
        var changed = 0;
        var most = matrix.OfferedCount / 5;
        foreach (var variant in matrix.Offered)
        {
            // Every price is typed; some are out of line.
            var price = variant.Price.Figure!.Value;
            if (changed < most && random.Next(100) < noise)
            {
                changed++;
                price = Sample.Eur(price.Amount + random.Next(1, 900) / 100m);
            }
            own.Add(new Variant(variant.Values) { Own = Figures.None with { Price = price } });
        }
        var bare = product with
        {
            Base = Figures.None,
            Options =
            [
                .. options.Select(o => o with { Values = [.. o.Values.Select(v => v with { Surcharge = null, Figures = Figures.None })] }),
            ],
            Variants = [.. own],
        };
        return new Planted(bare, changed);
    }

    private static int LeftOver(Product typed)
    {
        var before = typed.Matrix();
        var structure = PriceReading.Of(before)!;
        var after = (structure.On(typed, Currency.Euro) with { Variants = [] }).Matrix();
        return before.Offered.Count(v => after.Find(v.Values)!.Price.Figure != v.Price.Figure);
    }

    /// <summary>With up to a fifth of the cells out of line no more prices are left over than were put out of line. It is a search
    /// that looks around, no proof: they are the same two hundred each time.</summary>
    [Theory]
    [InlineData(0)]
    [InlineData(50)]
    [InlineData(100)]
    [InlineData(150)]
    public void A_planted_structure_is_found(int first) => Assert.All(Enumerable.Range(first, 50), seed =>
        {
            var random = new Random(seed);
            int[] sizes;
            do sizes = [.. Enumerable.Range(0, random.Next(2, 5)).Select(_ => random.Next(2, 7))];
            while (sizes.Aggregate(1, (a, b) => a * b) < 24);
            Surcharge?[] adds = [.. Enumerable.Range(0, 20).Select(_ => Adding(random))];
            var percent = random.Next(3) switch
            {
                0 => 0m,
                1 => 8m,
                _ => 12.5m,
            };
            var planted = Plant(sizes, adds, random.Next(2) == 0, percent, random.Next(21), seed);
            Assert.InRange(LeftOver(planted.Product), 0, planted.Own);
        });

    /// <summary>Of few prices those out of line may speak against all others together, and not within each base.</summary>
    [Fact]
    public void A_structure_of_few_prices_is_found_by_one_base()
    {
        Surcharge?[] adds = [new Surcharge.PerUnit(Sample.Eur(7.79m)), null, new Surcharge.PerUnit(Sample.Eur(2.92m))];
        var planted = Plant([3, 3, 3], adds, baseOnFirst: true, percent: 8, noise: 10, seed: 544);
        Assert.Equal((5, 5), (planted.Own, LeftOver(planted.Product)));
    }

    /// <summary>What has no price says nothing, and keeps none.</summary>
    [Fact]
    public void Variants_without_a_price_are_left_aside()
    {
        var planted = Plant([4, 6], [new Surcharge.PerUnit(Sample.Eur(3))], true, 0, 0, 1).Product;
        var some = planted with { Variants = [.. planted.Variants.Select((v, i) => i % 5 == 0 ? v with { Own = Figures.None } : v)] };
        var structure = PriceReading.Of(some.Matrix())!;
        var after = (structure.On(some, Currency.Euro) with { Variants = [] }).Matrix();
        Assert.All(some.Matrix().Offered.Where(v => v.Price.Figure is not null), v =>
            Assert.Equal(v.Price.Figure, after.Find(v.Values)!.Price.Figure)
        );
        Assert.Null(PriceReading.Of((planted with { Variants = [] }).Matrix()));
    }

    [Fact]
    public void A_value_has_a_price_only_where_it_differs_from_the_products()
    {
        var structure = PriceReading.Of(Plant([4, 6], [new Surcharge.PerUnit(Sample.Eur(3))], true, 8, 0, 1).Product.Matrix())!;
        Assert.Equal(3, structure.BasePrices.Count);
        Assert.DoesNotContain(structure.Base, structure.BasePrices.Values);
    }

    [Fact]
    public void A_list_of_four_hundred_prices_becomes_surcharges_and_three_exceptions()
    {
        Surcharge?[] adds = [.. new[] { 4m, 7.5m, -3m, 12m, 2.2m, 9m, 1m, 6m, 5m }.Select(a => new Surcharge.PerUnit(Sample.Eur(a)))];
        var planted = Plant([4, 4, 5, 5], adds, baseOnFirst: false, 0, 0, 1).Product;
        var odd = planted with
        {
            Variants =
            [
                .. planted.Variants.Select((v, i) => i is 7 or 90 or 333 ? v with { Own = v.Own with { Price = Sample.Eur(99) } } : v),
            ],
        };
        var structure = PriceReading.Of(odd.Matrix())!;
        Assert.Equal(3, LeftOver(odd));
        Assert.Null(structure.BaseOption);
        Assert.Equal(12_000, structure.Base);
        Assert.Equal(14, structure.Surcharges.Count);
    }

    [Fact]
    public void Percentages_are_told_from_amounts_where_bases_differ()
    {
        var planted = Plant([4, 3, 5], [new Surcharge.PerUnit(Sample.Eur(6))], baseOnFirst: true, 8, 0, 3).Product;
        var structure = PriceReading.Of(planted.Matrix())!;
        Assert.Equal(0, LeftOver(planted));
        Assert.Equal(Key.Of("o0"), structure.BaseOption);
        Assert.Equal(new Surcharge.Percent(new Percentage(8)), structure.Surcharges[(Key.Of("o1"), Key.Of("v1"))]);
        Assert.Equal(new Surcharge.PerUnit(Sample.Eur(6)), structure.Surcharges[(Key.Of("o2"), Key.Of("v3"))]);
    }
}
