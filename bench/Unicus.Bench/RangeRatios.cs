using System.Diagnostics;
using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Npgsql;

namespace Unicus.Bench;

/// <summary>A shop of 20,000 products and 240,000 variants against one of 20 products, page by page in turn.</summary>
internal static partial class RangeRatios
{
    private const int Many = 20_000;
    private const int Few = 6;
    private const int Rounds = 41;

    /// <summary>Fills both shops, starts an application for each, and compares them.</summary>
    /// <param name="small">The connection of a demo shop.</param>
    /// <param name="large">The connection of another one.</param>
    /// <param name="only">memory, or wide (one product of 100,000 variants), for that alone; null for all.</param>
    public static async Task Run(string small, string large, string? only)
    {
        await RangeShop.Fill(small, Few);
        if (only != "wide")
            await RangeShop.Fill(large, Many);
        if (only == "rule")
        {
            await using var alone = await Served.Start(large);
            await RuleStarts(alone, large);
            return;
        }
        if (only is "memory" or "wide")
        {
            await using var alone = await Served.Start(only == "wide" ? small : large);
            await (only == "wide" ? WithLarge(alone) : Memory(alone));
            return;
        }
        await Served.Start(small).AsTask().ContinueWith(s => s.Result.DisposeAsync().AsTask()).Unwrap();
        await using var few = await Served.Start(small);
        await using var many = await Served.Start(large);
        Report.Row(
            "start with 20,000 products to the first page, ms",
            many.StartedIn,
            "of 20 products",
            few.StartedIn,
            many.StartedIn / few.StartedIn,
            "at most 2"
        );
        await FirstAndSeen(few, many);
        await Compare("start page", "/", few, many, 2);
        await Compare("category", "/?category=tools", few, many, 2);
        await Compare("search with a slip", "/?q=hazle+jar", few, many, 2);
        await Compare("filter by size, in stock", "/?pick=size%3Dm&stock=yes", few, many, 2);
        await Compare("page 30 of the start page by price", "/?sort=price&p=30", few, many, 2);
        await few.SignIn();
        await many.SignIn();
        foreach (var sort in new[] { "name", "-price", "margin", "available", "state", "" })
            await Compare($"range sorted by {(sort.Length > 0 ? sort : "the last change")}", $"/office/range?sort={sort}", few, many, 2);
        await Compare("range, search", "/office/range?q=hazel+jar", few, many, 2);
        await Compare("all variants", "/office/variants", few, many, 2);
        await Compare("stock", "/office/stock", few, many, 2);
        await Compare("find", "/office/find?handler=List&q=hazel", few, many, 2);
        await Told(many, large);
        await RuleStarts(many, large);
        await Memory(many);
        await WithLarge(few);
    }

    private static async Task FirstAndSeen(Served few, Served many)
    {
        var (seenFew, seenMany, first) = (new List<double>(), new List<double>(), new List<double>());
        for (var i = 0; i < 80; i++)
            await many.Time($"/p/b-{5000 + i}");
        for (var i = 0; i < Rounds; i++)
        {
            seenFew.Add(await few.Time("/p/b-1"));
            seenMany.Add(await many.Time("/p/b-1"));
            first.Add(await many.Time($"/p/b-{100 + i * 7}"));
        }
        var baseline = Median(seenFew);
        Report.Row(
            "product page, seen before, ms",
            Median(seenMany),
            "of 20 products",
            baseline,
            Median(seenMany) / baseline,
            "at most 1.2"
        );
        Report.Row(
            "product page, first time since the start, ms",
            Median(first),
            "a seen one of 20 products",
            baseline,
            Median(first) / baseline,
            "at most 5"
        );
    }

    private static async Task Compare(string what, string path, Served few, Served many, double aim)
    {
        var (little, much) = (new List<double>(), new List<double>());
        for (var i = 0; i < Rounds; i++)
        {
            little.Add(await few.Time(path));
            much.Add(await many.Time(path));
        }
        Report.Row($"{what}, ms", Median(much), "of 20 products", Median(little), Median(much) / Median(little), $"at most {aim}");
    }

    /// <summary>A publication in one process, seen in another: with the telling connection, and while it is down.</summary>
    private static async Task Told(Served many, string connection)
    {
        await using var other = await Served.Start(connection);
        var (told, cut) = (new List<double>(), new List<double>());
        await Seen(many, other, 19);
        for (var i = 0; i < 9; i++)
            told.Add(await Seen(many, other, 20 + i));
        await using var source = NpgsqlDataSource.Create(connection);
        using var stop = new CancellationTokenSource();
        var cutting = Task.Run(async () =>
        {
            while (!stop.IsCancellationRequested)
            {
                await using var command = source.CreateCommand(
                    "select pg_terminate_backend(pid) from pg_stat_activity where application_name = 'unicus telling'"
                );
                await command.ExecuteNonQueryAsync();
                await Task.Delay(20);
            }
        });
        for (var i = 0; i < 5; i++)
            cut.Add(await Seen(many, other, 40 + i));
        await stop.CancelAsync();
        await cutting;
        Report.Row("a publication seen in another process, ms", told.Max(), "limit", 100, told.Max() / 100, "at most 1");
        Report.Row("the same while the telling connection is down, ms", cut.Max(), "limit", 1000, cut.Max() / 1000, "at most 1");
    }

    /// <summary>A rule over the whole shop: tried, switched on, and how long until every list is in the right order.</summary>
    private static async Task RuleStarts(Served many, string connection)
    {
        const string rule = """{ "key": "all", "name": "All", "effect": { "reduce": { "percent": "3" } } }""";
        await using var source = NpgsqlDataSource.Create(connection);
        // The copies were made with what lists show of the template; after this with what belongs to each.
        await using (var all = source.CreateCommand("select all_are_due()"))
            await all.ExecuteNonQueryAsync();
        await AllRight(source);
        // What is measured is a shop that has been open for a while, so it is done some times before anybody looks at the clock.
        await Try(many, rule);
        for (var i = 0; i < 3; i++)
        {
            await Put(many, rule.Replace("3", "4", StringComparison.Ordinal));
            await AllRight(source);
            using (var gone = await many.Client.DeleteAsync("/api/v1/price-rules/all"))
                gone.EnsureSuccessStatusCode();
            await AllRight(source);
        }
        var quiet = new List<double>();
        for (var i = 0; i < 21; i++)
            quiet.Add(await many.Time($"/?sort=price&p={1 + i % 5}"));
        var clock = Stopwatch.StartNew();
        await Try(many, rule);
        var took = clock.Elapsed.TotalMilliseconds;
        Report.Row("try a rule over 20,000 products and the last orders, ms", took, "limit", 10_000, took / 10_000, "at most 1");
        var before = await Price(many);
        clock.Restart();
        await Put(many, rule);
        var next = await Price(many);
        if (next == before)
            throw new InvalidOperationException("The next page shows the old price.");
        await using var due = source.CreateCommand(Due);
        var meanwhile = new List<double>();
        do
        {
            meanwhile.Add(await many.Time($"/?sort=price&p={1 + meanwhile.Count % 5}"));
            await Task.Delay(Between);
        } while ((bool)(await due.ExecuteScalarAsync())!);
        var right = clock.Elapsed.TotalMilliseconds;
        Report.Row("a rule over 20,000 products starts: until every list is right, ms", right, "limit", 5000, right / 5000, "at most 1");
        Report.Row(
            "a list by price meanwhile, median ms",
            Median(meanwhile),
            "before",
            Median(quiet),
            Median(meanwhile) / Median(quiet),
            "at most 2"
        );
    }

    private const string Due = "select exists (select from range_due)";

    /// <summary>Whoever looks at list after list reads each for a moment; about twenty of them a second.</summary>
    private static readonly TimeSpan Between = TimeSpan.FromMilliseconds(40);

    private static async Task Try(Served many, string rule)
    {
        using var body = new StringContent($$"""{ "rules": [ {{rule}} ] }""", Encoding.UTF8, "application/json");
        using var tried = await many.Client.PostAsync("/api/v1/price-rules/try", body);
        tried.EnsureSuccessStatusCode();
    }

    private static async Task Put(Served many, string rule)
    {
        using var body = new StringContent(rule, Encoding.UTF8, "application/json");
        using var put = await many.Client.PutAsync("/api/v1/price-rules/all", body);
        put.EnsureSuccessStatusCode();
    }

    private static async Task AllRight(NpgsqlDataSource source)
    {
        await using var due = source.CreateCommand(Due);
        while ((bool)(await due.ExecuteScalarAsync())!)
            await Task.Delay(100);
    }

    private static async Task<string> Price(Served served) =>
        Regex.Match(await served.Client.GetStringAsync("/p/b-9"), "buy-price[^>]*>([^<]*)").Groups[1].Value.Trim();

    private static async Task<double> Seen(Served here, Served there, int price)
    {
        var body = $$"""
            { "format": "unicus-product/1", "code": "TOLD", "name": "Told", "withoutSets": ["gift-wrapping"],
              "base": { "price": "{{price}}.00" }, "selling": { "counted": false } }
            """;
        using (var put = await here.Client.PutAsync("/api/v1/products/TOLD", new StringContent(body, Encoding.UTF8, "application/json")))
            put.EnsureSuccessStatusCode();
        var publishing = here.Client.PostAsync("/api/v1/products/TOLD/publish", null);
        using (var published = await publishing)
            published.EnsureSuccessStatusCode();
        var clock = Stopwatch.StartNew();
        while (true)
        {
            using var reply = await there.Client.PostAsync(
                "/api/v1/products/TOLD/configure?edition=latest",
                new StringContent("{}", Encoding.UTF8, "application/json")
            );
            if ((await reply.Content.ReadAsStringAsync()).Contains($"\"{price}.00\"", StringComparison.Ordinal))
                return clock.Elapsed.TotalMilliseconds;
        }
    }

    private static double Median(List<double> times) => times.Skip(times.Count / 4).Order().ElementAt((times.Count - times.Count / 4) / 2);

    /// <summary>An application that serves a shop.</summary>
    private sealed partial class Served : IAsyncDisposable
    {
        private const string Limits =
            "PagesAtFirst PagesPerSecond PagesAtOnce FilesAtFirst FilesPerSecond SignInsPerMinute WorkAtFirst WorkPerSecond";

        private readonly Process _process;

        private Served(Process process, Uri url)
        {
            _process = process;
            Client = new HttpClient(new SocketsHttpHandler { MaxConnectionsPerServer = 8 })
            {
                BaseAddress = url,
                Timeout = TimeSpan.FromMinutes(10),
            };
            Client.DefaultRequestHeaders.Authorization = new("Bearer", Environment.GetEnvironmentVariable("UNICUS_API_KEY"));
        }

        public HttpClient Client { get; }

        /// <summary>From the start of the process to the first page, in milliseconds.</summary>
        public double StartedIn { get; private set; }

        public static async ValueTask<Served> Start(string connection)
        {
            var folder = Environment.GetEnvironmentVariable("UNICUS_WEB")!;
            var start = new ProcessStartInfo("dotnet", ["bin/Release/net10.0/Unicus.Web.dll", "--urls", "http://127.0.0.1:0"])
            {
                WorkingDirectory = folder,
                RedirectStandardOutput = true,
            };
            start.Environment["UNICUS_DATABASE"] = connection;
            foreach (var limit in Limits.Split(' '))
                start.Environment[$"Strangers__{limit}"] = "1000000";
            var clock = Stopwatch.StartNew();
            var process = Process.Start(start)!;
            var ready = await process.StandardOutput.ReadLineAsync();
            var served = new Served(process, new Uri(ready!.Split(' ')[1]));
            await served.Time("/");
            served.StartedIn = clock.Elapsed.TotalMilliseconds;
            return served;
        }

        /// <summary>Milliseconds until a page is there.</summary>
        public async Task<double> Time(string path)
        {
            var clock = Stopwatch.StartNew();
            using var reply = await Client.GetAsync(path);
            reply.EnsureSuccessStatusCode();
            await reply.Content.ReadAsByteArrayAsync();
            return clock.Elapsed.TotalMilliseconds;
        }

        public async Task SignIn()
        {
            var page = await Client.GetStringAsync("/office/sign-in");
            using var reply = await Client.PostAsync(
                "/office/sign-in?handler=Demo",
                new FormUrlEncodedContent([new("__RequestVerificationToken", Token().Match(page).Groups[1].Value)])
            );
            reply.EnsureSuccessStatusCode();
        }

        /// <summary>The resident memory of the process in megabytes.</summary>
        public double Memory()
        {
            var line = File.ReadLines($"/proc/{_process.Id}/status").First(l => l.StartsWith("VmRSS", StringComparison.Ordinal));
            return double.Parse(Digits().Match(line).Value, CultureInfo.InvariantCulture) / 1024;
        }

        public async ValueTask DisposeAsync()
        {
            Client.Dispose();
            _process.Kill();
            await _process.WaitForExitAsync();
            _process.Dispose();
        }

        [GeneratedRegex("""name="__RequestVerificationToken" type="hidden" value="([^"]+)""")]
        private static partial Regex Token();

        [GeneratedRegex("[0-9]+")]
        private static partial Regex Digits();
    }
}
