using System.Diagnostics;
using System.Globalization;
using System.Text.RegularExpressions;

namespace Unicus.Bench;

/// <summary>The back office over HTTP: opening a very large matrix against a small one, typing a cell, and the memory that
/// takes.</summary>
internal static partial class OfficeRatios
{
    private const int Rounds = 45;
    private const int WarmUp = 15;

    public static async Task Run(HttpClient client, string large, string small, string cell)
    {
        var token = await SignIn(client);
        var before = Memory();
        foreach (var view in new[] { "rows", "grid" })
        {
            var (little, much) = (new List<double>(), new List<double>());
            for (var i = 0; i < Rounds; i++)
            {
                little.Add(await Time(() => client.GetAsync($"/office/products/{small}/matrix?view={view}")));
                much.Add(await Time(() => client.GetAsync($"/office/products/{large}/matrix?view={view}")));
            }
            Report.Row(
                $"open the {view} of 100,000 variants, ms",
                Median(much),
                "of 12 variants, in turn",
                Median(little),
                Median(much) / Median(little),
                "at most 3"
            );
        }
        var price = 20m;
        var edits = new List<double>();
        for (var i = 0; i < Rounds; i++)
            edits.Add(
                await Time(() =>
                {
                    var body = new FormUrlEncodedContent([
                        new("edits", $$"""[{"values":"{{cell}}","figure":"price","text":"{{price += 1}}","was":null}]"""),
                    ]);
                    var request = new HttpRequestMessage(HttpMethod.Post, $"/office/products/{large}/matrix?handler=Cells&view=rows")
                    {
                        Content = body,
                    };
                    request.Headers.Add("X-Unicus-Token", token);
                    return client.SendAsync(request);
                })
            );
        var edit = Median(edits);
        Report.Row("type one cell of 100,000 variants, ms", edit, "limit", 100, edit / 100, "at most 1");
        if (before is { } b && Memory() is { } after)
            Report.Row("growth of the process while opening and typing, MB", after - b, "limit", 200, (after - b) / 200, "at most 1");
    }

    /// <summary>Signs in and gives the token that forms need.</summary>
    public static async Task<string> SignIn(HttpClient client)
    {
        var page = await client.GetStringAsync("/office/sign-in");
        using var reply = await client.PostAsync(
            "/office/sign-in?handler=Demo",
            new FormUrlEncodedContent([new("__RequestVerificationToken", Field().Match(page).Groups[1].Value)])
        );
        reply.EnsureSuccessStatusCode();
        return Meta().Match(await client.GetStringAsync("/office/range")).Groups[1].Value;
    }

    private static async Task<double> Time(Func<Task<HttpResponseMessage>> send)
    {
        var clock = Stopwatch.StartNew();
        using var reply = await send();
        reply.EnsureSuccessStatusCode();
        await reply.Content.ReadAsByteArrayAsync();
        return clock.Elapsed.TotalMilliseconds;
    }

    /// <summary>The median once the first rounds have warmed the way.</summary>
    private static double Median(List<double> times) => times.Skip(WarmUp).Order().ElementAt((times.Count - WarmUp) / 2);

    /// <summary>The resident memory of the application in megabytes, where bench/run says which process it is.</summary>
    private static double? Memory()
    {
        if (Environment.GetEnvironmentVariable("UNICUS_PID") is not { } pid)
            return null;
        var line = File.ReadLines($"/proc/{pid}/status").First(l => l.StartsWith("VmRSS", StringComparison.Ordinal));
        return double.Parse(Digits().Match(line).Value, CultureInfo.InvariantCulture) / 1024;
    }

    [GeneratedRegex("""name="__RequestVerificationToken" type="hidden" value="([^"]+)""")]
    private static partial Regex Field();

    [GeneratedRegex("""name="unicus-token" content="([^"]+)""")]
    private static partial Regex Meta();

    [GeneratedRegex("[0-9]+")]
    private static partial Regex Digits();
}
