using System.Collections.Immutable;
using System.Text.Json;

namespace Unicus.CoreTests;

/// <summary>Which rules are in force, what is said of them and of coupons.</summary>
public class PriceBookTests
{
    private static readonly TimeZoneInfo Dublin = TimeZoneInfo.FindSystemTimeZoneById("Europe/Dublin");

    private static readonly TradeTerms Trade = new(Currency.Euro, true, [new TaxClass(Key.Of("standard"), "Standard")], []);

    private static PriceRule Rule(string rest)
    {
        var faults = new List<Fault>();
        using var json = JsonDocument.Parse($$"""{ "key": "rule", "name": "Rule", {{rest}} }""");
        var rule = new PriceRuleReader(Currency.Euro).Rule(new Node(json.RootElement, "#", faults));
        Assert.Empty(faults);
        return rule!;
    }

    private static Edition Hive(Product? hive = null) => RandomRules.Edition(hive ?? Sample.Hive with { Categories = ["Hives"] }, 1);

    private static PricedBasket Basket(RuleContext buying, int quantity = 2, Product? hive = null)
    {
        var edition = Hive(hive);
        var goods = new VariantOnSale(edition, edition.Matrix.Variants[0]);
        var line = new RunLine(goods, Configuration.Empty, quantity, [new LeafNeed(LeafPath.Own, goods, 1, "")], "GH1");
        return PriceRun.Of([line], new RunTerms(Trade, null) { Buying = buying }, PublishedRange.Empty).Basket!;
    }

    private static RuleContext At(string moment, params PriceRule[] rules) =>
        new(DateTimeOffset.Parse(moment), Dublin)
        {
            Book = new PriceBook(rules, []) { Groups = [new CustomerGroup(Key.Of("club"), "Club members", "HONEY")] },
        };

    [Theory]
    [InlineData("""  "effect": { "reduce": { "percent": "12.5" } } """, "Everything cost 12.5 % less.")]
    [InlineData(
        """ "scope": { "products": ["GH1"], "where": { "option": "timber", "is": ["pine"] } }, "effect": { "setUnit": "99.00" } """,
        "Garden hive, timber pine cost 99.00."
    )]
    [InlineData(
        """
            "scope": { "categories": ["Hives", "Tools"] }, "when": { "customerGroups": ["club"], "quantityAtLeast": 3 },
              "effect": { "reduce": { "amount": "5.00" } }
            """,
        "For Club members, everything in Hives and Tools cost 5.00 less from 3 units."
    )]
    [InlineData(
        """ "effect": { "bands": { "mode": "incremental", "across": "product", "rows": [ { "from": 12, "unit": "9.20" } ] } } """,
        "Everything cost, each unit in its own band, 9.20 from 12, variants mixed."
    )]
    [InlineData(
        """ "scope": { "tags": ["tool"] }, "effect": { "cheapestOff": { "inEvery": 3, "units": 1, "percent": "100" } } """,
        "Of every 3 of everything tagged tool, the cheapest is free."
    )]
    [InlineData(
        """
            "when": { "coupon": "SKEP", "basketAtLeast": "80.00" }, "effect": { "reduceBasket": { "amount": "7.00" } },
              "limits": { "perBuyer": 1, "inAll": 100 }, "reachesSets": false
            """,
        "With the coupon SKEP, 7.00 less on baskets from 80.00, once a buyer, 100 times in all, not on sets."
    )]
    [InlineData(
        """ "when": { "weekdays": ["sat", "sun"] }, "effect": { "reduceDelivery": { "percent": "100" } } """,
        "Delivery is free on Saturday and Sunday."
    )]
    [InlineData(""" "effect": { "packs": [ { "units": 10, "total": "90.00" } ] } """, "Everything come in packs: 10 for 90.00.")]
    public void A_rule_is_a_sentence(string rest, string sentence)
    {
        var groups = new[] { new CustomerGroup(Key.Of("club"), "Club members", null) };
        var words = new PriceRuleWords(Dublin, code => code == "GH1" ? "Garden hive" : null, groups);
        Assert.Equal(sentence, words.Text(Rule(rest)));
    }

    [Theory]
    [InlineData(""" "from": "2027-03-01T00:00:00Z" """, "MAY acts from 1 March 2027.")]
    [InlineData(""" "until": "2027-01-01T00:00:00Z" """, "MAY ended on 1 January 2027.")]
    [InlineData(""" "weekdays": ["sun"] """, "MAY acts on Sunday only.")]
    [InlineData(""" "customerGroups": ["club"] """, "MAY is for Club members only.")]
    [InlineData(""" "quantityAtLeast": 5 """, "MAY acts from 5 pieces; 2 so far.")]
    [InlineData(""" "basketAtLeast": "1000.00" """, "MAY acts from 1,000.00; 368.00 so far.")]
    public void A_coupon_that_does_not_act_says_why(string when, string text)
    {
        var rule = Rule($$""" "when": { "coupon": "may", {{when}} }, "effect": { "reduceBasket": { "percent": "10" } } """);
        // A Monday.
        var buying = At("2027-02-01T12:00:00Z", rule) with { Coupons = [new NamedCoupon("MAY")] };
        Assert.Equal(new CouponReply("MAY", false, text), Assert.Single(Basket(buying).Coupons));
    }

    [Fact]
    public void A_coupon_for_other_goods_and_one_that_is_beaten_say_so()
    {
        var other = Rule(""" "scope": { "products": ["X"] }, "when": { "coupon": "MAY" }, "effect": { "setUnit": "1.00" } """);
        var beaten = Rule(""" "when": { "coupon": "MAY" }, "effect": { "reduce": { "percent": "5" } } """);
        var better = Rule(""" "effect": { "reduce": { "percent": "10" } } """) with { Key = Key.Of("better") };
        string Text(params PriceRule[] rules) =>
            Basket(At("2027-02-01T12:00:00Z", rules) with { Coupons = [new NamedCoupon("May")] }).Coupons[0].Text;
        Assert.Equal("May is for nothing that lies in the basket.", Text(other));
        Assert.Equal("May takes nothing off: another price is lower already.", Text(beaten, better));
    }

    [Fact]
    public void A_category_holds_what_is_in_those_below_it()
    {
        Category[] tree = [new(1, "Goods", null, null), new(2, "Hives", 1, null)];
        var rule = Rule(""" "scope": { "categories": ["goods"] }, "effect": { "reduce": { "percent": "10" } } """);
        Assert.Single(new PriceBook([rule], tree).Reaching(Hive()));
        Assert.Empty(new PriceBook([rule], []).Reaching(Hive()));
        Assert.Empty(new PriceBook([rule], tree).Reaching(Hive(Sample.Hive with { Categories = ["Tools"] })));
    }

    [Theory]
    [InlineData(""" "from": "2027-03-01T00:00:00Z", "until": "2027-04-01T00:00:00Z" """, "2027-03-01T00:00:00Z")]
    [InlineData(""" "until": "2027-04-01T00:00:00Z" """, "2027-04-01T00:00:00Z")]
    [InlineData(""" "until": "2026-04-01T00:00:00Z" """, null)]
    // The next midnight in Dublin, where summer time begins on 28 March 2027.
    [InlineData(""" "weekdays": ["mon"] """, "2027-02-02T00:00:00Z")]
    public void The_next_moment_at_which_other_rules_reach_a_product(string when, string? next)
    {
        var rule = Rule($$""" "when": { {{when}} }, "effect": { "reduce": { "percent": "10" } } """);
        var found = new PriceBook([rule], []).NextChange(Hive(), DateTimeOffset.Parse("2027-02-01T12:00:00Z"), Dublin);
        Assert.Equal(next is null ? null : DateTimeOffset.Parse(next), found);
    }

    [Fact]
    public void A_day_begins_at_its_first_hour_in_the_shops_zone()
    {
        Assert.Equal(DateTimeOffset.Parse("2027-06-30T23:00:00Z"), PriceBook.StartOfDay(new DateTime(2027, 7, 1), Dublin));
        // Cairo has no hour from 00:00 on the day when its summer time begins.
        var cairo = TimeZoneInfo.FindSystemTimeZoneById("Africa/Cairo");
        var gap = Enumerable.Range(0, 366).Select(d => new DateTime(2027, 1, 1).AddDays(d)).First(cairo.IsInvalidTime);
        Assert.Equal(TimeSpan.FromHours(3), TimeZoneInfo.ConvertTime(PriceBook.StartOfDay(gap, cairo), cairo).Offset);
    }

    /// <summary>Shoppers read what a rule moves, and never where the floor is.</summary>
    [Fact]
    public void What_the_floor_gives_back_is_part_of_the_rules_step_for_shoppers()
    {
        var rule = Rule(""" "effect": { "reduce": { "percent": "60" } } """);
        var hive = Sample.Hive with { Floor = new Percentage(25) };
        var line = Basket(At("2027-02-01T12:00:00Z", rule), hive: hive).Lines[0];
        Assert.Contains(line.Working.Steps, s => s.Step == PriceStep.Floor);
        var moved = Assert.Single(line.Working.Moved);
        Assert.Equal(("Rule", line.Unit - Sample.Eur(184)), (moved.Label, moved.Amount));
    }

    [Fact]
    public void A_rule_of_a_products_own_that_hits_nothing_is_pointed_out()
    {
        var rule = Rule(""" "scope": { "where": { "option": "size", "is": ["m"] } }, "effect": { "setUnit": "1.00" } """);
        var hive = Sample.Hive with { PriceRules = [rule with { Owner = "GH1", Name = "Spring" }] };
        var checks = ProductChecks.Look(hive, hive.Matrix(), Trade, ImmutableDictionary<Sku, StockLevel>.Empty);
        Assert.Contains(new ProductCheck(false, "The price rule Spring hits nothing: there is no option size.", Chapter.Prices), checks);
    }

    /// <summary>A rule that ends at the moment at which it begins never acts.</summary>
    [Theory]
    [InlineData("2027-05-01T00:00:00Z", true)]
    [InlineData("2027-05-02T00:00:00Z", false)]
    public void A_rule_that_ends_before_it_begins_is_pointed_out(string until, bool isPointedOut)
    {
        var from = DateTimeOffset.Parse("2027-05-01T00:00:00Z");
        var rule = Rule(""" "effect": { "reduce": { "percent": "10" } } """) with
        {
            State = RuleState.On,
            When = PriceWhen.Always with { From = from, Until = DateTimeOffset.Parse(until) },
        };
        var said = PriceRuleChecks.Look([rule]).Select(c => c.Text);
        Assert.Equal(isPointedOut, said.Any(w => w.Contains("never acts", StringComparison.Ordinal)));
    }

    /// <summary>A rule on values of two options touches no product that has only one of them.</summary>
    [Theory]
    [InlineData("timber", true)]
    [InlineData("size", false)]
    public void A_rule_touches_products_that_have_all_its_options(string other, bool isTouched)
    {
        var where = $$""" { "all": [ { "option": "depth", "is": ["deep"] }, { "option": "{{other}}", "is": ["cedar"] } ] } """;
        var rule = Rule($$""" "scope": { "where": {{where}} }, "effect": { "reduce": { "percent": "10" } } """);
        Assert.Equal(isTouched, ReachingRule.Touches(rule, RuleGoods.Of(Hive(), new HashSet<string>())));
    }

    /// <summary>What a variant costs through a page is asked with the rules of that page.</summary>
    [Theory]
    [InlineData("GROUP", 16_560)]
    [InlineData(null, 18_400)]
    public void A_price_through_a_page_knows_the_rules_of_it(string? through, long price)
    {
        var rule = Rule(""" "scope": { "through": "GROUP" }, "effect": { "reduce": { "percent": "10" } } """);
        var terms = new RunTerms(Trade, null) { Buying = At("2027-05-01T00:00:00Z", rule with { State = RuleState.On }) };
        var (edition, variant) = (Hive(), Hive().Matrix.Variants[0]);
        Assert.Equal(price, EditionPrices.Of(edition, terms, 1, through)?.Of(variant, 18_400) ?? 18_400);
    }
}
