using System.Text.Json;
using Unicus.Store;

namespace Unicus.Demo;

/// <summary>The price rules of the demo shop: past, running, planned and a draft; its customer groups and codes. Dates are counted from
/// the day of the first start.</summary>
internal static class DemoPrices
{
    /// <summary>Makes groups, codes and rules.</summary>
    /// <param name="today">The start of the shop's day.</param>
    public static async Task Make(Func<DateTimeOffset, ChangePriceRules> at, Coupons coupons, Actor by, DateTimeOffset today)
    {
        var rules = at(today.AddDays(-65));
        await rules.PutGroup(Key.Of("club"), "Skep club members", "SMOKE-RING");
        await rules.PutGroup(Key.Of("schools"), "School apiaries", null);
        await coupons.Put(Key.Of("summer-fair"), [.. Enumerable.Range(1, 40).Select(i => $"FAIR-{1000 + i * 37}")]);
        var spring = new DateTime(today.Year + (today.Month > 2 ? 1 : 0), 3, 1);
        foreach (var json in Rules(today, spring))
        {
            using var document = JsonDocument.Parse(json);
            var faults = new List<Fault>();
            var rule = new PriceRuleReader(Currency.Euro).Rule(new Node(document.RootElement, "#", faults));
            var outcome = rule is null ? null : await rules.Put(rule, by);
            if (outcome?.Done != true)
                throw new InvalidOperationException(string.Join(' ', faults.Concat(outcome?.Faults ?? []).Select(f => f.What)));
        }
    }

    private static IEnumerable<string> Rules(DateTimeOffset today, DateTime spring)
    {
        string Day(int days) => Moment(today.AddDays(days).UtcDateTime);
        string Local(DateTime at) => Moment(TimeZoneInfo.ConvertTimeToUtc(at, TimeZoneInfo.FindSystemTimeZoneById("Europe/Dublin")));
        yield return $$"""
            { "key": "jars-by-the-case", "name": "Jars by the case", "scope": { "products": ["JAR"] }, "when": { "from": "{{Day(-62)}}" },
              "effect": { "bands": { "mode": "all-units", "across": "product",
                "rows": [ { "from": 12, "percent": "6" }, { "from": 40, "percent": "12" } ] } } }
            """;
        yield return $$"""
            { "key": "club-hives", "name": "Club price", "scope": { "categories": ["Hives"] },
              "when": { "customerGroups": ["club"] }, "effect": { "reduce": { "percent": "5" } }, "combine": "adds" }
            """;
        yield return """
            { "key": "burren", "name": "Burren beekeepers", "scope": { "through": "COOP" },
              "effect": { "reduce": { "percent": "6" } }, "combine": "adds" }
            """;
        yield return $$"""
            { "key": "skep", "name": "Seven off", "when": { "from": "{{Day(-31)}}", "until": "{{Day(61)}}", "coupon": "SKEP",
                "basketAtLeast": "80.00" },
              "effect": { "reduceBasket": { "amount": "7.00" } }, "combine": "adds", "limits": { "perBuyer": 1 } }
            """;
        yield return $$"""
            { "key": "summer-fair", "name": "Fair visitors", "when": { "from": "{{Day(-10)}}", "coupons": "summer-fair" },
              "effect": { "reduceBasket": { "percent": "10" } } }
            """;
        yield return $$"""
            { "key": "spring", "name": "Spring prices", "scope": { "products": ["SMK", "SUIT", "FD1", "FD2", "FD4"] },
              "when": { "from": "{{Local(spring)}}", "until": "{{Local(spring.AddMonths(1))}}" },
              "effect": { "reduce": { "percent": "15" } } }
            """;
        yield return $$"""
            { "key": "glove-weeks", "name": "Glove weeks", "scope": { "products": ["GLV"] },
              "when": { "from": "{{Day(-12)}}", "until": "{{Day(19)}}" }, "effect": { "reduce": { "percent": "12" } } }
            """;
        yield return $$"""
            { "key": "third-tool", "name": "The third tool free", "scope": { "products": ["HT"] },
              "when": { "from": "{{Local(spring.AddDays(45))}}", "until": "{{Local(spring.AddDays(72))}}" },
              "effect": { "cheapestOff": { "inEvery": 3, "units": 1, "percent": "100" } } }
            """;
        yield return """
            { "key": "school-frames", "name": "Frames for schools", "scope": { "products": ["FRM"] },
              "when": { "customerGroups": ["schools"] }, "effect": { "setUnit": "1.70" }, "combine": "alone", "state": "draft" }
            """;
        yield return $$"""
            { "key": "hive-weeks", "name": "Hive weeks",
              "scope": { "categories": ["Hives"], "where": { "option": "timber", "is": ["pine"] } },
              "when": { "from": "{{Day(-60)}}", "until": "{{Day(-33)}}" }, "effect": { "reduce": { "percent": "10" } } }
            """;
    }

    private static string Moment(DateTime at) => at.ToString("yyyy-MM-dd'T'HH:mm:ss'Z'");
}
