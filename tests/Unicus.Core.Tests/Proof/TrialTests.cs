using CsCheck;

namespace Unicus.CoreTests;

/// <summary>Rules tried before they are switched on, against baskets.</summary>
public class TrialTests
{
    /// <summary>Law: what is tried of a variant is what a basket comes to that holds nothing else, whatever the rules, quantities and
    /// pages.</summary>
    [Fact]
    public void What_is_tried_is_what_a_basket_of_it_comes_to() =>
        Gen.Select(RandomRules.Cases, Gen.Int[1, 12], Gen.Bool)
            .Sample(
                (c, quantity, paged) =>
                {
                    var through = paged ? "PAGE" : null;
                    var buying = RuleContext.Anyone(DateTimeOffset.UnixEpoch, TimeZoneInfo.Utc, new PriceBook(c.Rules, []));
                    var then = Sample.Plain with { Buying = buying };
                    var range = new PublishedRange.Of(c.Editions);
                    foreach (var edition in c.Editions)
                    {
                        var all = new Trial(Sample.Plain, then, quantity, through).Of(edition).ToList();
                        var priced = edition.Matrix.Offered.Where(v => v.Price.Figure is not null);
                        Assert.Equal(priced.Select(v => v.Sku), all.Select(t => t.Goods.Variant.Sku));
                        foreach (var tried in all)
                        {
                            long Basket(RunTerms terms)
                            {
                                var needs = new LeafNeed(LeafPath.Own, tried.Goods, 1, "");
                                var line = new RunLine(
                                    tried.Goods,
                                    Configuration.Empty,
                                    quantity,
                                    [needs],
                                    through ?? edition.Product.Code.Text
                                );
                                return MinorUnits.Of(PriceRun.Of([line], terms, range, trace: false).Basket!.Total);
                            }
                            Assert.Equal((Basket(Sample.Plain), Basket(then)), (tried.Now, tried.Then));
                        }
                    }
                },
                iter: 2_000
            );

    /// <summary>A hive at 184.00 that cost 96.50, 20 % inside: 37.1 %, and with a tenth off 30.1 %.</summary>
    [Fact]
    public void The_margin_is_told_as_it_is_and_as_it_would_be()
    {
        var edition = RandomRules.Edition(Sample.Hive, 1);
        var tenth = new PriceRule(Key.Of("tenth"), "A tenth off", new PriceEffect.Reduce(10, null)) { State = RuleState.On };
        var tried = new Trial(RuleTerms.Under([]), RuleTerms.Under([tenth]), 1).Of(edition).First();
        Assert.Equal((37.1m, 30.1m), (Math.Round(tried.MarginNow!.Value, 1), Math.Round(tried.MarginThen!.Value, 1)));
    }
}
