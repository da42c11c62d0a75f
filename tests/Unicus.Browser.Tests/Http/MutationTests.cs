using System.Globalization;
using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace Unicus.Browser.Tests;

/// <summary>A shop of its own, which a stranger and a careless program do everything to.</summary>
[CollectionDefinition("hostile", DisableParallelization = true)]
public sealed class HostileCollection : ICollectionFixture<App>;

/// <summary>
/// Requests to every page and call, each changed a little at random, with seeds: whatever comes, the answer is no fault of ours (no 5xx),
/// and it has a body.
/// </summary>
[Collection("hostile")]
public sealed partial class MutationTests(App app)
{
    /// <summary>How often each request is changed; UNICUS_MUTATIONS asks for a longer search, which then takes other seeds
    /// too.</summary>
    private static readonly int Each = int.Parse(
        Environment.GetEnvironmentVariable("UNICUS_MUTATIONS") ?? "10",
        CultureInfo.InvariantCulture
    );

    private static readonly string[] Texts =
    [
        "",
        " ",
        "\0",
        "\v",
        "a\0b",
        "%00",
        "\ud83d\udc1d",
        "é",
        "-1",
        "0",
        "1e15",
        "99999999999999999999",
        "1000000000000",
        "NaN",
        "9999-12-31",
        "0000-00-00",
        "null",
        "true",
        "../../etc/passwd",
        "'; drop table products; --",
        "<script>x()</script>",
        "{\"a\":[",
        "A/B?c#d",
        "o-depth=deep",
        new string('a', 3000),
        new string('9', 400),
        "\u202e",
        "%%%",
        "\r\nX: y",
    ];

    private static readonly string[] Pages =
    [
        "/",
        "/?q=hive",
        "/?category=hives",
        "/p/garden-hive",
        "/p/garden-hive?o-depth=deep&o-timber=cedar&quantity=2",
        "/p/garden-hive?handler=Buy&o-depth=deep",
        "/basket",
        "/checkout",
        "/pictures/small/x.webp",
        "/videos/x.mp4",
        "/order/abc",
        "/office/sign-in?returnUrl=/office/range",
        "/office/range?q=hive&show=mend&sort=-price&category=Hives&made=variants",
        "/office/variants?q=cedar&state=none&from=10",
        "/office/stock?q=GH1&show=none",
        "/office/stock/SMK",
        "/office/orders?q=1001&show=placed&p=2",
        "/office/orders/1001",
        "/office/outbox",
        "/office/settings",
        "/office/people",
        "/office/keys",
        "/office/events?kind=People&p=2",
        "/office/me",
        "/office/first",
        "/office/new-password?token=abc",
        "/account?token=abc&back=checkout",
        "/office/pricing?q=spring&state=running",
        "/office/pricing/groups",
        "/office/orders/1001/customs",
        "/office/orders/through/APIARY",
        "/p/garden-hive/password",
        "/office/options",
        "/office/options/timber",
        "/office/extras",
        "/office/extras/gift-wrapping",
        "/office/categories",
        "/office/sheet",
        "/office/sheet/GH1",
        "/office/sheet?handler=Csv",
        "/office/together?code=FD1&code=FD2",
        "/office/find?q=hive",
        "/office/find?handler=List&q=hive",
        "/office/products/GH1/facts",
        "/office/products/GH1/money",
        "/office/products/GH1/money?handler=Bar&as=typed&value=12&cost=3&margin=20",
        "/office/products/GH1/options",
        "/office/products/GH1/options?handler=Size&option=depth&values=a,b",
        "/office/products/GH1/matrix?view=rows&find=cedar&state=none&sort=-price&from=3&pick=depth%3Ddeep&columns=price,cost",
        "/office/products/GH1/matrix?view=grid&figure=price&down=depth&across=timber&band=depth&tint=1",
        "/office/products/GH1/matrix?handler=Window&from=0&rows=20",
        "/office/products/GH1/matrix?handler=Left&values=depth%3Ddeep,timber%3Dcedar&price=1&cost=2",
        "/office/products/GH1/matrix?handler=Bulk&select=depth%3Ddeep&of=price&operation=Add&amount=3",
        "/office/products/GH1/matrix?handler=Split&values=depth%3Ddeep,timber%3Dcedar",
        "/office/products/GH1/extras",
        "/office/products/GH1/rules?down=depth&across=boards&o-depth=deep&open=roof",
        "/office/products/GH1/rules?handler=Map&o-depth=deep&open=roof",
        "/office/products/GH1/stock",
        "/office/products/GH1/shelf",
        "/office/products/GH1/checks",
        "/office/products/GH1/proof?o-depth=deep",
        "/office/products/GH1/labels?copies=1&figure=ean&columns=3",
        "/health",
        "/openapi/v1.json",
        "/schemas/product-1.json",
    ];

    /// <summary>What scripts send, and forms that stand on no page just now.</summary>
    private static readonly string[] Scripts =
    [
        "/office/products/GH1/matrix?handler=Cells "
            + "edits=[{\"values\":\"depth=deep,timber=cedar\",\"figure\":\"price\",\"text\":\"12\",\"was\":null}]",
        "/office/products/GH1/matrix?handler=CellsTried edits=[{\"values\":\"a\",\"figure\":\"sku\",\"text\":\"x\",\"was\":\"y\"}]",
        "/office/products/GH1/matrix?handler=Made values=depth%3Ddeep,timber%3Dcedar&made=true",
        "/office/products/GH1/facts?handler=Order list=options&keys=depth&keys=timber",
        "/office/products/GH1/matrix?handler=BulkRows select=depth%3Ddeep&of=price&operation=Percent&amount=3&ending=.99",
        "/office/products/GH1/options?handler=Decide wanted=[]&version=1&sentence=x&stock=SplitEvenly",
        "/office/products/GH1/facts?handler=Split which=depth%3Ddeep,timber%3Dcedar&name=x",
        "/office/products/GH1/facts?handler=Field field=summary&value=x&was=y&proof-picks=o-depth%3Ddeep%26quantity%3D2",
        "/office/products/GH1/facts?handler=Undo x=1",
        "/office/products/GH1/facts?handler=Redo x=1",
        "/office/variants?handler=Cells "
            + "edits=[{\"values\":\"GH1|depth=deep,timber=cedar\",\"figure\":\"price\",\"text\":\"12\",\"was\":null}]",
        "/office/sign-in email=a@b.c&password=x",
        "/office/orders/1002?handler=Cancel reason=x",
        "/office/orders/1003?handler=Dispatch x=1",
        "/office/orders/1002?handler=Reinstate x=1",
        "/checkout buyer=Orla&email=o@e.org&address=Lane&version=1&total=2.00&lines=2.00",
    ];

    private static readonly string[] Calls =
    [
        """GET products?page=1&size=10""",
        """GET products/GH1?variants=all&edition=latest""",
        """GET orders?page=1&size=5""",
        """GET orders/1001""",
        """GET stock/SMK""",
        """POST products/HT/publish {}""",
        """POST products/GH1/configure?edition=latest {"answers":{"depth":"deep","timber":"cedar","fittings":"""
            + """["strap"],"plate":"Orla"},"parts":{},"quantity":2,"at":"2027-03-05T12:00:00Z","why":"""
            + """{"option":"roof","value":"gabled"}}""",
        """POST baskets/price {"lines":[{"product":"GH1","answers":{"depth":"deep","timber":"cedar"},"quantity":2},"""
            + """{"sku":"SMK"}],"destination":"IE","at":"2027-03-05T12:00:00Z"}""",
        """POST orders {"lines":[{"sku":"SMK","quantity":1}],"destination":"DE","expectedTotal":"1.00","buyer":"""
            + """{"name":"Orla","email":"o@example.org","address":"Lane"}}""",
        """POST orders/1004/cancel {"reason":"x"}""",
        """POST orders/1005/dispatch {}""",
        """POST stock/movements {"sku":"SMK","kind":"transfer","quantity":1,"location":"barn","to":"shop","reason":"x"}""",
        """PUT products/MUT1?retire=yes&stock=count {"format":"unicus-product/1","code":"MUT1","name":"Mutant","summar"""
            + """y":"x","description":"<p>x</p>","base":{"price":"1.00","cost":"0.50","weightGrams":5,"sizeMm":{"length":"""
            + """1,"width":2,"height":3},"taxClass":"standard"},"selling":{"counted":true,"beyond":{"units":3},"offForNow":"""
            + """{"back":"2027-01-01"}},"options":[{"key":"size","label":"Size","role":"variant","values":["""
            + """{"key":"s","label":"S","sku":"S","surcharge":{"percent":"8"},"swatch":{"stripes":["#aabbcc"]}},"""
            + """{"key":"l","label":"L","figures":{"price":"2.00"}}]},{"key":"wax","label":"Wax","role":"extra","ask":"number","n"""
            + """umber":{"min":"1","max":"9","step":"0.5","unit":"kg"},"surcharge":{"table":{"rows":[{"max":"3","amount":"4.00"},"""
            + """{"max":"9","amount":"5.00"}]}}},{"key":"day","label":"Day","role":"extra","ask":"date","date":{"earliestInDays":"""
            + """1,"latestInDays":30,"notOn":["sun"]}},{"key":"words","label":"Words","role":"extra","ask":"text","maxLength":"""
            + """9,"surcharge":{"perCharacter":"0.10","minimum":"1.00"}}],"rules":[{"key":"r1","when":{"all":["""
            + """{"option":"size","is":["s"]},{"not":{"option":"wax","atLeast":"3"}}]},"then":{"hide":["day"]}}],"notMade":["""
            + """{"size":"l"}],"skuPattern":[{"code":true},{"text":"-"},{"option":"size"}],"specifications":["""
            + """{"label":"a","value":"b"}],"passages":[{"heading":"a","text":"<p>b</p>"}],"pictures":[],"videos":["""
            + """{"address":"https://a.example/x.mp4"}],"variants":[{"values":"""
            + """{"size":"s"},"sku":"MUT-S","price":"3.00","gtin":"6291041500213","stock":3,"note":"x"}]}""",
    ];

    private readonly List<string> _wrong = [];

    [Fact]
    public async Task No_request_however_changed_is_a_fault_of_ours_or_stays_without_an_answer()
    {
        var random = new Random(Each);
        using var client = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false }) { BaseAddress = new Uri(app.Url) };
        client.DefaultRequestHeaders.Add("Authorization", $"Bearer {App.Key}");
        var token = await SignIn(client);
        var forms = (await Forms(client)).Concat(Scripts).ToList();
        Assert.True(forms.Count > 80, $"{forms.Count} forms were found");
        var sent = 0;
        for (var round = 0; round < Each; round++)
        {
            foreach (var page in Pages)
                sent += await Send(client, HttpMethod.Get, round == 0 ? page : Address(page, random), null, token, random);
            foreach (var form in forms)
            {
                var (address, fields) = (form.Split(' ', 2)[0], form.Split(' ', 2)[1]);
                var body = Encoding.UTF8.GetBytes(round == 0 ? fields : Query(fields, random));
                sent += await Send(
                    client,
                    HttpMethod.Post,
                    round % 3 == 2 ? Address(address, random) : address,
                    (body, "application/x-www-form-urlencoded"),
                    token,
                    random
                );
            }
            foreach (var call in Calls)
            {
                var pieces = call.Split(' ', 3);
                var path = "/api/v1/" + (round % 3 == 2 ? Address(pieces[1], random) : pieces[1]);
                var json =
                    pieces.Length < 3 ? null
                    : round == 0 ? pieces[2]
                    : Json(pieces[2], random);
                (byte[], string)? body = json is null ? null : (Encoding.UTF8.GetBytes(json), "application/json");
                sent += await Send(client, new HttpMethod(pieces[0]), path, body, token, random);
            }
            // Whoever changed the sign-in or the settings away is put back.
            token = await SignIn(client);
        }
        Assert.True(sent > 1500, $"{sent} requests were sent");
        Assert.True(_wrong.Count == 0, $"{_wrong.Count} of {sent}:\n{string.Join('\n', _wrong.Take(400))}");
    }

    private async Task<int> Send(
        HttpClient client,
        HttpMethod method,
        string path,
        (byte[] Bytes, string Type)? body,
        string token,
        Random random
    )
    {
        HttpRequestMessage request;
        try
        {
            request = new HttpRequestMessage(method, new Uri(app.Url + path));
        }
        catch (UriFormatException)
        {
            return 0;
        }
        using var _ = request;
        request.Headers.Add("X-Unicus-Token", token);
        if (random.Next(3) == 0)
            request.Headers.Add("HX-Request", "true");
        if (body is var (bytes, type))
        {
            request.Content = new ByteArrayContent(bytes);
            request.Content.Headers.TryAddWithoutValidation("Content-Type", type);
        }
        using var reply = await client.SendAsync(request);
        var text = await reply.Content.ReadAsStringAsync();
        var what = $"{(int)reply.StatusCode} {method} {path} {(body is null ? "" : Encoding.UTF8.GetString(body.Value.Bytes))}";
        // Nothing found is nothing; and a path with NUL is refused by the server before it is anybody's.
        var mayBeEmpty =
            (int)reply.StatusCode is 204 or (>= 300 and < 400)
            || path.StartsWith("/office/find?handler=List", StringComparison.Ordinal)
            || (reply.StatusCode == HttpStatusCode.BadRequest && path.Split('?')[0].Contains("%00", StringComparison.Ordinal));
        if ((int)reply.StatusCode >= 500 || (text.Length == 0 && !mayBeEmpty))
            _wrong.Add(what.Length > 600 ? what[..600] : what);
        return 1;
    }

    /// <summary>Every form that stands on a page, once for each address and set of names, with what it would send; a button that leads
    /// elsewhere is one more.</summary>
    private static async Task<IReadOnlyList<string>> Forms(HttpClient client)
    {
        var forms = new Dictionary<string, string>();
        // The forms of the own account end the stay.
        foreach (var page in Pages.Where(p => !p.StartsWith("/office/sheet?", StringComparison.Ordinal) && p != "/office/me"))
        {
            var html = WebUtility.HtmlDecode(await (await client.GetAsync(page)).Content.ReadAsStringAsync());
            foreach (Match form in Form().Matches(html))
            {
                var fields = Fields()
                    .Matches(form.Groups[2].Value)
                    .Select(f => (Name: f.Groups[1].Value, Value: ValueOf().Match(f.Value).Groups[1].Value))
                    .Where(f => !f.Name.StartsWith("__", StringComparison.Ordinal))
                    .ToList();
                var body = string.Join('&', fields.Select(f => $"{Uri.EscapeDataString(f.Name)}={Uri.EscapeDataString(f.Value)}"));
                foreach (
                    var address in Leads()
                        .Matches(form.Value)
                        .Select(m => m.Groups[1].Value)
                        .Distinct()
                        .Where(a => a.StartsWith('/') && !a.Contains("handler=Out", StringComparison.Ordinal))
                )
                    forms.TryAdd($"{address} {string.Join(' ', fields.Select(f => f.Name).Distinct())}", $"{address} {body}");
            }
        }
        return [.. forms.Values];
    }

    private static async Task<string> SignIn(HttpClient client)
    {
        var page = await client.GetStringAsync("/office/sign-in");
        using var reply = await client.PostAsync(
            "/office/sign-in?handler=Demo",
            new FormUrlEncodedContent([new("__RequestVerificationToken", Field().Match(page).Groups[1].Value)])
        );
        Assert.Equal(HttpStatusCode.Redirect, reply.StatusCode);
        return Meta().Match(await client.GetStringAsync("/office/outbox")).Groups[1].Value;
    }

    [GeneratedRegex("""name="__RequestVerificationToken" type="hidden" value="([^"]+)""")]
    private static partial Regex Field();

    [GeneratedRegex("""<form([^>]*method="post"[^>]*)>(.*?)</form>""", RegexOptions.Singleline)]
    private static partial Regex Form();

    [GeneratedRegex("""<(?:input|select|textarea|button)\b[^>]*\bname="([^"]+)"[^>]*>""")]
    private static partial Regex Fields();

    [GeneratedRegex("""\bvalue="([^"]*)""")]
    private static partial Regex ValueOf();

    [GeneratedRegex("""\b(?:action|hx-post|formaction)="([^"]+)""")]
    private static partial Regex Leads();

    [GeneratedRegex("""name="unicus-token" content="([^"]+)""")]
    private static partial Regex Meta();
}
