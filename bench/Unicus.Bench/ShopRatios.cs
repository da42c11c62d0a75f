using System.Diagnostics;
using System.Text;
using System.Text.Json;

namespace Unicus.Bench;

/// <summary>The shop's pages and answers, over HTTP and in the core.</summary>
internal static class ShopRatios
{
    public static async Task Run(HttpClient client)
    {
        var (empty, page) = await Rates(() => client.GetAsync("/bench/empty"), () => client.GetAsync("/p/garden-hive"));
        Report.Row(
            "shop product page (demo hive), requests per second",
            page,
            "empty page in the same frame",
            empty,
            page / empty,
            "at least 0.5"
        );
        var picked = """{"answers":{"depth":"deep"},"quantity":2}""";
        var (empty2, configure) = await Rates(
            () => client.GetAsync("/bench/empty"),
            () =>
                client.PostAsync(
                    "/api/v1/products/GH1/configure?edition=latest",
                    new StringContent(picked, Encoding.UTF8, "application/json")
                )
        );
        Report.Row(
            "configure over HTTP (demo hive), requests per second",
            configure,
            "empty page in the same frame",
            empty2,
            configure / empty2,
            "at least 0.3"
        );

        using var document = JsonDocument.Parse(
            new StreamReader(typeof(Program).Assembly.GetManifestResourceStream("hive.json")!).ReadToEnd()
        );
        var hive = DocumentReader.Read(document.RootElement, Currency.Euro).Product!;
        var matrix = hive.Matrix();
        var configurator = new Configurator(hive, matrix);
        // Answers that were not asked for just before: an answer is kept until another is asked for.
        var walk = PickTimes.Walk(configurator, 5_000);
        var at = 0;
        Configuration Next() => walk[at++ % walk.Count];
        var answer = Micros(() => configurator.Answer(Next()));
        var listing = Micros(() => Listing(hive, Next()));
        Report.Row(
            "answer to a pick in the core (demo hive), microseconds",
            answer,
            "listing all combinations anew for each value",
            listing,
            answer / listing,
            ""
        );
    }

    /// <summary>Rates of two kinds of request in turn, so that a slow spell of the machine falls on both; medians of five
    /// rounds.</summary>
    private static async Task<(double Baseline, double Measured)> Rates(
        Func<Task<HttpResponseMessage>> baseline,
        Func<Task<HttpResponseMessage>> measured
    )
    {
        await Rate(baseline, 4);
        await Rate(measured, 4);
        var (first, second) = (new List<double>(), new List<double>());
        for (var round = 0; round < 5; round++)
        {
            first.Add(await Rate(baseline, 1.2));
            second.Add(await Rate(measured, 1.2));
        }
        return (first.Order().ElementAt(2), second.Order().ElementAt(2));
    }

    private static async Task<double> Rate(Func<Task<HttpResponseMessage>> send, double seconds)
    {
        var clock = Stopwatch.StartNew();
        var counts = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(async _ =>
                {
                    var n = 0;
                    while (clock.Elapsed.TotalSeconds < seconds)
                    {
                        using var reply = await send();
                        reply.EnsureSuccessStatusCode();
                        await reply.Content.ReadAsByteArrayAsync();
                        n++;
                    }
                    return n;
                })
        );
        return counts.Sum() / clock.Elapsed.TotalSeconds;
    }

    private static double Micros(Action work)
    {
        for (var i = 0; i < 2000; i++)
            work();
        var rounds = Enumerable
            .Range(0, 7)
            .Select(_ =>
            {
                var clock = Stopwatch.StartNew();
                for (var i = 0; i < 5000; i++)
                    work();
                return clock.Elapsed.TotalMicroseconds / 5000;
            });
        return rounds.Order().ElementAt(3);
    }

    /// <summary>What a program would do that knows nothing better: for each value, look for a combination that has it.</summary>
    private static int Listing(Product product, Configuration answers)
    {
        var made = new MadeSet(product.Options, product.NotMade);
        var all = made.Made().Select(made.At).ToList();
        var picked = answers.Given.Where(a => product.Options.Any(o => o.Key == a.Question)).ToList();
        return product.Options.Sum(o =>
            o.Values.Count(v =>
                all.Any(c => c[o.Key] == v.Key && picked.All(a => a.Question == o.Key || c[a.Question] == ((Answer.Value)a.Answer).Key))
            )
        );
    }
}
