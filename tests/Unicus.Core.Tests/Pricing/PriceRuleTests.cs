using System.Collections.Immutable;
using System.Text.Json;
using CsCheck;
using static Unicus.CoreTests.RuleTerms;

namespace Unicus.CoreTests;

public class PriceRuleTests
{
    private static PricedBasket Priced(RandomRules.Case c, bool trace = true) =>
        PriceRun.Of(c.Lines, Under(c.Rules, c.Coupon ? ["MAY"] : []), new PublishedRange.Of(c.Editions), trace).Basket!;

    private static ReadLine Read(RunLine line)
    {
        var (edition, variant) = line.Goods;
        decimal Cents(Money money) => money.Amount * 100;
        var list = variant.Price.Figure!.Value;
        var ticks = (line.Answers[Key.Of("mark")] as Answer.Ticks)?.Keys ?? [];
        var values = edition.Product.Extras[0].Values;
        decimal? room = null;
        // 20 % is the highest rate of all destinations, and contained.
        if (edition.Product.Floor is { } margin && variant.Cost.Figure is { } cost)
            room = Math.Max(0, Cents(list) - Math.Ceiling(Cents(cost) * 120 / (100 - margin.Value)));
        return new ReadLine(
            edition.Product.Code.Text,
            variant.Sku.Text,
            variant.Values.Pairs.ToDictionary(p => p.Option.Text, p => p.Value.Text),
            edition.Product.Tags,
            line.Quantity,
            Cents(list),
            ticks.Contains(Key.Of("each")) ? Cents(((Surcharge.PerUnit)values[0].Surcharge!).Amount) : 0,
            ticks.Contains(Key.Of("once")) ? Cents(((Surcharge.Once)values[1].Surcharge!).Amount) : 0,
            room,
            line.Through
        );
    }

    /// <summary>Thousands of random rule sets and baskets against a second reading of the text.</summary>
    [Fact]
    public void Prices_are_those_of_a_second_reading() =>
        RandomRules.Cases.Sample(
            c =>
            {
                var read = new SecondReading([.. c.Lines.Select(Read)], c.Rules, c.Coupon ? new HashSet<string> { "MAY" } : []).Read();
                var priced = Priced(c);
                foreach (var (line, second) in priced.Lines.Zip(read))
                    Assert.Equal(
                        (second.Unit / 100, second.Total / 100, second.Share / 100),
                        (line.Unit.Amount, line.Total.Amount, line.Reduction.Amount)
                    );
            },
            iter: 20_000
        );

    /// <summary>Laws: the working adds up exactly; only a floor gives back; reductions add up by line and by rule; the trace changes
    /// nothing; no line falls below its room.</summary>
    [Fact]
    public void Workings_and_reductions_add_up() =>
        RandomRules.Cases.Sample(
            c =>
            {
                var priced = Priced(c);
                Assert.Equal(priced.Total, Priced(c, trace: false).Total);
                Assert.Equal(priced.Lines.Sum(l => l.Reduction.Amount), priced.Reductions.Sum(r => r.Amount.Amount));
                foreach (var line in priced.Lines)
                {
                    Assert.Equal((line.Unit, line.Total), (line.Working.Unit, line.Working.Total));
                    Assert.All(line.Working.Steps.Where(s => s.Rule is not null), s => Assert.True(s.Amount.Amount < 0));
                    Assert.All(line.Working.Steps.Where(s => s.Step == PriceStep.Floor), s => Assert.True(s.Amount.Amount > 0));
                    Assert.Equal((line.Total + line.Reduction).Amount, line.Leaves.Sum(l => l.Allocated.Amount));
                    var read = Read(line.Line);
                    var before = (read.List + read.Answers) * read.Quantity + read.Once;
                    if (read.Room is { } room)
                        Assert.True(before - (line.Total + line.Reduction).Amount * 100 <= room * read.Quantity);
                    Assert.True((line.Total + line.Reduction).Amount >= 0);
                }
            },
            iter: 5_000
        );

    /// <summary>Law: splitting a line in two never changes an all-units total across the product (without once surcharges).</summary>
    [Fact]
    public void Splitting_a_line_changes_no_all_units_total_across_the_product() =>
        RandomRules.Cases.Sample(
            c =>
            {
                ImmutableArray<PriceRule> bands =
                [
                    .. c.Rules.Where(r => r.Effect is PriceEffect.Bands { Mode: BandMode.AllUnits, AcrossProduct: true }),
                ];
                var lines = c.Lines.Select(l => l with { Answers = Configuration.Empty }).ToImmutableArray();
                var halves = lines.SelectMany(l =>
                    l.Quantity == 1
                        ? [l]
                        : new[] { l with { Quantity = l.Quantity / 2 }, l with { Quantity = l.Quantity - l.Quantity / 2 } }
                );
                var (whole, split) = (c with { Lines = lines, Rules = bands }, c with { Lines = [.. halves], Rules = bands });
                Assert.Equal(Priced(whole).Subtotal, Priced(split).Subtotal);
            },
            iter: 5_000
        );

    /// <summary>Lowest and highest are those of listing every configuration.</summary>
    [Fact]
    public void Lowest_and_highest_are_those_of_all_configurations() =>
        RandomRules.Cases.Sample(
            c =>
            {
                var edition = c.Editions[0];
                var range = new PublishedRange.Of(c.Editions);
                var stock = new StockOutlook(_ => new StockLevel(1000, 0, 0, 0), new DateOnly(2027, 3, 1));
                var terms = new ConfigurationTerms(range, stock, Under(c.Rules), 1 + c.Lines.Length);
                var status = ConfigurationStatus.Of(edition, Configuration.Empty, Filling.None, terms);
                var marks = edition.Product.Extras[0].Values.Select(v => v.Key).ToList();
                var all =
                    from variant in edition.Matrix.Variants
                    from ticks in new ImmutableArray<Key>[] { [], [marks[0]], [marks[1]], [.. marks] }
                    let answers = ticks.IsEmpty ? Configuration.Empty : Configuration.Empty.With(Key.Of("mark"), new Answer.Ticks(ticks))
                    let goods = new VariantOnSale(edition, variant)
                    let line = new RunLine(goods, answers, terms.Quantity, [new LeafNeed(LeafPath.Own, goods, 1, "")], "P1")
                    select PriceRun.Of([line], terms.Run, range).Basket!.Lines[0].Unit.Amount;
                var units = all.ToList();
                Assert.Equal((units.Min(), units.Max()), (status.Price!.Lowest.Amount, status.Price.Highest.Amount));
                Assert.Equal(units.Min(), status.Lowest!.Value.Amount);
            },
            iter: 4_000
        );

    /// <summary>The worked figure of section 5: 30 % off a list price of 200.00 that must not fall below 153.60, with answers of
    /// 30.00.</summary>
    [Fact]
    public void The_floor_gives_back_what_is_beyond_the_room()
    {
        var product = new Product(ProductCode.Of("P1"), "P")
        {
            Base = Figures.None with { Price = Sample.Eur(200), Cost = Sample.Eur(96) },
            Floor = new Percentage(25),
            Extras =
            [
                new Option(Key.Of("mark"), "Mark", OptionRole.Extra)
                {
                    Ask = Ask.YesNo,
                    Values = [new OptionValue(Key.Of("yes"), "Yes")],
                    Surcharge = new Surcharge.PerUnit(Sample.Eur(30)),
                },
            ],
        };
        var edition = RandomRules.Edition(product, 1);
        var goods = new VariantOnSale(edition, edition.Matrix.Variants[0]);
        var answers = Configuration.Empty.With(Key.Of("mark"), new Answer.Value(Key.Of("yes")));
        var rule = new PriceRule(Key.Of("spring"), "Spring prices", new PriceEffect.Reduce(30, null));
        var line = PriceRun
            .Of([new RunLine(goods, answers, 2, [new LeafNeed(LeafPath.Own, goods, 1, "")])], Under([rule]), PublishedRange.Empty)
            .Basket!.Lines[0];
        Assert.Equal(
            [("list", "200.00"), ("answer", "30.00"), ("unit", "-69.00"), ("floor", "22.60")],
            line.Working.Steps.Select(s => (BasketDocument.Step(s.Step), s.Amount.ToString()))
        );
        Assert.Equal(("183.60", "367.20"), (line.Unit.ToString(), line.Total.ToString()));
    }

    /// <summary>All-units and incremental discounts by the textbook definitions, with figures of our own (from memory).</summary>
    [Theory]
    [InlineData(BandMode.AllUnits, 9, "90.00")]
    [InlineData(BandMode.AllUnits, 10, "90.00")]
    [InlineData(BandMode.AllUnits, 50, "400.00")]
    [InlineData(BandMode.Incremental, 9, "90.00")]
    [InlineData(BandMode.Incremental, 10, "99.00")]
    [InlineData(BandMode.Incremental, 50, "458.00")]
    public void Bands(BandMode mode, int quantity, string total)
    {
        var effect = new PriceEffect.Bands(mode, false, [new BandRow(10, 900, null), new BandRow(50, 800, null)]);
        Assert.Equal(total, Total(effect, quantity));
    }

    [Theory]
    [InlineData(4, "40.00")]
    [InlineData(9, "85.00")]
    [InlineData(10, "80.00")]
    [InlineData(17, "145.00")]
    public void Packs_are_filled_the_largest_first(int quantity, string total) =>
        Assert.Equal(total, Total(new PriceEffect.Packs([new Pack(10, 8_000), new Pack(5, 4_500)]), quantity));

    private static string Total(PriceEffect effect, int quantity)
    {
        var product = new Product(ProductCode.Of("P1"), "P") { Base = Figures.None with { Price = Sample.Eur(10) } };
        var edition = RandomRules.Edition(product, 1);
        var goods = new VariantOnSale(edition, edition.Matrix.Variants[0]);
        var line = new RunLine(goods, Configuration.Empty, quantity, [new LeafNeed(LeafPath.Own, goods, 1, "")]);
        return PriceRun.Of([line], Under([new PriceRule(Key.Of("r"), "R", effect)]), PublishedRange.Empty).Basket!.Total.ToString();
    }

    [Fact]
    public void A_rule_that_is_written_is_read_back_the_same() =>
        RandomRules.Cases.Sample(
            c =>
            {
                foreach (var rule in c.Rules)
                {
                    var faults = new List<Fault>();
                    using var json = JsonDocument.Parse(PriceRuleWriter.Write(rule).ToJsonString());
                    var read = new PriceRuleReader(Currency.Euro).Rule(new Node(json.RootElement, "#", faults));
                    Assert.Empty(faults);
                    Assert.Equal(PriceRuleWriter.Write(rule).ToJsonString(), PriceRuleWriter.Write(read!).ToJsonString());
                }
            },
            iter: 1_000
        );

    [Theory]
    [InlineData("""{"reduce":{"percent":"101"}}""", "#/effect/reduce/percent")]
    [InlineData("""{"reduce":{"percent":"0"}}""", "#/effect/reduce/percent")]
    [InlineData("""{"reduce":{"percent":"12,5"}}""", "#/effect/reduce/percent")]
    [InlineData("""{"reduce":{"amount":"-3.00"}}""", "#/effect/reduce/amount")]
    [InlineData("""{"reduce":{}}""", "#/effect/reduce")]
    [InlineData("""{"bands":{"mode":"all-units","rows":[{"from":1,"unit":"9.00"}]}}""", "#/effect/bands/rows/0/from")]
    [InlineData(
        """{"bands":{"mode":"all-units","rows":[{"from":9,"unit":"9.00"},{"from":5,"unit":"8.00"}]}}""",
        "#/effect/bands/rows/1/from"
    )]
    [InlineData("""{"packs":[{"units":1,"total":"9.00"}]}""", "#/effect/packs/0/units")]
    [InlineData("""{"cheapestOff":{"inEvery":3,"units":3,"percent":"100"}}""", "#/effect/cheapestOff/units")]
    [InlineData("""{"setUnit":"1.00","reduce":{"percent":"5"}}""", "#/effect")]
    public void An_effect_that_cannot_be_is_refused_where_it_stands(string effect, string where) =>
        Assert.Contains(where, Faults($$"""{"key":"x","effect":{{effect}}}"""));

    [Theory]
    [InlineData(""","combine":"alone","effect":{"packs":[{"units":2,"total":"9.00"}]}""", "#/combine")]
    [InlineData(""","when":{"basketAtLeast":"5.00"},"effect":{"setUnit":"1.00"}""", "#/when/basketAtLeast")]
    [InlineData(""","when":{"from":"2027-02-30T00:00:00Z"},"effect":{"setUnit":"1.00"}""", "#/when/from")]
    [InlineData(""","when":{"from":"2027-03-02T00:00:00Z","until":"2027-03-01T00:00:00Z"},"effect":{"setUnit":"1.00"}""", "#/when/until")]
    [InlineData(""","when":{"weekdays":["monday"]},"effect":{"setUnit":"1.00"}""", "#/when/weekdays/0")]
    [InlineData(""","states":"on","effect":{"setUnit":"1.00"}""", "#/states")]
    public void A_rule_that_cannot_be_is_refused_where_it_stands(string rest, string where) =>
        Assert.Contains(where, Faults($$"""{"key":"x"{{rest}}}"""));

    private static IEnumerable<string> Faults(string json)
    {
        var faults = new List<Fault>();
        using var document = JsonDocument.Parse(json);
        new PriceRuleReader(Currency.Euro).Rule(new Node(document.RootElement, "#", faults));
        return faults.Select(f => f.Where);
    }
}
