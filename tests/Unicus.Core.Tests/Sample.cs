using System.Collections.Immutable;
using System.Text.Json;
using CsCheck;

namespace Unicus.CoreTests;

/// <summary>Things that several tests begin from.</summary>
internal static class Sample
{
    /// <summary>A product that is on sale, read from its document.</summary>
    public static Edition OnSale(int id, string json)
    {
        var (product, _, faults) = DocumentReader.Read(JsonDocument.Parse(json).RootElement, Currency.Euro);
        Assert.Empty(faults);
        return RandomRules.Edition(product!, id);
    }

    public static Money Eur(decimal amount) => new(amount, Currency.Euro);

    public static Option Option(string key, params string[] values) =>
        new(Key.Of(key), key, OptionRole.Variant)
        {
            Values = [.. values.Select(v => new OptionValue(Key.Of(v), v) { SkuCode = v[..Math.Min(2, v.Length)].ToUpperInvariant() })],
        };

    public static Combination Of(params string[] pairs) =>
        Combination.Of(pairs.Select(p => (Key.Of(p.Split('=')[0]), Key.Of(p.Split('=')[1]))));

    /// <summary>Terms in euro without taxes, destinations and rules.</summary>
    public static RunTerms Plain { get; } =
        new(new TradeTerms(Currency.Euro, true, [new TaxClass(Key.Of("standard"), "Standard")], []), null);

    /// <summary>The price of answers without any rules.</summary>
    public static ConfiguredPrice? Price(
        this Configurator configurator,
        Configuration given,
        int quantity,
        Func<string, PartFigures?> parts
    ) => configurator.Price(given, parts, null, (v, shown) => Working(configurator, v, shown, quantity, parts));

    /// <summary>A variant at its own list price, without a floor.</summary>
    internal static LineGoods Goods(MatrixVariant variant) => LineGoods.Of(variant, MinorUnits.Of(variant.Price.Figure!.Value), null);

    private static PriceWorking Working(
        Configurator configurator,
        MatrixVariant variant,
        Configuration shown,
        int quantity,
        Func<string, PartFigures?> parts
    )
    {
        var list = variant.Price.Figure!.Value;
        var options = configurator.Questions.Where(q => q.Role == OptionRole.Variant);
        var title = PriceCalculator.Title("Garden hive", variant.Values, options);
        var amounts = new AnswerPricing(configurator.Questions, parts).Amounts(shown, list);
        return LineRun.Start(Goods(variant), title, 0, quantity, amounts).Working();
    }

    /// <summary>The garden hive of domain.md: 184.00, timber pine −32.00, depth deep +8 %.</summary>
    public static Product Hive { get; } =
        new(ProductCode.Of("GH1"), "Garden hive")
        {
            Base = new Figures
            {
                Price = Eur(184),
                Cost = Eur(96.50m),
                WeightGrams = 11500,
            },
            Options =
            [
                Option("depth", "shallow", "deep") with
                {
                    Values =
                    [
                        new OptionValue(Key.Of("shallow"), "Shallow") { SkuCode = "S" },
                        new OptionValue(Key.Of("deep"), "Deep")
                        {
                            SkuCode = "D",
                            Surcharge = new Surcharge.Percent(new Percentage(8)),
                            Figures = new Figures { WeightGrams = 13200 },
                        },
                    ],
                },
                Option("timber", "cedar", "pine") with
                {
                    Values =
                    [
                        new OptionValue(Key.Of("cedar"), "Cedar") { SkuCode = "CE" },
                        new OptionValue(Key.Of("pine"), "Pine") { SkuCode = "PI", Surcharge = new Surcharge.PerUnit(Eur(-32)) },
                    ],
                },
            ],
        };

    /// <summary>Up to four options of up to four values, and up to six things not made, whole or in part.</summary>
    public static Gen<(ImmutableArray<Option> Options, ImmutableArray<Combination> NotMade)> Matrices { get; } =
        from sizes in Gen.Int[1, 4].Array[0, 4]
        let options = sizes.Select((n, i) => Option($"o{i}", [.. Enumerable.Range(0, n).Select(v => $"v{v}")])).ToImmutableArray()
        from picks in Gen.Int[-1, 3].Array[4].Array[0, 6]
        select (
            options,
            picks
                .Select(p =>
                    Combination.Of(
                        options
                            .Select((o, i) => (o, p[i]))
                            .Where(x => x.Item2 >= 0 && x.Item2 < x.o.Values.Length)
                            .Select(x => (x.o.Key, x.o.Values[x.Item2].Key))
                    )
                )
                .Where(c => c.Pairs.Length > 0)
                .ToImmutableArray()
        );

    /// <summary>Every combination, listed out the plain way.</summary>
    public static List<Combination> All(IEnumerable<Option> options) =>
        options.Aggregate(new List<Combination> { Combination.Empty }, (list, o) =>
            [.. list.SelectMany(c => o.Values.Select(v => c.With(o.Key, v.Key)))]
        );
}
