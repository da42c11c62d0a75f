using System.Collections.Immutable;
using CsCheck;

namespace Unicus.CoreTests;

public class MatrixTests
{
    /// <summary>domain.md section 2: 184.00, timber −32.00, depth +8 % → 166.72, not compounding.</summary>
    [Fact]
    public void A_percentage_surcharge_is_of_the_base_and_does_not_compound()
    {
        var matrix = Sample.Hive.Matrix();
        Assert.Equal("166.72", matrix.Find(Sample.Of("depth=deep", "timber=pine"))!.Price.Figure?.ToString());
        Assert.Equal(FigureSource.Value, matrix.Find(Sample.Of("depth=deep", "timber=pine"))!.Price.Source);
        Assert.Equal(FigureSource.Product, matrix.Find(Sample.Of("depth=shallow", "timber=cedar"))!.Price.Source);
    }

    [Fact]
    public void A_variants_own_figure_comes_before_its_values_and_the_products()
    {
        var values = Sample.Of("depth=deep", "timber=cedar");
        var matrix = (
            Sample.Hive with
            {
                Variants =
                [
                    new Variant(values)
                    {
                        Own = new Figures { Price = Sample.Eur(199), WeightGrams = 1 },
                    },
                ],
            }
        ).Matrix();
        var own = matrix.Find(values)!;
        Assert.Equal((Sample.Eur(199), FigureSource.Own), (own.Price.Figure, own.Price.Source));
        Assert.Equal(new Resolved<int?>(1, FigureSource.Own), matrix.Figures.Resolve<int>(own.Variant.Own, values, f => f.WeightGrams));
        var other = Sample.Of("depth=deep", "timber=pine");
        Assert.Equal(new Resolved<int?>(13200, FigureSource.Value), matrix.Figures.Resolve<int>(Figures.None, other, f => f.WeightGrams));
    }

    [Fact]
    public void The_first_option_that_sets_a_figure_wins()
    {
        Option Setting(string key, int grams) =>
            Sample.Option(key, "x") with
            {
                Values = [new OptionValue(Key.Of("x"), "x") { Figures = new Figures { WeightGrams = grams } }],
            };
        Option[] options = [Setting("b", 3), Setting("a", 5)];
        Assert.Equal(3, new Cascade(Figures.None, options).Resolve<int>(Figures.None, Sample.Of("a=x", "b=x"), f => f.WeightGrams).Figure);
    }

    [Fact]
    public void A_product_without_a_base_price_has_prices_where_its_variants_do()
    {
        var product = Sample.Hive with
        {
            Base = Figures.None,
            Variants = [new Variant(Sample.Of("depth=deep", "timber=pine")) { Own = new Figures { Price = Sample.Eur(1) } }],
        };
        Assert.Equal(1, product.Matrix().Variants.Count(v => v.Price.Figure is not null));
    }

    /// <summary>Law: the matrix holds exactly the combinations that are made, each once, each with a SKU.</summary>
    [Fact]
    public void The_matrix_is_the_product_of_values_less_what_is_not_made() =>
        Sample.Matrices.Sample(
            (options, notMade) =>
            {
                var matrix = (Sample.Hive with { Options = options, NotMade = notMade }).Matrix();
                Assert.Equal(Sample.All(options).Where(c => !notMade.Any(n => n.IsWithin(c))), matrix.Variants.Select(v => v.Values));
                Assert.Equal(matrix.Made.Combinations, matrix.Variants.Count + matrix.NotMadeCount);
            }
        );

    [Fact]
    public void SKUs_come_from_the_pattern()
    {
        Assert.Equal(["GH1-S-CE", "GH1-S-PI", "GH1-D-CE", "GH1-D-PI"], Sample.Hive.Matrix().Variants.Select(v => v.Sku.Text));
        var counted = Sample.Hive with { SkuPattern = [new PatternPiece.Text("H."), new PatternPiece.Counter(3)] };
        Assert.Equal(["H.001", "H.002", "H.003", "H.004"], counted.Matrix().Variants.Select(v => v.Sku.Text));
    }

    [Fact]
    public void An_option_that_shares_its_SKU_gives_no_piece()
    {
        var hive = Sample.Hive with { Options = Sample.Hive.Options.SetItem(1, Sample.Hive.Options[1] with { SharesSku = true }) };
        Assert.Equal(["GH1-S", "GH1-S", "GH1-D", "GH1-D"], hive.Matrix().Variants.Select(v => v.Sku.Text));
    }

    [Fact]
    public void A_pattern_names_options_in_order_and_counts_from_one()
    {
        var size = Sample.Hive.Options[0];
        var shared = Sample.Hive.Options[1] with { SharesSku = true };
        Assert.Equal(
            new PatternPiece[] { new PatternPiece.Code(), new PatternPiece.Text("-"), new PatternPiece.OfOption(size.Key) },
            SkuPattern.Default([size, shared]).AsEnumerable()
        );
        var counted = Sample.Hive with { SkuPattern = [new PatternPiece.Code(), new PatternPiece.Counter(3)] };
        Assert.Equal(["GH1001", "GH1002", "GH1003", "GH1004"], counted.Matrix().Variants.Select(v => v.Sku.Text));
        Assert.Equal("GH1004", counted.Matrix().SkuAt(3).Text);
    }

    /// <summary>A figure comes from the variant, else from the first option whose value sets it, else from the product.</summary>
    [Fact]
    public void Figures_of_a_value_stand_between_the_variants_and_the_products()
    {
        var (size, colour) = (Sample.Option("size", "s", "m"), Sample.Option("colour", "red", "blue"));
        static Option With(Option option, Figures figures) =>
            option with
            {
                Values = [option.Values[0] with { Figures = figures }, option.Values[1]],
            };
        var product = new Product(ProductCode.Of("C1"), "C")
        {
            Base = Figures.None with { Price = Sample.Eur(10), Cost = Sample.Eur(4), LeadTimeDays = 1 },
            Options =
            [
                With(size, Figures.None with { Cost = Sample.Eur(5) }),
                With(colour, Figures.None with { Cost = Sample.Eur(6), LeadTimeDays = 3 }),
            ],
            Variants = [new Variant(Sample.Of("size=s", "colour=blue")) { Own = Figures.None with { Cost = Sample.Eur(7) } }],
        };
        var found = product.Matrix().Variants.ToDictionary(v => v.Values.Text, v => (v.Cost.Figure, v.LeadTimeDays));
        Assert.Equal((Sample.Eur(5), 3), found["colour=red,size=s"]);
        Assert.Equal((Sample.Eur(7), 1), found["colour=blue,size=s"]);
        Assert.Equal((Sample.Eur(6), 3), found["colour=red,size=m"]);
        Assert.Equal((Sample.Eur(4), 1), found["colour=blue,size=m"]);
    }

    [Fact]
    public void The_size_is_told_in_words()
    {
        Assert.Equal("2 × 2 = 4 variants", Sample.Hive.Matrix().SizeInWords);
        Assert.Equal("2 variants", (Sample.Hive with { Options = [Sample.Hive.Options[0]] }).Matrix().SizeInWords);
        Assert.Equal(
            "2 × 2 = 4, 1 not made, 3 variants",
            (Sample.Hive with { NotMade = [Sample.Of("depth=shallow", "timber=pine")] }).Matrix().SizeInWords
        );
    }

    [Theory]
    [InlineData("Garden hive", "GH")]
    [InlineData("Smoker", "SMOK")]
    [InlineData("Feeder, 2 litres", "F2L")]
    [InlineData("蜂蜜", "P")]
    public void Product_codes_are_made_from_names(string name, string code) => Assert.Equal(code, ProductCode.From(name, _ => false).Text);
}
