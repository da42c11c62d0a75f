using System.Text.Json.Nodes;
using CsCheck;
using static Unicus.CoreTests.RuleTerms;

namespace Unicus.CoreTests;

/// <summary>Prices of sets and what is allocated to their leaves.</summary>
public class SetPriceTests
{
    private static (RunLine? Line, List<Fault> Faults) Complete(
        RandomSets range,
        string code,
        JsonObject answers,
        JsonObject parts,
        int quantity
    )
    {
        var faults = new List<Fault>();
        var request = new LineRequest(code, null, answers, quantity, null) { Parts = parts };
        var line = new LineCompletion(range.Range, new DateOnly(2027, 3, 1), Under([])).Complete(request, "#/lines/0", faults);
        return (line, faults);
    }

    /// <summary>Thousands of random sets within sets against a second reading of the text: price of a unit, total, and each leaf with its
    /// path, units and share; with a rule on the set and a floor.</summary>
    [Fact]
    public void Price_and_allocation_are_those_of_a_second_reading()
    {
        var priced = 0;
        Gen.Select(Gen.Int, Gen.Int[1, 4], Gen.Int[0, 40], Gen.Int[0, 3])
            .Sample(
                (seed, quantity, percent, margin) =>
                {
                    var range = new RandomSets(seed);
                    var code = $"S{1 + (seed & int.MaxValue) % 3}";
                    if (range.Picks(code) is not { } picks)
                        return;
                    var (line, faults) = Complete(range, code, picks.Answers, picks.Parts, quantity);
                    if (line is null)
                    {
                        // Chance may pick what a rule forbids.
                        Assert.All(faults, f => Assert.Matches("apart|cannot be had with these answers", f.With?.ToJsonString() ?? f.What));
                        return;
                    }
                    Interlocked.Increment(ref priced);
                    var rule = new PriceRule(Key.Of("less"), "Less", new PriceEffect.Reduce(percent + 1, null))
                    {
                        Scope = new PriceScope { Products = [code] },
                    };
                    var terms = Under([rule]);
                    terms = terms with { Trade = terms.Trade with { Floor = margin == 0 ? null : new Percentage(10 * margin) } };
                    var basket = PriceRun.Of([line], terms, range.Range).Basket!.Lines[0];

                    var reading = new SetReading(range.Docs);
                    var unit = reading.Set(code, picks.Parts);
                    var reduced = Math.Round(unit.List * (99 - percent) / 100, 2, MidpointRounding.AwayFromZero);
                    var floor = margin == 0 ? 0 : Math.Ceiling(unit.Cost * 120 / (100 - 10 * margin) * 100) / 100;
                    var price = Math.Max(reduced, Math.Min(unit.List, floor));
                    Assert.Equal(price, basket.Unit.Amount);
                    Assert.Equal(price * quantity + unit.Once, basket.Total.Amount);
                    Assert.Equal(basket.Total, basket.Working.Total);
                    if (basket.Leaves.Length > 0)
                        Assert.Equal(basket.Total, basket.Leaves.Select(l => l.Allocated).Sum(Currency.Euro));
                    // What is taken of stock are the same units, where nothing was made up ahead.
                    if (line.Needs.All(n => n.Goods.Edition.Product.Parts is null))
                        Assert.Equal(
                            basket.Leaves.Select(l => (l.Path.Text, l.Goods.Variant.Sku, l.Units)),
                            line.Needs.Select(n => (n.Path.Text, n.Goods.Variant.Sku, (long)n.PerUnit * quantity))
                        );
                    Assert.Equal(
                        reading.Shares(code, picks.Parts, quantity, basket.Total.Amount),
                        basket.Leaves.Select(l => new SetReading.Share(
                            l.Path.Text,
                            l.Goods.Variant.Sku.Text,
                            (int)l.Units,
                            l.Allocated.Amount
                        ))
                    );
                },
                iter: 3_000
            );
        Assert.True(priced > 1_000, $"only {priced} of them were priced");
    }

    /// <summary>The law: no picks cost less than the lowest or more than the highest price that is said, and where it is said to be
    /// exact, each end is reached by some picks of sets that are small enough to be picked at random.</summary>
    [Fact]
    public void No_picks_lie_outside_of_the_span() =>
        Gen.Int.Sample(
            seed =>
            {
                var range = new RandomSets(seed);
                var code = $"S{1 + (seed & int.MaxValue) % 3}";
                var terms = new ConfigurationTerms(range.Range, StockOutlook.Empty(new DateOnly(2027, 3, 1)), Under([]));
                if (ConfigurationStatus.Of(range[code], Configuration.Empty, Filling.None, terms).Price is not { } span)
                    return;
                for (var i = 0; i < 12; i++)
                    if (range.Picks(code) is { } picks && Complete(range, code, picks.Answers, picks.Parts, 1).Line is { } line)
                    {
                        var unit = PriceRun.Of([line], Under([]), range.Range).Basket!.Lines[0].Unit;
                        Assert.InRange(unit.Amount, span.Lowest.Amount, span.Highest.Amount);
                    }
            },
            iter: 400
        );

    /// <summary>A set that names a class is taxed by it whatever is in it, sets with a class of their own included (domain.md,
    /// section 6).</summary>
    [Theory]
    [InlineData("OUTER", "standard standard")]
    [InlineData("INNER", "reduced")]
    [InlineData("BARE", "reduced second")]
    public void The_outermost_class_that_is_named_counts_for_all_within(string code, string classes)
    {
        string Set(string name, string taxClass, string slots) =>
            $$"""
                { "format": "unicus-product/1", "code": "{{name}}", "name": "{{name}}", "parts": { {{taxClass}} "slots": [ {{slots}} ] } }
                """;
        string Slot(string name) => $$"""{ "key": "{{name.ToLowerInvariant()}}", "of": [ { "product": "{{name}}" } ] }""";
        string Goods(string name) =>
            $$"""
                { "format": "unicus-product/1", "code": "{{name}}", "name": "{{name}}",
                  "base": { "price": "10.00", "taxClass": "second" } }
                """;
        var range = new PublishedRange.Of([
            Sample.OnSale(1, Goods("A")),
            Sample.OnSale(2, Goods("B")),
            Sample.OnSale(3, Set("INNER", "\"taxClass\": \"reduced\",", Slot("A"))),
            Sample.OnSale(4, Set("OUTER", "\"taxClass\": \"standard\",", $"{Slot("INNER")}, {Slot("B")}")),
            Sample.OnSale(5, Set("BARE", "", $"{Slot("INNER")}, {Slot("B")}")),
        ]);
        var faults = new List<Fault>();
        var line = new LineCompletion(range, new DateOnly(2027, 3, 1), Under([])).Complete(
            new LineRequest(code, null, [], 1, null),
            "#",
            faults
        );
        Assert.Empty(faults);
        var leaves = PriceRun.Of([line!], Under([]), range).Basket!.Lines[0].Leaves;
        Assert.Equal(classes, string.Join(' ', leaves.Select(l => l.TaxClass)));
    }

    /// <summary>IFRS 15, Illustrative Example 33 (from memory): stand-alone 50, 25 and 75, sold for 100.</summary>
    [Fact]
    public void A_fixed_price_is_shared_out_as_in_the_standards_example()
    {
        var leaves = Fixed(100, 50, 25, 75);
        Assert.Equal([33.33m, 16.67m, 50.00m], leaves);
    }

    /// <summary>IFRS 15, Illustrative Example 34 (from memory): stand-alone 40, 55 and 45; the last two are regularly sold together for
    /// 60, all three for 100: the reduction belongs to those two only.</summary>
    [Fact]
    public void A_reduction_of_some_parts_stays_with_them_as_in_the_standards_example()
    {
        // The pair is a set of its own at 60, within the set of all.
        var pair = Edition("PAIR", 4, Slots("B", "C"), """{ "rule": "fixed", "amount": "60.00" }""");
        var all = Edition("ALL", 5, Slots("A", "PAIR"), """{ "rule": "sum" }""");
        var leaves = Price([Plain("A", 1, 40), Plain("B", 2, 55), Plain("C", 3, 45), pair, all], "ALL");
        Assert.Equal([40.00m, 33.00m, 27.00m], leaves);
    }

    private static IEnumerable<decimal> Fixed(decimal price, params decimal[] alone)
    {
        var goods = alone.Select((a, i) => Plain($"G{i}", i + 1, a)).ToList();
        var set = Edition(
            "SET",
            9,
            Slots([.. goods.Select(g => g.Product.Code.Text)]),
            $$"""{ "rule": "fixed", "amount": "{{price:0.00}}" }"""
        );
        return Price([.. goods, set], "SET");
    }

    private static IEnumerable<decimal> Price(IReadOnlyList<Edition> editions, string code)
    {
        var (range, faults) = (new PublishedRange.Of(editions), new List<Fault>());
        var line = new LineCompletion(range, default, Under([])).Complete(new LineRequest(code, null, [], 1, null), "#", faults);
        Assert.Empty(faults);
        return PriceRun.Of([line!], Under([]), range).Basket!.Lines[0].Leaves.Select(l => l.Allocated.Amount);
    }

    private static string Slots(params string[] codes) =>
        string.Join(",", codes.Select(c => $$"""{ "key": "{{c.ToLowerInvariant()}}", "of": [ { "product": "{{c}}" } ] }"""));

    private static Edition Plain(string code, int id, decimal price) =>
        Sample.OnSale(
            id,
            $$"""{ "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}", "base": { "price": "{{price:0.00}}" } }"""
        );

    private static Edition Edition(string code, int id, string slots, string price) =>
        Sample.OnSale(
            id,
            $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}",
              "parts": { "sold": "together", "price": {{price}}, "slots": [ {{slots}} ] } }
            """
        );
}
