using System.Collections.Immutable;
using CsCheck;

namespace Unicus.CoreTests;

/// <summary>Random price rules, products and baskets.</summary>
internal static class RandomRules
{
    public static readonly string[] Codes = ["P1", "P2", "P3"];

    /// <summary>A case: the products on sale, the rules of the shop, and what lies in the basket.</summary>
    public sealed record Case(
        ImmutableArray<Edition> Editions,
        ImmutableArray<PriceRule> Rules,
        ImmutableArray<RunLine> Lines,
        bool Coupon
    );

    private static readonly Gen<decimal> Percent = Gen.OneOfConst(5m, 10m, 12.5m, 15m, 33.3333m, 50m, 100m);
    private static readonly Gen<long> Amount = Gen.Long[1, 3_000];

    private static readonly Gen<PriceEffect> Reduction = Gen.Bool.SelectMany(percent =>
        percent
            ? Percent.Select(p => (PriceEffect)new PriceEffect.Reduce(p, null))
            : Amount.Select(a => (PriceEffect)new PriceEffect.Reduce(null, a))
    );

    private static readonly Gen<BandRow> Row = Gen.Select(Gen.Int[0, 3], Gen.Bool, Amount, Percent)
        .Select((step, unit, price, percent) => new BandRow(step, unit ? price : null, unit ? null : percent));

    private static readonly Gen<PriceEffect> Bands = Gen.Select(Gen.Bool, Gen.Bool, Row.Array[1, 4])
        .Select(
            (all, across, rows) =>
            {
                var from = 2;
                return (PriceEffect)
                    new PriceEffect.Bands(
                        all ? BandMode.AllUnits : BandMode.Incremental,
                        across,
                        [.. rows.Select(r => r with { From = from += 1 + r.From }).Select(r => r with { From = r.From - 1 })]
                    );
            }
        );

    private static readonly Gen<PriceEffect> Packs = Gen.Select(Gen.Int[2, 4], Gen.Int[5, 9], Amount, Amount)
        .Select((small, large, a, b) => (PriceEffect)new PriceEffect.Packs([new Pack(large, b * large / 2), new Pack(small, a)]));

    private static readonly Gen<PriceEffect> Cheapest = Gen.Select(Gen.Int[2, 5], Gen.Int[1, 4], Percent)
        .Select((every, units, percent) => (PriceEffect)new PriceEffect.CheapestOff(every, Math.Min(units, every - 1), percent));

    private static readonly Gen<PriceEffect> Basket = Gen.Select(Gen.Bool, Percent, Amount)
        .Select((percent, p, a) => (PriceEffect)new PriceEffect.ReduceBasket(percent ? p : null, percent ? null : a));

    private static readonly Gen<PriceEffect> Effect = Gen.Frequency(
        (3, Reduction),
        (2, Amount.Select(a => (PriceEffect)new PriceEffect.SetUnit(a))),
        (1, Amount.Select(a => (PriceEffect)new PriceEffect.SetBySku(ImmutableSortedDictionary<string, long>.Empty.Add("P1-S-CE", a)))),
        (3, Bands),
        (1, Packs),
        (2, Cheapest),
        (3, Basket)
    );

    private static readonly Gen<PriceScope> Scope = Gen.Select(Gen.Int[0, 7], Gen.OneOfConst(Codes))
        .Select(
            (kind, code) =>
                kind switch
                {
                    0 or 1 => new PriceScope { Products = [code] },
                    2 => new PriceScope { Tags = ["warm"] },
                    3 => new PriceScope { Where = new Condition.Is(Key.Of("timber"), [Key.Of("pine")]) },
                    4 => new PriceScope { Skus = [$"{code}-S-CE", $"{code}-S-PI"] },
                    5 => new PriceScope { Through = "PAGE" },
                    _ => PriceScope.All,
                }
        );

    private static readonly Gen<PriceRule> Rule = Gen.Select(Effect, Scope, Gen.Int[0, 2], Gen.Int[0, 3], Gen.Int[0, 9], Gen.Int[0, 9])
        .Select(
            (effect, scope, combine, priority, quantity, other) =>
                new PriceRule(Key.Of("rule"), "Rule", effect)
                {
                    Scope = scope,
                    Combine = effect.Stage is PriceStage.Unit or PriceStage.Basket ? (Combine)combine : Combine.Best,
                    Priority = priority,
                    When = new PriceWhen
                    {
                        QuantityAtLeast = quantity < 3 ? quantity + 2 : null,
                        BasketAtLeast = effect.Stage == PriceStage.Basket && other < 4 ? 2_000 * other : null,
                        Coupon = other == 9 ? "May" : null,
                    },
                }
        );

    private static readonly Gen<Product> Goods = Gen.Select(
            Gen.Long[100, 5_000],
            Gen.Long[-80, 900],
            Gen.Int[0, 4],
            Gen.Int[0, 100],
            Gen.Long[-20, 300],
            Gen.Long[0, 500]
        )
        .Select(
            (price, pine, floor, cost, answer, once) =>
                new Product(ProductCode.Of("P1"), "P")
                {
                    Base = Figures.None with { Price = Cents(price), Cost = cost < 70 ? Cents(price * cost / 100) : null },
                    Tags = pine > 400 ? ["warm"] : [],
                    Floor = floor < 3 ? new Percentage(floor * 12.5m) : null,
                    Options =
                    [
                        Sample.Option("size", "s", "m"),
                        new Option(Key.Of("timber"), "Timber", OptionRole.Variant)
                        {
                            Values =
                            [
                                new OptionValue(Key.Of("cedar"), "Cedar") { SkuCode = "CE" },
                                new OptionValue(Key.Of("pine"), "Pine") { SkuCode = "PI", Surcharge = new Surcharge.PerUnit(Cents(pine)) },
                            ],
                        },
                    ],
                    Extras =
                    [
                        new Option(Key.Of("mark"), "Mark", OptionRole.Extra)
                        {
                            Ask = Ask.Several,
                            Values =
                            [
                                new OptionValue(Key.Of("each"), "Each") { Surcharge = new Surcharge.PerUnit(Cents(answer)) },
                                new OptionValue(Key.Of("once"), "Once") { Surcharge = new Surcharge.Once(Cents(once)) },
                            ],
                        },
                    ],
                }
        );

    private static readonly Gen<(int Product, int Variant, int Quantity, int Answers, bool Through)> Line = Gen.Select(
        Gen.Int[0, 2],
        Gen.Int[0, 3],
        Gen.Int[1, 12],
        Gen.Int[0, 3],
        Gen.Bool
    );

    /// <summary>One to six rules, three products of four variants, one to six lines.</summary>
    public static Gen<Case> Cases { get; } =
        Gen.Select(Goods.Array[3], Rule.Array[1, 6], Line.Array[1, 6], Gen.Bool)
            .Select(
                (goods, rules, lines, coupon) =>
                {
                    var editions = goods.Select((g, i) => Edition(g with { Code = ProductCode.Of(Codes[i]) }, i + 1)).ToImmutableArray();
                    ImmutableArray<PriceRule> named = [.. rules.Select((r, i) => r with { Key = Key.Of($"rule-{i}") })];
                    return new Case(editions, named, [.. lines.Select(l => Of(editions[l.Product], l))], coupon);
                }
            );

    /// <summary>A product that is on sale.</summary>
    public static Edition Edition(Product product, int id) => new(id, 1, DateTimeOffset.UnixEpoch, product, product.Matrix()) { Sets = [] };

    private static Money Cents(long cents) => MinorUnits.ToMoney(cents, Currency.Euro);

    private static RunLine Of(Edition edition, (int Product, int Variant, int Quantity, int Answers, bool Through) line)
    {
        var goods = new VariantOnSale(edition, edition.Matrix.Variants[line.Variant]);
        ImmutableArray<Key> ticks =
        [
            .. (line.Answers & 1) > 0 ? new[] { Key.Of("each") } : [],
            .. (line.Answers & 2) > 0 ? new[] { Key.Of("once") } : [],
        ];
        var answers = ticks.IsEmpty ? Configuration.Empty : Configuration.Empty.With(Key.Of("mark"), new Answer.Ticks(ticks));
        return new RunLine(goods, answers, line.Quantity, [new LeafNeed(LeafPath.Own, goods, 1, "")], line.Through ? "PAGE" : null);
    }
}
