using System.Diagnostics;
using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Npgsql;

namespace Unicus.Bench;

/// <summary>What many and large products take.</summary>
internal static partial class RangeRatios
{
    /// <summary>Every product's page and as many different answers with percentages, once each, twice over.</summary>
    private static async Task Memory(Served many)
    {
        var before = many.Memory();
        await Visit(many);
        var once = many.Memory();
        await Visit(many);
        var twice = many.Memory();
        Report.Row(
            "growth by 20,000 product pages and 20,000 answers, MB",
            once - before,
            "limit",
            500,
            (once - before) / 500,
            "at most 1"
        );
        Report.Row("growth when done again, MB", twice - once, "the first growth", once - before, (twice - once) / (once - before), "flat");
    }

    private static async Task Visit(Served many)
    {
        await Parallel.ForEachAsync(Enumerable.Range(1, Many), new ParallelOptions { MaxDegreeOfParallelism = 4 }, async (i, stop) =>
        {
            using var page = await many.Client.GetAsync($"/p/b-{i}", stop);
            page.EnsureSuccessStatusCode();
            var size = new[] { "s", "m", "l" }[i % 3];
            var answers = $$"""{"answers":{"size":"{{size}}","finish":"wax"},"quantity":{{1 + i % 900}}}""";
            using var reply = await many.Client.PostAsync(
                $"/api/v1/products/B{i}/configure?edition=latest",
                new StringContent(answers, Encoding.UTF8, "application/json"),
                stop
            );
            reply.EnsureSuccessStatusCode();
        });
    }

    /// <summary>The start page with one product of 100,000 stocked variants against the same shop before it.</summary>
    private static async Task WithLarge(Served few)
    {
        var before = new List<double>();
        for (var i = 0; i < Rounds; i++)
            before.Add(await few.Time("/"));
        static string Values(string key, int count)
        {
            var values = Enumerable.Range(0, count).Select(v => $$"""{ "key": "v{{v}}", "label": "V{{v}}", "sku": "{{v}}" }""");
            return $$"""{ "key": "{{key}}", "label": "{{key}}", "role": "variant", "values": [{{string.Join(',', values)}}] }""";
        }
        string Variants(Func<int, string> rest) =>
            string.Join(
                ',',
                Enumerable
                    .Range(0, 100_000)
                    .Select(i =>
                        $$"""{ "values": { "a": "v{{i / 10_000}}", "b": "v{{i / 100 % 100}}", "c": "v{{i % 100}}" }{{rest(i)}} }"""
                    )
            );
        string Body(string variants) =>
            $$"""
                { "format": "unicus-product/1", "code": "WIDE", "name": "Wide", "withoutSets": ["gift-wrapping"],
                  "base": { "price": "5.00" },
                  "options": [ {{Values("a", 10)}}, {{Values("b", 100)}}, {{Values("c", 100)}} ], "variants": [ {{variants}} ] }
                """;
        async Task<double> Put(string variants)
        {
            var clock = Stopwatch.StartNew();
            using var put = await few.Client.PutAsync(
                "/api/v1/products/WIDE",
                new StringContent(Body(variants), Encoding.UTF8, "application/json")
            );
            put.EnsureSuccessStatusCode();
            return clock.Elapsed.TotalMilliseconds;
        }
        var without = await Put(Variants(_ => ""));
        (await few.Client.DeleteAsync("/api/v1/products/WIDE")).EnsureSuccessStatusCode();
        var with = await Put(Variants(i => $", \"stock\": {1 + i % 9}"));
        Report.Row("PUT of 100,000 variants with stock, ms", with, "the same without", without, with / without, "at most 3");
        (await few.Client.PostAsync("/api/v1/products/WIDE/publish", null)).EnsureSuccessStatusCode();
        await few.Time("/");
        var after = new List<double>();
        for (var i = 0; i < Rounds; i++)
            after.Add(await few.Time("/"));
        Report.Row(
            "start page with one product of 100,000 stocked variants, ms",
            Median(after),
            "without it",
            Median(before),
            Median(after) / Median(before),
            "at most 1.5"
        );
    }
}
