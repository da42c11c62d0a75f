using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Http.Headers;
using System.Net.Sockets;
using System.Text;
using System.Text.RegularExpressions;

namespace Unicus.Bench;

/// <summary>A shopper's pick while twenty strangers do the worst they can, each from an address of its own, against the same pick in a
/// quiet shop.</summary>
/// <remarks>The application runs with the limits that it has by itself; the strangers' addresses are those of the loopback
/// network.</remarks>
internal static partial class StrangerRatios
{
    private const int Strangers = 20;
    private const string Large = "WIDEST";

    /// <summary>Made once, so that the strangers do not take the machine's time by themselves.</summary>
    private static readonly byte[] SixtyMegabytes = new byte[60_000_000];

    private static readonly byte[] ManyLines = Encoding.ASCII.GetBytes(
        $$"""{"lines":[{{string.Join(',', Enumerable.Repeat("1", 400_000))}}]}"""
    );

    private static readonly TimeSpan Quiet = TimeSpan.FromSeconds(6);
    private static readonly TimeSpan Noise = TimeSpan.FromSeconds(25);

    public static async Task Run(HttpClient withKey, Uri url)
    {
        await Prepare(withKey);
        using var shopper = From(url, 250);
        // A shop that has been open for a while has read its products.
        for (var i = 0; i < 3; i++)
            (await shopper.GetAsync("/p/widest")).Dispose();
        await Picks(shopper, Quiet);
        var quiet = await Picks(shopper, Quiet);
        using var stop = new CancellationTokenSource(Noise + TimeSpan.FromSeconds(60));
        var noise = Enumerable.Range(0, Strangers).Select(i => Annoy(url, i, stop.Token)).ToList();
        var most = Peak(stop.Token);
        // The first requests of everybody are the burst that each address has; what counts is what stays.
        var burst = await Picks(shopper, Noise / 2);
        var noisy = await Picks(shopper, Noise);
        await stop.CancelAsync();
        var sent = (await Task.WhenAll(noise)).Sum();
        Report.Row(
            "a shopper's pick while 20 strangers do their worst, median ms",
            Median(noisy),
            "in a quiet shop",
            Median(quiet),
            Median(noisy) / Median(quiet),
            "at most 3"
        );
        Report.Row(
            "the same, 95th percentile ms",
            Share95(noisy),
            "in a quiet shop",
            Share95(quiet),
            Share95(noisy) / Share95(quiet),
            ""
        );
        Report.Row(
            "the same in the first seconds, in which each may ask 120 times, median ms",
            Median(burst),
            "in a quiet shop",
            Median(quiet),
            Median(burst) / Median(quiet),
            ""
        );
        Report.Row(
            "requests that they sent meanwhile",
            sent,
            "seconds",
            Noise.TotalSeconds * 1.5,
            sent / (Noise.TotalSeconds * 1.5),
            ""
        );
        if (await most is { } peak)
            Report.Row("the process at its largest, MB", peak, "limit", 1536, peak / 1536, "at most 1");
    }

    /// <summary>A hundred thousand variants with percentages on every extra, and a film of sixty megabytes.</summary>
    private static async Task Prepare(HttpClient client)
    {
        string Values(string of, Func<int, string> more) =>
            string.Join(',', Enumerable.Range(0, 10).Select(v => $$"""{ "key": "v{{v}}", "label": "{{of}} {{v}}"{{more(v)}} }"""));
        var options = Enumerable
            .Range(1, 5)
            .Select(o =>
                $$"""
                    { "key": "o{{o}}", "label": "O{{o}}", "role": "variant",
                      "values": [{{Values("V", v => $$""", "surcharge": { "amount": "{{v}}.00" }""")}}] }
                    """
            );
        var extras = Enumerable
            .Range(1, 8)
            .Select(x =>
                $$"""
                    { "key": "x{{x}}", "label": "X{{x}}", "role": "extra", "ask": "one",
                      "values": [{{Values("W", v => $$""", "surcharge": { "percent": "{{v - 2}}.{{x}}" }""")}}] }
                    """
            );
        var json = $$"""
            { "format": "unicus-product/1", "code": "{{Large}}", "name": "Widest", "base": { "price": "100.00" },
              "selling": { "counted": false }, "options": [{{string.Join(',', options.Concat(extras))}}] }
            """;
        foreach (
            var send in new Func<Task<HttpResponseMessage>>[]
            {
                () => client.PutAsync($"/api/v1/products/{Large}", new StringContent(json, Encoding.UTF8, "application/json")),
                () => client.PostAsync($"/api/v1/products/{Large}/publish", null),
            }
        )
            using (var reply = await send())
                if (!reply.IsSuccessStatusCode)
                    throw new InvalidOperationException(await reply.Content.ReadAsStringAsync());
        var words = """
            { "format": "unicus-product/1", "code": "WORDS", "name": "Words", "base": { "price": "1.00" }, "selling": { "counted": false },
              "options": [{ "key": "words", "label": "Words", "role": "extra", "ask": "text" }] }
            """;
        (await client.PutAsync("/api/v1/products/WORDS", new StringContent(words, Encoding.UTF8, "application/json"))).Dispose();
        (await client.PostAsync("/api/v1/products/WORDS/publish", null)).Dispose();
        await using var connection = new Npgsql.NpgsqlConnection(Environment.GetEnvironmentVariable("UNICUS_DATABASE"));
        await connection.OpenAsync();
        await using var film = new Npgsql.NpgsqlCommand(
            "insert into videos (file, content_type, content) values ('long-1.mp4', 'video/mp4', "
                + "decode(repeat('000102030405060708090a0b0c0d0e0f', 3750000), 'hex')) on conflict do nothing",
            connection
        );
        await film.ExecuteNonQueryAsync();
    }

    /// <summary>A client whose address is 127.0.0.<paramref name="host"/>.</summary>
    private static HttpClient From(Uri url, int host) =>
        new(
            new SocketsHttpHandler
            {
                MaxConnectionsPerServer = 12,
                ConnectCallback = async (context, stop) =>
                {
                    var socket = new Socket(AddressFamily.InterNetwork, SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
                    socket.Bind(new IPEndPoint(new IPAddress([127, 0, 0, (byte)host]), 0));
                    await socket.ConnectAsync(IPAddress.Loopback, context.DnsEndPoint.Port, stop);
                    return new NetworkStream(socket, ownsSocket: true);
                },
            }
        )
        {
            BaseAddress = url,
            Timeout = TimeSpan.FromSeconds(60),
        };

    private static async Task<List<double>> Picks(HttpClient shopper, TimeSpan time)
    {
        var times = new List<double>();
        var clock = Stopwatch.StartNew();
        string[] depths = ["shallow", "medium", "deep"];
        for (var i = 0; clock.Elapsed < time; i++)
        {
            var pick = Stopwatch.StartNew();
            using var reply = await shopper.GetAsync($"/p/garden-hive?handler=Buy&o-depth={depths[i % 3]}&quantity={i % 50 + 1}");
            reply.EnsureSuccessStatusCode();
            await reply.Content.ReadAsByteArrayAsync();
            times.Add(pick.Elapsed.TotalMilliseconds);
            // As fast as a hasty person picks.
            await Task.Delay(150);
        }
        return times;
    }

    /// <summary>Does one bad thing after another, twelve at a time, and gives how many were sent.</summary>
    private static async Task<int> Annoy(Uri url, int number, CancellationToken stop)
    {
        using var client = From(url, number + 2);
        var token = await Fill(client, number, stop);
        var random = new Random(number);
        var sent = 0;
        async Task Lane()
        {
            while (!stop.IsCancellationRequested)
                try
                {
                    using var request = Bad(random, token);
                    using var reply = await client.SendAsync(request, stop);
                    await reply.Content.ReadAsByteArrayAsync(stop);
                    Interlocked.Increment(ref sent);
                    // Told to wait, even a rude program loses a moment.
                    if (reply.StatusCode == HttpStatusCode.TooManyRequests)
                        await Task.Delay(50, stop);
                }
                catch (Exception fault) when (fault is HttpRequestException or OperationCanceledException or IOException)
                {
                    // A body that was refused while it was sent.
                }
        }
        await Task.WhenAll(Enumerable.Range(0, 12).Select(_ => Lane()));
        return sent;
    }

    /// <summary>Gets a form token, and as many lines into a basket as its address may ask for at first.</summary>
    private static async Task<string> Fill(HttpClient client, int number, CancellationToken stop)
    {
        try
        {
            var token = Token().Match(await client.GetStringAsync("/p/words", stop)).Groups[1].Value;
            for (var i = 0; i < 100 && number % 4 == 0; i++)
            {
                using var form = new FormUrlEncodedContent([
                    new("product", "WORDS"),
                    new("quantity", "1"),
                    new("o-words", $"word {i}"),
                    new("__RequestVerificationToken", token),
                ]);
                (await client.PostAsync("/basket?handler=Add", form, stop)).Dispose();
            }
            return token;
        }
        catch (Exception fault) when (fault is HttpRequestException or OperationCanceledException)
        {
            return "";
        }
    }

    private static HttpRequestMessage Bad(Random random, string token)
    {
        string Answers() => string.Concat(Enumerable.Range(1, 8).Where(_ => random.Next(3) > 0).Select(x => $"&o-x{x}=v{random.Next(10)}"));
        HttpRequestMessage Get(string path) => new(HttpMethod.Get, path);
        switch (random.Next(10))
        {
            case 0 or 1 or 2:
                return Get($"/p/widest?handler=Buy{Answers()}");
            case 3:
                return Get($"/p/garden-hive?o-plate={new string('x', random.Next(2000))}&quantity={random.Next(100000)}");
            case 4:
                return Get($"/?q={new string((char)('a' + random.Next(26)), 7000)}");
            case 5:
                return Get("/basket");
            case 6:
                var film = Get("/videos/long-1.mp4");
                film.Headers.Range = new RangeHeaderValue(random.Next(30_000_000), 59_000_000);
                return film;
            case 7:
                return new HttpRequestMessage(HttpMethod.Post, "/office/sign-in")
                {
                    Content = new FormUrlEncodedContent([
                        new("email", "maren@thistle-and-skep.example"),
                        new("password", $"{random.Next()}"),
                        new("__RequestVerificationToken", token),
                    ]),
                };
            case 8:
                return new HttpRequestMessage(HttpMethod.Post, "/checkout") { Content = new ByteArrayContent(SixtyMegabytes) };
            default:
                return new HttpRequestMessage(HttpMethod.Post, "/api/v1/baskets/price") { Content = new ByteArrayContent(ManyLines) };
        }
    }

    /// <summary>The largest resident memory of the application till it is stopped, in megabytes, where bench/run says which process it
    /// is.</summary>
    private static async Task<double?> Peak(CancellationToken stop)
    {
        if (Environment.GetEnvironmentVariable("UNICUS_LIMITED_PID") is not { } pid)
            return null;
        var most = 0.0;
        while (!stop.IsCancellationRequested)
        {
            var line = File.ReadLines($"/proc/{pid}/status").First(l => l.StartsWith("VmRSS", StringComparison.Ordinal));
            most = Math.Max(most, double.Parse(Digits().Match(line).Value, CultureInfo.InvariantCulture) / 1024);
            await Task.Delay(100, CancellationToken.None);
        }
        return most;
    }

    private static double Median(List<double> times) => times.Order().ElementAt(times.Count / 2);

    private static double Share95(List<double> times) => times.Order().ElementAt(times.Count * 95 / 100);

    [GeneratedRegex("""name="__RequestVerificationToken" value="([^"]+)""")]
    private static partial Regex Token();

    [GeneratedRegex("[0-9]+")]
    private static partial Regex Digits();
}
