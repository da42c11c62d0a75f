using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace Unicus.Browser.Tests;

/// <summary>How much a stranger may ask for.</summary>
public sealed partial class HostileHttpTests
{
    [Fact]
    public async Task Bodies_lines_and_faults_have_their_limits()
    {
        var megabyte = new string(' ', 1_100_000);
        // It asks before it sends the body: who sends at once may find the connection closed.
        async Task<HttpStatusCode> Asked(HttpClient client, string path, HttpContent body)
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = body };
            request.Headers.ExpectContinue = true;
            using var reply = await client.SendAsync(request);
            return reply.StatusCode;
        }
        var form = new FormUrlEncodedContent([new("buyer", megabyte)]);
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, await Asked(_client, "baskets/price", App.Json(megabyte + "{}")));
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, await Asked(_stranger, "/checkout", form));
        // A product may be larger; it is read, and then its faults are told.
        using var put = await _client.PutAsync(
            "products/HOS8",
            App.Json(megabyte + Plain("HOS8", $", \"specifications\": [{string.Join(',', Enumerable.Repeat("1", 999))}]"))
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, put.StatusCode);
        Assert.Equal(200, JsonNode.Parse(await put.Content.ReadAsStringAsync())!["errors"]!.AsArray().Count);
        await Publish("HOS9");
        string Lines(int count) => $$"""{ "lines": [{{string.Join(',', Enumerable.Repeat(Line("HOS9"), count))}}] }""";
        Assert.Equal(HttpStatusCode.OK, (await Post("baskets/price", Lines(1000))).Status);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await Post("baskets/price", Lines(1001))).Status);
    }

    [Fact]
    public async Task A_film_is_sent_in_the_pieces_that_are_asked_for()
    {
        await app.InDatabase(
            "insert into videos (file, content_type, content) values ('piece-1.mp4', 'video/mp4', decode(repeat('00010203', 250000), "
                + "'hex')) on conflict do nothing"
        );
        using var request = new HttpRequestMessage(HttpMethod.Get, "/videos/piece-1.mp4");
        request.Headers.Range = new RangeHeaderValue(400_001, 400_004);
        using var reply = await _stranger.SendAsync(request);
        Assert.Equal(HttpStatusCode.PartialContent, reply.StatusCode);
        Assert.Equal([1, 2, 3, 0], await reply.Content.ReadAsByteArrayAsync());
        Assert.Equal(1_000_000, (await _stranger.GetByteArrayAsync("/videos/piece-1.mp4")).Length);
    }

    [Fact]
    public async Task A_basket_of_the_shop_stops_at_two_hundred_lines()
    {
        await Publish(
            "HOSA",
            """, "selling": { "counted": false }, "options": [ { "key": "words", "label": "Words", "role": "extra", "ask": "text" } ]"""
        );
        using var shopper = new HttpClient { BaseAddress = new Uri(app.Url) };
        var token = Token().Match(await shopper.GetStringAsync("/p/hostile-hosa")).Groups[1].Value;
        string last = "";
        for (var i = 0; i < 203; i++)
        {
            using var form = new FormUrlEncodedContent([
                new("product", "HOSA"),
                new("quantity", "1"),
                new("o-words", $"word {i}"),
                new("__RequestVerificationToken", token),
            ]);
            using var reply = await shopper.PostAsync("/basket?handler=Add", form);
            last = await reply.Content.ReadAsStringAsync();
        }
        Assert.Contains("at most 200 lines", last, StringComparison.Ordinal);
        Assert.Equal(200, Regex.Count(last, "name=\"quantities\""));
    }

    [Fact]
    public async Task A_stranger_who_asks_without_end_is_told_to_wait_and_others_are_not()
    {
        var url = await app.Serve(("Strangers__PagesAtFirst", "10"), ("Strangers__PagesPerSecond", "1"), ("Proxies", "127.0.0.1"));
        using var client = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false }) { BaseAddress = new Uri(url) };
        async Task<HttpResponseMessage> As(string address, string path = "/p/smoker")
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, path);
            request.Headers.Add("X-Forwarded-For", address);
            request.Headers.Add("X-Forwarded-Proto", "https");
            return await client.SendAsync(request);
        }
        var replies = await Task.WhenAll(Enumerable.Range(0, 40).Select(_ => As("203.0.113.7")));
        var refused = replies.First(r => r.StatusCode == HttpStatusCode.TooManyRequests);
        Assert.NotNull(refused.Headers.RetryAfter);
        Assert.Contains("Wait a minute", await refused.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        // Behind a proxy that is known the address is the one that it names, and cookies and transport are for HTTPS only.
        var other = await As("203.0.113.8");
        Assert.Equal(HttpStatusCode.OK, other.StatusCode);
        Assert.Contains(other.Headers.GetValues("Set-Cookie"), c =>
            c.Contains("unicus-form", StringComparison.Ordinal) && c.Contains("secure", StringComparison.OrdinalIgnoreCase)
        );
        foreach (var r in replies)
            r.Dispose();
    }

    [Fact]
    public async Task Who_is_no_known_proxy_cannot_take_another_address()
    {
        var url = await app.Serve(("Strangers__PagesAtFirst", "10"), ("Strangers__PagesPerSecond", "1"));
        using var client = new HttpClient { BaseAddress = new Uri(url) };
        var statuses = await Task.WhenAll(
            Enumerable
                .Range(0, 40)
                .Select(async i =>
                {
                    using var request = new HttpRequestMessage(HttpMethod.Get, "/p/smoker");
                    request.Headers.Add("X-Forwarded-For", $"203.0.113.{i}");
                    using var reply = await client.SendAsync(request);
                    return reply.StatusCode;
                })
        );
        Assert.Contains(HttpStatusCode.TooManyRequests, statuses);
    }
}
