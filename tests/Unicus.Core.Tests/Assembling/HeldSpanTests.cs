using System.Collections.Immutable;
using System.Text.Json.Nodes;
using CsCheck;

namespace Unicus.CoreTests;

/// <summary>The span and the lowest price of sets that a floor holds, against listing out every pick.</summary>
public class HeldSpanTests
{
    private static readonly TradeTerms Terms = new(
        Currency.Euro,
        true,
        [new TaxClass(Key.Of("standard"), "Standard"), new TaxClass(Key.Of("reduced"), "Reduced")],
        [new Destination("IE", "Ireland", ImmutableSortedDictionary<string, decimal>.Empty.Add("standard", 23).Add("reduced", 9), [])]
    );

    private static RunTerms Under(decimal? floor, params PriceRule[] rules) =>
        RuleTerms.Under(rules) with
        {
            Trade = Terms with { Floor = floor is { } margin ? new Percentage(margin) : null },
            Destination = Terms.Destinations[0],
        };

    /// <param name="mark">What an extra of it adds, and costs the merchant; null: it has none.</param>
    private static Edition Goods(
        string code,
        int id,
        decimal price,
        decimal? cost,
        string taxClass,
        (decimal Adds, decimal Costs)? mark = null
    )
    {
        var extra = mark is not var (adds, costs)
            ? ""
            : $$"""
                , "options": [ { "key": "mark", "label": "Mark", "role": "extra", "ask": "one", "values": [
                  { "key": "burnt", "label": "Burnt", "surcharge": { "amount": "{{adds:0.00}}" }, "cost": "{{costs:0.00}}" },
                  { "key": "waxed", "label": "Waxed", "surcharge": { "amount": "1.10" }, "cost": "0.15" } ] } ]
                """;
        return Sample.OnSale(
            id,
            $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}", "base": { "price": "{{price:0.00}}",
              "taxClass": "{{taxClass}}" {{(cost is { } c ? $", \"cost\": \"{c:0.00}\"" : "")}} }{{extra}} }
            """
        );
    }

    private static ConfiguredPrice Price(Edition set, PublishedRange range, RunTerms terms) =>
        ConfigurationStatus.Of(set, Configuration.Empty, Filling.None, Around(range, terms)).Price!;

    private static ConfigurationTerms Around(PublishedRange range, RunTerms terms) =>
        new(range, new StockOutlook(_ => new StockLevel(1000, 0, 0, 0), new DateOnly(2027, 3, 1)), terms);

    private static PriceRule Less(decimal percent) => new(Key.Of("less"), "Less", new PriceEffect.Reduce(percent, null));

    /// <summary>10.50 with a cost of 5.02 and 12.26 with one of 1.58, floor 60 %, 35.5 % off: 10.50 is held as it is;
    /// 12.26 may come down to 7.91. So the span is 7.91 to 10.50.</summary>
    [Fact]
    public void The_dearer_part_may_be_the_cheaper_set()
    {
        var set = Sample.OnSale(
            3,
            """
            { "format": "unicus-product/1", "code": "S", "name": "S", "parts": { "sold": "together", "price": { "rule": "sum" }, "slots": [
              { "key": "one", "label": "One", "of": [ { "product": "U1" }, { "product": "U0" } ] } ] } }
            """
        );
        var range = new PublishedRange.Of([Goods("U1", 1, 10.50m, 5.02m, "standard"), Goods("U0", 2, 12.26m, 1.58m, "reduced"), set]);
        var price = Price(set, range, Under(60, Less(35.5m)));
        Assert.Equal(("7.91", "10.50", true), (price.Lowest.ToString(), price.Highest.ToString(), price.IsExact));
        Assert.Equal(7.91m, ConfigurationStatus.From(set, Configuration.Empty, Around(range, Under(60, Less(35.5m))))!.Value.Amount);
    }

    /// <summary>A set that names a class is taxed by it whatever is in it, at its ends and in its lowest margin too: 20.00 with a cost of
    /// 8.00, seven tenths off, in a set that would be taxed by the reduced rate by itself.</summary>
    [Fact]
    public void The_outermost_class_holds_the_ends()
    {
        static Edition Of(string code, int id, string taxClass, string of) =>
            Sample.OnSale(
                id,
                $$"""
                { "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}", "parts": { "taxClass": "{{taxClass}}",
                  "sold": "together", "price": { "rule": "sum" }, "slots": [ { "key": "one", "label": "One", "of": [ {{of}} ] } ] } }
                """
            );
        var inner = Of("INNER", 3, "reduced", """{ "product": "U0" }""");
        var set = Of("S", 9, "standard", """{ "product": "INNER" }, { "product": "U1" }""");
        var range = new PublishedRange.Of([Goods("U0", 1, 20, 8, "reduced"), Goods("U1", 2, 30, 6, "reduced"), inner, set]);
        var held = Under(40, Less(70));
        var all = Picks(set, range).Select(p => UnitOf(set, new PartAnswers(p), range, held)).OfType<decimal>().ToList();
        var price = Price(set, range, held);
        // 8.00 is 60 % of 13.34 net, which is 16.40 with 23 % (14.54 with 9 %).
        Assert.Equal([12.30m, 16.40m], all.Order());
        Assert.Equal((12.30m, 16.40m), (price.Lowest.Amount, price.Highest.Amount));
        var lowest = new LowestMargin(Under(null, Less(70)), range).Of(set)!.Lowest!;
        // 6.00 is 4.88 net, 8.00 of it are cost.
        Assert.Equal(-64.0m, Math.Round(lowest.Margin!.Value, 1));
    }

    private static Edition Set(Random random)
    {
        var slots = new JsonArray();
        for (var i = 0; i < 1 + random.Next(3); i++)
        {
            var codes = Enumerable.Range(0, 4).OrderBy(_ => random.Next()).Take(1 + random.Next(3)).ToList();
            var slot = new JsonObject
            {
                ["key"] = $"slot-{i}",
                ["label"] = $"Slot {i}",
                ["of"] = new JsonArray([.. codes.Select(c => (JsonNode)new JsonObject { ["product"] = $"U{c}" })]),
                ["quantity"] = new JsonObject { ["min"] = 1, ["max"] = 1 + random.Next(2) },
            };
            if (codes.Count > 1 && random.Next(2) == 0)
                slot["picks"] = new JsonObject { ["min"] = 1 + random.Next(codes.Count), ["max"] = codes.Count };
            if (random.Next(3) == 0)
                slot["optional"] = true;
            if (random.Next(4) == 0)
                slot["reduce"] = new JsonObject { ["percent"] = "12.5" };
            slots.Add(slot);
        }
        var price = random.Next(3) == 0 ? """{ "rule": "sum", "reduce": { "percent": "7" } }""" : """{ "rule": "sum" }""";
        return Sample.OnSale(
            9,
            $$"""
            { "format": "unicus-product/1", "code": "S", "name": "S",
              "parts": { "sold": "together", "price": {{price}}, "slots": {{slots.ToJsonString()}} } }
            """
        );
    }

    /// <summary>Every way to answer the extras of several parts.</summary>
    private static IEnumerable<ImmutableArray<PartAnswer>> Answered(IEnumerable<PartAnswer> parts, PublishedRange range) =>
        parts.Aggregate((IEnumerable<ImmutableArray<PartAnswer>>)[ImmutableArray<PartAnswer>.Empty], (ways, part) =>
        {
            var extras = range.Product(part.Candidate.Text)!.Product.Extras;
            var answers = extras
                .SelectMany(q => q.Values.Select(v => Configuration.Empty.With(q.Key, new Answer.Value(v.Key))))
                .Prepend(Configuration.Empty);
            return ways.SelectMany(w => answers.Select(a => w.Add(part with { Answers = a })));
        });

    /// <summary>Every way to fill the slots from one on.</summary>
    private static IEnumerable<ImmutableDictionary<Key, ImmutableArray<PartAnswer>>> Picks(Edition set, PublishedRange range, int at = 0)
    {
        if (at == set.Slots.Length)
        {
            yield return ImmutableDictionary<Key, ImmutableArray<PartAnswer>>.Empty;
            yield break;
        }
        var slot = set.Slots[at];
        var (least, most) = slot.Slot.Picks is { } picks ? (Math.Max(1, picks.Min), slot.Candidates.Length) : (1, 1);
        foreach (var rest in Picks(set, range, at + 1))
            for (var bits = 0; bits < 1 << slot.Candidates.Length; bits++)
            {
                var picked = slot.Candidates.Where((_, i) => (bits >> i & 1) == 1).ToList();
                if (picked.Count == 0 ? !slot.Slot.Optional : picked.Count < least || picked.Count > most)
                    continue;
                for (var units = slot.Slot.Quantity.Min; units <= slot.Slot.Quantity.Max; units++)
                    foreach (
                        var parts in Answered(
                            picked.Select(c => new PartAnswer(c.Key, Configuration.Empty, units, PartAnswers.None)),
                            range
                        )
                    )
                        yield return rest.SetItem(slot.Slot.Key, parts);
            }
    }

    /// <summary>The law: lowest and highest, and the lowest that can be bought, are those of listing out every pick.</summary>
    [Fact]
    public void The_ends_are_those_of_every_pick()
    {
        var (looked, exact, moved) = (0, 0, 0);
        Gen.Int.Sample(
            seed =>
            {
                var random = new Random(seed);
                Edition[] goods =
                [
                    .. Enumerable
                        .Range(0, 4)
                        .Select(i =>
                            Goods(
                                $"U{i}",
                                i + 1,
                                2 + random.Next(2_000) / 100m,
                                random.Next(5) == 0 ? null : random.Next(900) / 100m,
                                random.Next(2) == 0 ? "standard" : "reduced",
                                random.Next(4) > 0 ? null : (random.Next(400) / 100m, random.Next(400) / 100m)
                            )
                        ),
                ];
                var set = Set(random);
                var range = new PublishedRange.Of([.. goods, set]);
                PriceEffect effect = random.Next(3) switch
                {
                    0 => new PriceEffect.Reduce(1 + random.Next(70), null),
                    1 => new PriceEffect.Reduce(null, 1 + random.Next(1_500)),
                    _ => new PriceEffect.SetUnit(300 + random.Next(2_500)),
                };
                var terms = Under(random.Next(70), new PriceRule(Key.Of("less"), "Less", effect));
                var all = Picks(set, range).Select(p => UnitOf(set, new PartAnswers(p), range, terms)).OfType<decimal>().ToList();
                if (all.Count == 0)
                    return;
                var price = Price(set, range, terms);
                Interlocked.Increment(ref looked);
                var from = ConfigurationStatus.From(set, Configuration.Empty, Around(range, terms))!.Value.Amount;
                // Where answers of parts cost the merchant something, the ends may be bounds, and say so.
                if (!price.IsExact)
                {
                    Assert.Contains(goods, g => !g.Product.Extras.IsEmpty);
                    Assert.True(price.Lowest.Amount <= all.Min() && price.Highest.Amount >= all.Max() && from <= all.Min());
                    return;
                }
                Interlocked.Increment(ref exact);
                Assert.Equal((all.Min(), all.Max()), (price.Lowest.Amount, price.Highest.Amount));
                Assert.Equal(all.Min(), from);
                if (all.Distinct().Count() > 2)
                    Interlocked.Increment(ref moved);
            },
            iter: 400
        );
        Assert.True(looked > 300 && exact > 150 && moved > 100, $"{looked} sets, {exact} exact, {moved} with several prices");
    }

    private static decimal? UnitOf(Edition set, PartAnswers parts, PublishedRange range, RunTerms terms)
    {
        var given = Configuration.Empty;
        foreach (var slot in set.Slots)
            if (slot.Question is { } question)
                given = given.With(
                    question.Key,
                    parts.BySlot[question.Key] switch
                    {
                        [] => new Answer.None(),
                        [var one] when question.Ask == Ask.One => new Answer.Value(one.Candidate),
                        var some => new Answer.Ticks([.. some.Select(p => p.Candidate)]),
                    }
                );
        var status = ConfigurationStatus.Of(set, given, Filling.Rest, Around(range, terms), parts);
        Assert.True(status.IsWhole);
        var line = new RunLine(new VariantOnSale(set, status.Variant!), status.Shown, 1, status.Needs.Value)
        {
            Assembled = status.Assembled,
        };
        return PriceRun.Of([line], terms with { WithoutDelivery = true }, range, trace: false).Basket?.Lines[0].Unit.Amount;
    }
}
