using static Unicus.CoreTests.RuleTerms;

namespace Unicus.CoreTests;

/// <summary>Sets of very many positions, and of very many units.</summary>
public class PositionTests
{
    private static Edition Plain(string code, int id) =>
        Sample.OnSale(
            id,
            $$"""{ "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}", "base": { "price": "1.00", "cost": "0.40" } }"""
        );

    private static Edition Set(string code, int id, IEnumerable<string> slots) =>
        Sample.OnSale(
            id,
            $$"""
            { "format": "unicus-product/1", "code": "{{code}}", "name": "{{code}}",
              "parts": { "sold": "together", "price": { "rule": "sum" }, "slots": [ {{string.Join(',', slots)}} ] } }
            """
        );

    private static string Slot(int i, string code, string more = "") =>
        $$"""{ "key": "s{{i}}", "label": "S{{i}}", "of": [ { "product": "{{code}}" } ]{{more}} }""";

    private static ConfigurationTerms Around(PublishedRange range)
    {
        var terms = Under([new PriceRule(Key.Of("less"), "Less", new PriceEffect.Reduce(10, null))]);
        terms = terms with { Trade = terms.Trade with { Floor = new Percentage(10) } };
        return new ConfigurationTerms(range, new StockOutlook(_ => new StockLevel(1000, 0, 0, 0), new DateOnly(2027, 3, 1)), terms);
    }

    /// <summary>Two of two of two … and so on: 512 leaves in nine levels. With every slot filled, and the largest candidates.</summary>
    [Fact]
    public void Positions_are_counted_through_every_level()
    {
        var all = new List<Edition> { Plain("G", 1), Plain("H", 2) };
        var last = "G";
        for (var level = 1; level <= 9; level++)
        {
            all.Add(Set($"B{level}", 10 + level, [Slot(0, last), Slot(1, last)]));
            last = $"B{level}";
        }
        const string Choice = """
            { "key": "c", "label": "C", "optional": true, "picks": { "min": 0, "max": 2 },
              "of": [ { "product": "G" }, { "product": "B3" }, { "product": "B2" } ] }
            """;
        all.Add(Set("CHOICE", 50, [Choice, Slot(1, "H")]));
        var range = new PublishedRange.Of(all);
        Assert.Equal(512, SetPositions.Of(all[10].Product, range));
        Assert.Equal(8 + 4 + 1, SetPositions.Of(all[^1].Product, range));
        Assert.Equal(1, SetPositions.Of(all[0].Product, range));
    }

    /// <summary>256 of 256 of 256 of 256 are more than any number of units: nothing can be sold, and nothing fails.</summary>
    [Fact]
    public void Units_that_no_number_holds_are_not_sold()
    {
        var all = new List<Edition> { Plain("G", 1) };
        var last = "G";
        for (var level = 1; level <= 4; level++)
        {
            all.Add(Set($"Q{level}", 10 + level, [Slot(0, last, """, "quantity": { "min": 256, "max": 256 }""")]));
            last = $"Q{level}";
        }
        var around = Around(new PublishedRange.Of(all));
        var status = ConfigurationStatus.Of(all[^1], Configuration.Empty, Filling.Rest, around);
        Assert.Equal(0, SetCounts.Of(status)!.Most);
        Assert.False(status.Available!.CanSell(1));
        Assert.Null(status.Lowest);
    }
}
