using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

/// <summary>Coupons, codes that work once, and limits of rules.</summary>
public class CouponTests(Database db) : PriceRuleShop(db)
{
    /// <summary>64 parallel orders for a coupon with 10 uses left: exactly 10 succeed.</summary>
    [Fact]
    public async Task A_coupon_is_used_as_often_as_it_may_be_and_no_more()
    {
        await Publish("LIM", "10.00", 500);
        await Put(
            """
            { "key": "lim", "effect": { "reduceBasket": { "amount": "1.00" } }, "when": { "coupon": "Ten" }, "limits": { "inAll": 10 },
              "scope": { "products": ["LIM"] } }
            """
        );
        var placed = await Task.WhenAll(Enumerable.Range(0, 64).Select(i => Place(Basket("LIM", 1, "TEN"), $"b{i}@example.org")));
        Assert.Equal(10, placed.Count(p => p.Order is not null));
        Assert.All(placed.Where(p => p.Order is null), p => Assert.Equal("TEN is used up.", p.UsedUp.Single().Text));
        Assert.All(placed.Where(p => p.Order is not null), p => Assert.Equal(9m, p.Order!.Total.Amount));
        // Cancelling gives a use back, and taking the cancelling back takes it again.
        var number = placed.First(p => p.Order is not null).Order!.Number;
        Assert.True((await Db.Use<EndOrder, Outcome>(e => e.Cancel(number, "Changed their mind", Tester))).Done);
        Assert.NotNull((await Place(Basket("LIM", 1, "ten"), "late@example.org")).Order);
        Assert.Null((await Place(Basket("LIM", 1, "ten"), "later@example.org")).Order);
    }

    [Fact]
    public async Task A_code_works_once_and_comes_back_when_its_order_is_cancelled()
    {
        await Publish("ONCE", "10.00", 50);
        var list = await Db.Use<Coupons, Outcome<CouponList>>(c => c.Put(Key.Of("fair"), ["a-1", "A-1", " b-2 ", "c-3"]));
        Assert.Equal((3, 0), (list.Result!.Codes, list.Result.Used));
        await Put(
            """
            { "key": "fair", "effect": { "reduceBasket": { "percent": "50" } }, "when": { "coupons": "fair" },
              "scope": { "products": ["ONCE"] } }
            """
        );
        var both = await Task.WhenAll(Place(Basket("ONCE", 1, "a-1")), Place(Basket("ONCE", 1, "A-1")));
        var order = Assert.Single(both, p => p.Order is not null).Order!;
        Assert.Equal("a-1 was used already.", Assert.Single(both, p => p.Order is null).UsedUp.Single().Text, ignoreCase: true);
        Assert.Equal(5m, order.Total.Amount);
        Assert.True((await Db.Use<EndOrder, Outcome>(e => e.Cancel(order.Number, "No", Tester))).Done);
        Assert.NotNull((await Place(Basket("ONCE", 1, "a-1"))).Order);
        var again = await Db.Use<EndOrder, Outcome>(e => e.Reinstate(order.Number, Tester));
        Assert.Contains("used by another order", again.Faults[0].What, StringComparison.Ordinal);
        // Codes that were used stay when the list is replaced.
        Assert.Equal(
            (2, 1),
            await Db.Use<Coupons, (int, int)>(async c =>
                (await c.Put(Key.Of("fair"), ["d-4"])).Result is { } l ? (l.Codes, l.Used) : default
            )
        );
    }

    [Fact]
    public async Task A_buyer_uses_a_rule_as_often_as_a_buyer_may()
    {
        await Publish("EACH", "100.00", 50);
        await Put(
            """
            { "key": "each", "effect": { "reduceBasket": { "amount": "7.00" } }, "when": { "coupon": "SKEP", "basketAtLeast": "80.00" },
              "limits": { "perBuyer": 1 }, "scope": { "products": ["EACH"] } }
            """
        );
        Assert.Equal(93m, (await Place(Basket("EACH", 1, "skep"), "a@example.org")).Order!.Total.Amount);
        Assert.Equal("skep is used up.", (await Place(Basket("EACH", 1, "skep"), "A@Example.org")).UsedUp.Single().Text);
        Assert.NotNull((await Place(Basket("EACH", 1, "skep"), "c@example.org")).Order);
    }

    /// <summary>A use that was given back is taken again only while there are uses left.</summary>
    [Fact]
    public async Task Taking_a_cancelling_back_keeps_the_limits_of_a_rule()
    {
        await Publish("LAST", "100.00", 50);
        await Put(
            """
            { "key": "last", "effect": { "reduceBasket": { "amount": "7.00" } }, "when": { "coupon": "LASTONE" }, "limits": { "inAll": 1 },
              "scope": { "products": ["LAST"] } }
            """
        );
        var first = (await Place(Basket("LAST", 1, "lastone"), "a@example.org")).Order!;
        Assert.True((await Db.Use<EndOrder, Outcome>(e => e.Cancel(first.Number, "Changed their mind", Tester))).Done);
        Assert.Equal(93m, (await Place(Basket("LAST", 1, "lastone"), "b@example.org")).Order!.Total.Amount);
        var back = await Db.Use<EndOrder, Outcome>(e => e.Reinstate(first.Number, Tester));
        Assert.Contains("is used up meanwhile", Assert.Single(back.Faults).What, StringComparison.Ordinal);
        Assert.True(await Db.Use<ChangePriceRules, bool>(r => r.Delete("last")));
    }

    /// <summary>Compatible signs, letter case and a dot at the end make no other buyer.</summary>
    [Theory]
    [InlineData("d@example.org", "D@EXAMPLE.org.")]
    [InlineData("e@example.org", "ｅ@ｅｘａｍｐｌｅ.org")]
    public async Task A_buyer_is_the_same_however_the_address_is_written(string one, string other)
    {
        await Publish("SAME", "100.00", 50);
        await Put(
            """
            { "key": "same", "effect": { "reduceBasket": { "amount": "7.00" } }, "when": { "coupon": "SAME" }, "limits": { "perBuyer": 1 },
              "scope": { "products": ["SAME"] } }
            """
        );
        Assert.Equal(93m, (await Place(Basket("SAME", 1, "same"), one)).Order!.Total.Amount);
        Assert.Equal("same is used up.", (await Place(Basket("SAME", 1, "same"), other)).UsedUp.Single().Text);
    }

    [Fact]
    public async Task Coupons_that_do_not_act_say_why()
    {
        await Publish("WHY", "10.00", 50);
        await Put(
            """
            { "key": "why", "effect": { "reduceBasket": { "amount": "7.00" } }, "when": { "coupon": "MAY", "basketAtLeast": "40.00" },
              "scope": { "products": ["WHY"] } }
            """
        );
        Assert.Equal(
            [("may", false, "may acts from 40.00; 30.00 so far."), ("june", false, "There is no coupon june.")],
            (await Priced(Basket("WHY", 3, "may", "june"))).Coupons.Select(c => (c.Code, c.Acts, c.Text))
        );
        Assert.Equal("-7.00", (await Priced(Basket("WHY", 4, "may"))).Reductions.Single().Amount.ToString());
    }
}
