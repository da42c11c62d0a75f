using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Nodes;
using CsCheck;

namespace Unicus.CoreTests;

/// <summary>What is written is read back the same, every field drawn.</summary>
public class RoundTripTests
{
    private static Node Root(JsonNode json, List<Fault> faults) => new(JsonSerializer.SerializeToElement(json), "#", faults);

    private static PriceEffect Effect(Random random) =>
        random.Next(10) switch
        {
            0 => new PriceEffect.Reduce(random.Next(1, 1000) / 10m, null),
            1 => new PriceEffect.Reduce(null, random.Next(1, 9_999)),
            2 => new PriceEffect.SetUnit(random.Next(9_999)),
            3 => new PriceEffect.SetBySku(ImmutableSortedDictionary<string, long>.Empty.Add("A-1", random.Next(9_999)).Add("B-2", 0)),
            4 => new PriceEffect.Bands(
                (BandMode)random.Next(2),
                random.Next(2) == 0,
                [new BandRow(2, random.Next(9_999), null), new BandRow(3 + random.Next(9), null, 12.5m)]
            ),
            5 => new PriceEffect.Packs([new Pack(9, random.Next(9_999)), new Pack(2, 1)]),
            6 => new PriceEffect.CheapestOff(2 + random.Next(5), 1, 100),
            7 => new PriceEffect.ReduceBasket(random.Next(1, 100), null),
            8 => new PriceEffect.ReduceBasket(null, random.Next(1, 9_999)),
            _ => new PriceEffect.ReduceDelivery(random.Next(1, 101)),
        };

    private static PriceRule Rule(Random random)
    {
        bool One(int of) => random.Next(of) == 0;
        ImmutableArray<string> Some(params string[] all) => [.. all.Where(_ => One(3))];
        var effect = Effect(random);
        DateTimeOffset? from = One(2) ? new DateTimeOffset(2027, 3, random.Next(1, 28), random.Next(24), 0, 0, TimeSpan.Zero) : null;
        return new PriceRule(Key.Of($"rule-{random.Next(100)}"), "Spring “prices”", effect)
        {
            Scope = new PriceScope
            {
                Products = Some("GH1", "SUIT"),
                Skus = Some("GH1-D-CE", "SMK"),
                Categories = Some("Hives", "Gifts & more"),
                Tags = Some("new", "Ärmel"),
                Where = One(3) ? new Condition.Is(Key.Of("timber"), [Key.Of("pine"), Key.Of("cedar")]) : null,
                Through = One(4) ? "COOP" : null,
            },
            When = new PriceWhen
            {
                From = from,
                Until = One(2) ? (from ?? new DateTimeOffset(2027, 3, 1, 0, 0, 0, TimeSpan.Zero)).AddDays(random.Next(1, 99)) : null,
                Weekdays = One(3) ? [DayOfWeek.Monday, DayOfWeek.Sunday] : [],
                QuantityAtLeast = One(3) ? 1 + random.Next(9) : null,
                BasketAtLeast = effect.Stage > PriceStage.CheapestOff && One(2) ? random.Next(9_999) : null,
                CustomerGroups = One(3) ? [Key.Of("club"), Key.Of("trade")] : [],
                Coupon = One(3) ? "May 5" : null,
                Coupons = One(5) ? Key.Of("letters") : null,
            },
            Combine = effect.Stage is PriceStage.Unit or PriceStage.Basket or PriceStage.Delivery ? (Combine)random.Next(3) : Combine.Best,
            Priority = random.Next(200),
            Limits = new RuleLimits(One(2) ? 1 : null, One(2) ? 1 + random.Next(3) : null),
            State = One(2) ? RuleState.Draft : RuleState.On,
            ReachesSets = One(2),
        };
    }

    /// <summary>Law: a rule is read back with each of its fields, and written again as the same text.</summary>
    [Fact]
    public void A_price_rule_is_read_back_as_it_was() =>
        Gen.Int.Sample(
            seed =>
            {
                var rule = Rule(new Random(seed));
                // A word and a list of codes exclude each other.
                if (rule.When is { Coupon: not null, Coupons: not null })
                    return;
                var (written, faults) = (PriceRuleWriter.Write(rule), new List<Fault>());
                var read = new PriceRuleReader(Currency.Euro).Rule(Root(written, faults));
                Assert.Empty(faults);
                Assert.True(rule.Scope.IsSame(read!.Scope), written.ToJsonString());
                Assert.True(rule.When.IsSame(read.When), written.ToJsonString());
                Assert.Equal(
                    (rule.Key, rule.Name, rule.Combine, rule.Priority, rule.Limits),
                    (read.Key, read.Name, read.Combine, read.Priority, read.Limits)
                );
                Assert.Equal((rule.State, rule.ReachesSets), (read.State, read.ReachesSets));
                Assert.Equal(written.ToJsonString(), PriceRuleWriter.Write(read).ToJsonString());
            },
            iter: 2_000
        );

    /// <summary>Law: terms of selling likewise; <em>off for now</em> without a day is not the same as not off.</summary>
    [Fact]
    public void Terms_of_selling_are_read_back_as_they_were() =>
        Gen.Int.Sample(
            seed =>
            {
                var random = new Random(seed);
                bool One() => random.Next(2) == 0;
                SellBeyond[] beyond =
                [
                    new SellBeyond.Nothing(),
                    new SellBeyond.OnOrder(),
                    new SellBeyond.Unlimited(),
                    new SellBeyond.Units(7),
                ];
                var selling = new Selling
                {
                    Counted = One() ? One() : null,
                    Beyond = One() ? beyond[random.Next(4)] : null,
                    OffForNow = One() ? new OffForNow(One() ? new DateOnly(2027, 5, 3) : null) : null,
                    Shipped = One() ? One() : null,
                    MinimumQuantity = One() ? 1 + random.Next(5) : null,
                    MaximumPerOrder = One() ? 5 + random.Next(5) : null,
                    AfterOrderNote = One() ? "Feed on Friday." : null,
                };
                var faults = new List<Fault>();
                var read = SellingDocument.Write(selling) is { } json ? SellingDocument.Read(Root(json, faults)) : Selling.Inherited;
                Assert.Empty(faults);
                Assert.Equal(selling, read);
            },
            iter: 300
        );

    /// <summary>Law: a shared set is read back with what it reaches, its extras of every kind and its rules; answers to them
    /// likewise.</summary>
    [Fact]
    public void A_shared_set_of_extras_and_answers_to_it_are_read_back_as_they_were() =>
        Gen.Int.Sample(
            seed =>
            {
                var random = new Random(seed);
                ImmutableArray<Option> extras = [.. Enumerable.Range(0, 2 + random.Next(4)).Select(i => RandomExtras.Extra(random, i))];
                var rule = new SelectionRule(
                    Key.Of("r"),
                    new Condition.Answered(extras[0].Key),
                    [random.Next(2) == 0 ? new Effect.Require([extras[^1].Key]) : new Effect.Hide([extras[^1].Key])]
                )
                {
                    Off = random.Next(3) == 0,
                };
                var set = new ExtraSet(
                    Key.Of("gifts"),
                    "Gifts",
                    random.Next(2) == 0,
                    random.Next(2) == 0 ? ["Hives", "Tools"] : [],
                    extras,
                    random.Next(2) == 0 ? [rule] : []
                );
                var written = ExtraSetDocument.Write(set);
                var (read, faults) = ExtraSetDocument.Read(JsonSerializer.SerializeToElement(written), Currency.Euro);
                Assert.Empty(faults);
                Assert.Equal((set.Key, set.Name, set.Everything), (read!.Key, read.Name, read.Everything));
                Assert.True(set.Categories.SequenceEqual(read.Categories));
                Assert.True(set.Extras.SequenceEqual(read.Extras), written.ToJsonString());
                Assert.Equal(written.ToJsonString(), ExtraSetDocument.Write(read).ToJsonString());

                var given = extras.Aggregate(Configuration.Empty, (all, e) => all.With(e.Key, RandomExtras.Answer(random, e)));
                var answers = AnswerDocument.Write(given, extras);
                var wrong = new List<Fault>();
                var again = AnswerDocument.Read(Root(answers, wrong), extras, new DateOnly(2027, 3, 1));
                Assert.Empty(wrong);
                Assert.Equal(given.Given.Select(g => g.Question), again.Given.Select(g => g.Question));
                Assert.Equal(answers.ToJsonString(), AnswerDocument.Write(again, extras).ToJsonString());
            },
            iter: 2_000
        );

    /// <summary>For every reader: an unknown field, a needed one that is missing, a key that stands twice.</summary>
    [Theory]
    [InlineData("""{ "key": "r", "name": "R", "effect": { "setUnit": "1.00" }, "colour": 1 }""", "#/colour")]
    [InlineData("""{ "key": "r", "effect": { "setUnit": "1.00", "more": 1 } }""", "#/effect")]
    [InlineData("""{ "key": "r", "effect": { "setUnit": "1.00" }, "scope": { "colour": 1 } }""", "#/scope/colour")]
    [InlineData("""{ "key": "r", "effect": { "setUnit": "1.00" }, "when": { "colour": 1 } }""", "#/when/colour")]
    [InlineData("""{ "key": "r", "effect": { "setUnit": "1.00" }, "limits": { "colour": 1 } }""", "#/limits/colour")]
    [InlineData("""{ "key": "r" }""", "#/effect")]
    public void What_is_wrong_in_a_price_rule_is_told_at_its_pointer(string json, string pointer)
    {
        var faults = new List<Fault>();
        new PriceRuleReader(Currency.Euro).Rule(Root(JsonNode.Parse(json)!, faults));
        Assert.Contains(faults, f => f.Where.StartsWith(pointer, StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("""{ "lines": [ { "product": "A", "quantity": 1 } ], "colour": 1 }""", "#/colour")]
    [InlineData("""{ "lines": [ { "product": "A", "quantity": 1, "colour": 1 } ] }""", "#/lines/0/colour")]
    [InlineData("""{ "lines": [ { "quantity": 1 } ] }""", "#/lines/0")]
    [InlineData("{}", "#/lines")]
    public void What_is_wrong_in_a_basket_is_told_at_its_pointer(string json, string pointer)
    {
        var (_, faults) = BasketRequest.Read(Root(JsonNode.Parse(json)!, []));
        Assert.Contains(faults, f => f.Where.StartsWith(pointer, StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("""{ "key": "s", "name": "S", "colour": 1 }""", "#/colour")]
    [InlineData("""{ "name": "S" }""", "#/key")]
    [InlineData("""{ "key": "s", "name": "S", "options": [ { "key": "a", "label": "A", "role": "variant" } ] }""", "#/options")]
    public void What_is_wrong_in_a_shared_set_is_told_at_its_pointer(string json, string pointer)
    {
        var (_, faults) = ExtraSetDocument.Read(JsonSerializer.SerializeToElement(JsonNode.Parse(json)), Currency.Euro);
        Assert.Contains(faults, f => f.Where.StartsWith(pointer, StringComparison.Ordinal));
    }
}
