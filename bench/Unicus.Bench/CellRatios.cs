using System.Diagnostics;
using System.Text;

namespace Unicus.Bench;

/// <summary>One cell of a product with 12 variants, 10 extras and 6 rules, until head, spine and proof stand as well, against an earlier
/// commit that is served beside it. There these came in two replies more.</summary>
internal static class CellRatios
{
    private const int Rounds = 240;
    private const string Code = "CELL";

    public static async Task Run(HttpClient client, HttpClient earlier)
    {
        var (token, before) = (await Prepare(client), await Prepare(earlier));
        var (now, then, cellThen) = (new List<double>(), new List<double>(), new List<double>());
        for (var i = 0; i < Rounds; i++)
        {
            cellThen.Add(await Type(earlier, before, 20 + (i % 50)));
            then.Add(cellThen[^1] + await Get(earlier, "matrix?handler=Around") + await Get(earlier, "proof"));
            now.Add(await Type(client, token, 20 + (i % 50)));
        }
        Report.Row(
            "type one cell (12 variants, 10 extras, 6 rules), until head, spine and proof stand, ms",
            Median(now),
            "commit 7e890d5 in turn",
            Median(then),
            Median(now) / Median(then),
            "at most 0.5"
        );
        Report.Row("the same", Median(now), "there the cell alone", Median(cellThen), Median(now) / Median(cellThen), "");
    }

    private static async Task<double> Get(HttpClient client, string what)
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, $"/office/products/{Code}/{what}");
        request.Headers.Add("HX-Request", "true");
        var clock = Stopwatch.StartNew();
        using var reply = await client.SendAsync(request);
        reply.EnsureSuccessStatusCode();
        await reply.Content.ReadAsStringAsync();
        return clock.Elapsed.TotalMilliseconds;
    }

    private static async Task<string> Prepare(HttpClient client)
    {
        using var put = await client.PutAsync($"/api/v1/products/{Code}", new StringContent(Document(), Encoding.UTF8, "application/json"));
        put.EnsureSuccessStatusCode();
        return await OfficeRatios.SignIn(client);
    }

    private static string Document()
    {
        static string Values(string key, int count) =>
            string.Join(
                ',',
                Enumerable.Range(1, count).Select(v => $$"""{ "key": "{{key}}{{v}}", "label": "{{key}} {{v}}", "sku": "{{key}}{{v}}" }""")
            );
        var extras = Enumerable
            .Range(1, 10)
            .Select(e =>
                $$"""{ "key": "x{{e}}", "label": "Extra {{e}}", "role": "extra", "ask": "one", "values": [ {{Values($"e{e}", 3)}} ] }"""
            );
        var rules = Enumerable
            .Range(1, 6)
            .Select(r =>
                $$"""
                    { "key": "r{{r}}", "when": { "option": "x{{r}}", "is": ["e{{r}}1"] },
                      "then": { "forbid": { "x{{r + 1}}": ["e{{r + 1}}2"] } } }
                    """
            );
        return $$"""
            { "format": "unicus-product/1", "code": "{{Code}}", "name": "Cell", "withoutSets": ["gift-wrapping"],
              "base": { "price": "20.00", "cost": "8.00" },
              "options": [
                { "key": "a", "label": "A", "role": "variant", "values": [ {{Values("a", 3)}} ] },
                { "key": "b", "label": "B", "role": "variant", "values": [ {{Values("b", 4)}} ] },
                {{string.Join(',', extras)}} ],
              "rules": [ {{string.Join(',', rules)}} ] }
            """;
    }

    private static async Task<double> Type(HttpClient client, string token, int price)
    {
        var edits = $$"""[{"values":"a=a1,b=b1","figure":"price","text":"{{price}}","was":null}]""";
        using var request = new HttpRequestMessage(HttpMethod.Post, $"/office/products/{Code}/matrix?handler=Cells&view=rows");
        request.Content = new FormUrlEncodedContent([new("edits", edits)]);
        request.Headers.Add("X-Unicus-Token", token);
        var clock = Stopwatch.StartNew();
        using var reply = await client.SendAsync(request);
        reply.EnsureSuccessStatusCode();
        var body = await reply.Content.ReadAsStringAsync();
        var took = clock.Elapsed.TotalMilliseconds;
        return body.Contains($"{price}.00", StringComparison.Ordinal)
            ? took
            : throw new InvalidOperationException($"The reply does not show {price}.00: {body[..Math.Min(400, body.Length)]}");
    }

    /// <summary>Of the second half; by then both are warm.</summary>
    private static double Median(List<double> times) => times.Skip(Rounds / 2).Order().ElementAt(Rounds / 4);
}
