using System.Diagnostics;

namespace Unicus.Bench;

/// <summary>The page of a set with very many positions, which must grow no worse than with them, and what others notice of it.</summary>
internal static class PositionRatios
{
    private const int Levels = 8;

    public static async Task Run(HttpClient client)
    {
        await Publish(client, """{ "format": "unicus-product/1", "code": "NST0", "name": "Nested 0", "base": { "price": "1.00" } }""", 0);
        for (var level = 1; level <= Levels; level++)
            await Publish(client, Nested(level), level);
        var (small, large) = (await Page(client, "/p/nested-6"), await Page(client, $"/p/nested-{Levels}"));
        Report.Row("page of a set of 256 leaves in eight levels, ms", large, "of 64 leaves in six", small, large / small, "at most 4");

        var alone = await Page(client, "/p/garden-hive");
        using var over = new CancellationTokenSource();
        var reader = Task.Run(async () =>
        {
            while (!over.IsCancellationRequested)
                (await client.GetAsync($"/p/nested-{Levels}")).EnsureSuccessStatusCode();
        });
        var meanwhile = await Page(client, "/p/garden-hive");
        await over.CancelAsync();
        await reader;
        Report.Row("page of the demo hive while another reads that set's, ms", meanwhile, "alone", alone, meanwhile / alone, "at most 2");
    }

    /// <summary>Two of the level below.</summary>
    private static string Nested(int level) =>
        $$"""
            { "format": "unicus-product/1", "code": "NST{{level}}", "name": "Nested {{level}}",
              "parts": { "sold": "together", "price": { "rule": "sum" }, "slots": [
                { "key": "a", "label": "A", "of": [ { "product": "NST{{level - 1}}" } ] },
                { "key": "b", "label": "B", "of": [ { "product": "NST{{level - 1}}" } ] } ] } }
            """;

    private static async Task Publish(HttpClient client, string document, int level)
    {
        using var body = new StringContent(document, System.Text.Encoding.UTF8, "application/json");
        (await client.PutAsync($"/api/v1/products/NST{level}", body)).EnsureSuccessStatusCode();
        using var published = await client.PostAsync($"/api/v1/products/NST{level}/publish", null);
        published.EnsureSuccessStatusCode();
    }

    /// <summary>The median of eleven, after three.</summary>
    private static async Task<double> Page(HttpClient client, string path)
    {
        var times = new List<double>();
        for (var i = 0; i < 14; i++)
        {
            var watch = Stopwatch.StartNew();
            using var reply = await client.GetAsync(path);
            reply.EnsureSuccessStatusCode();
            await reply.Content.ReadAsStringAsync();
            if (i >= 3)
                times.Add(watch.Elapsed.TotalMilliseconds);
        }
        return times.Order().ElementAt(times.Count / 2);
    }
}
