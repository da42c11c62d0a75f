using System.Net;
using System.Net.Http.Headers;
using OpenQA.Selenium;
using OtpNet;

namespace Unicus.Browser.Tests;

/// <summary>People and keys: who may come in, and how they are shut out again.</summary>
[Collection("app")]
public sealed class DoorsTests(App app) : IDisposable
{
    private const string Password = "seven plain bees hum";

    private readonly Steps _s = new(App.Browser(), app.Url);

    public void Dispose() => _s.Dispose();

    private static void SignIn(Steps s, string email, string password)
    {
        s.Open("/office/sign-in");
        s.Type("[name=email]", email);
        s.Send("[name=password]", password + Keys.Enter);
    }

    private static void Leave(Steps s)
    {
        s.Run("document.querySelector('form[action*=\"handler=Out\"]').submit()");
        s.Until("signed out", () => new Uri(s.Url).AbsolutePath == "/");
    }

    /// <summary>Adds somebody and lets them choose a password in a browser of their own.</summary>
    private void Add(Steps theirs, string name, string email, string role)
    {
        _s.Open("/office/people");
        _s.Type("[name=Called]", name);
        _s.Type("[name=Email]", email);
        _s.Run("document.querySelector('.add-person [name=Role]').value = arguments[0]", role);
        _s.Click(".add-person button");
        _s.See("Added. A message");
        theirs.Open(_s.LinkTo(email));
        theirs.Send("[name=password]", Password + Keys.Enter);
        theirs.See("Your password is changed");
        SignIn(theirs, email, Password);
        theirs.Until("in", () => theirs.Url.Contains("/office/range"));
    }

    [Fact]
    public void Staff_are_added_by_link_may_not_reach_what_is_the_owners_and_are_out_at_once_when_removed()
    {
        _s.SignIn();
        using var nia = new Steps(App.Browser(), app.Url);
        Add(nia, "Nia", "nia@example.org", "staff");
        Assert.Equal("Nia", nia.Text("nav.person summary"));
        foreach (var place in new[] { "settings", "people", "keys", "events" })
        {
            nia.Open($"/office/{place}");
            nia.See("Your account may not do that");
        }
        // Messages with links that open accounts are not for staff.
        nia.Open("/office/outbox");
        Assert.DoesNotContain("your account in the back office", nia.Text("body"), StringComparison.Ordinal);
        _s.Open("/office/people");
        Assert.Empty(_s.SeriousFindings());
        _s.Click("[aria-label='Remove Nia']");
        _s.See("Done. They sign in anew");
        nia.Open("/office/range");
        nia.Until("out", () => nia.Url.Contains("/office/sign-in"));
        SignIn(nia, "nia@example.org", Password);
        nia.See("do not belong together");
        _s.Open("/office/people");
        _s.Click("[aria-label='Remove Maren']");
        _s.See("Maren is the only owner");
        _s.Open("/office/events?kind=People");
        _s.See("Added Nia as staff");
        _s.See("Removed Nia");
        Assert.Empty(_s.SeriousFindings());
    }

    [Fact]
    public void A_second_factor_is_set_up_used_and_a_stay_elsewhere_is_ended()
    {
        _s.SignIn();
        using var tom = new Steps(App.Browser(), app.Url);
        Add(tom, "Tom", "tom@example.org", "staff");
        tom.Open("/office/me");
        tom.Until("the stay is listed", () => tom.Count(".stays tbody tr") == 1);
        tom.Click("form[action*=Factor] button, button[formaction*=Factor]");
        var secret = tom.Text(".secret").Replace(" ", "", StringComparison.Ordinal);
        Assert.Empty(tom.SeriousFindings());
        var totp = new Totp(Base32Encoding.ToBytes(secret));
        tom.Type("[name=code]", totp.ComputeTotp());
        tom.Send("[name=current]", Password + Keys.Enter);
        tom.See("Keep these spare codes");
        var spare = tom.Text(".spare-codes li");
        using var elsewhere = new Steps(App.Browser(), app.Url);
        SignIn(elsewhere, "tom@example.org", Password);
        elsewhere.See("Code of your second factor");
        elsewhere.Send("[name=code]", "000000" + Keys.Enter);
        elsewhere.See("That is not the code of now");
        elsewhere.Send("[name=code]", spare + Keys.Enter);
        elsewhere.Until("in by a spare code", () => elsewhere.Url.Contains("/office/range"));
        tom.Open("/office/me");
        tom.See("with 9 spare codes left");
        tom.Until("both stays are listed", () => tom.Count(".stays tbody tr") == 2);
        tom.Click("form[action*=End] button");
        tom.Until("one is left", () => tom.Count(".stays tbody tr") == 1);
        // Signed out elsewhere while working there: the code is asked for beside the work.
        elsewhere.Open("/office/me");
        elsewhere.Until("out", () => elsewhere.Url.Contains("/office/sign-in"));
    }

    [Fact]
    public async Task A_cookie_is_worthless_after_signing_out_and_after_signing_out_everywhere()
    {
        _s.SignIn();
        using var kept = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false, UseCookies = false });
        async Task<HttpStatusCode> With(string cookie)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, app.Url + "/office/range");
            request.Headers.Add("Cookie", $"unicus-person={cookie}");
            return (await kept.SendAsync(request)).StatusCode;
        }
        string Cookie() => _s.Browser.Manage().Cookies.GetCookieNamed("unicus-person")!.Value;
        var first = Cookie();
        Assert.Equal(HttpStatusCode.OK, await With(first));
        Leave(_s);
        Assert.Equal(HttpStatusCode.Redirect, await With(first));
        _s.SignIn();
        var second = Cookie();
        _s.Open("/office/me");
        _s.Click("#everywhere");
        _s.Until("out", () => _s.Url.Contains("/office/sign-in"));
        Assert.Equal(HttpStatusCode.Redirect, await With(second));
    }

    [Fact]
    public void A_forgotten_password_is_replaced_by_the_link_and_strangers_hear_the_same()
    {
        _s.SignIn();
        using var pia = new Steps(App.Browser(), app.Url);
        Add(pia, "Pia", "pia@example.org", "staff");
        Leave(pia);
        foreach (var email in new[] { "pia@example.org", "nobody@example.org" })
        {
            pia.Open("/office/new-password");
            pia.Send("[name=email]", email + Keys.Enter);
            pia.See($"If there is an account with {email}, a link to a new password is on its way");
        }
        var link = _s.LinkTo("pia@example.org");
        pia.Open(link);
        pia.Send("[name=password]", "password1234" + Keys.Enter);
        pia.See("among the first that are tried");
        pia.Send("[name=password]", "nine other plain bees" + Keys.Enter);
        pia.See("Your password is changed");
        pia.Open(link);
        pia.Send("[name=password]", "ten other plain bees" + Keys.Enter);
        pia.See("This link was used before");
        SignIn(pia, "pia@example.org", Password);
        pia.See("do not belong together");
        SignIn(pia, "pia@example.org", "nine other plain bees");
        pia.Until("in", () => pia.Url.Contains("/office/range"));
    }

    [Fact]
    public async Task Keys_open_what_their_scopes_say_until_they_are_withdrawn()
    {
        _s.SignIn();
        _s.Open("/office/keys");
        _s.Type("[name=called]", "price screen");
        _s.Click(".make-key button");
        var key = _s.Attribute(".made-key", "value")!;
        Assert.Empty(_s.SeriousFindings());
        using var client = new HttpClient { BaseAddress = new Uri(app.Url + "/api/v1/") };
        client.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", key);
        using var range = await client.GetAsync("products");
        Assert.Equal(HttpStatusCode.OK, range.StatusCode);
        Assert.True(range.Headers.CacheControl!.NoStore);
        // What opens a page is not for those who only read.
        using (var owner = app.Client())
        {
            const string closed = """
                { "format": "unicus-product/1", "code": "LOCKED1", "name": "Locked", "base": { "price": "1.00" },
                  "shelf": { "password": "Skep 9" } }
                """;
            (await owner.PutAsync("products/LOCKED1", App.Json(closed))).EnsureSuccessStatusCode();
            (await owner.PostAsync("products/LOCKED1/publish", App.Json(""))).EnsureSuccessStatusCode();
            foreach (var query in new[] { "", "?edition=latest" })
            {
                Assert.Contains("Skep 9", await owner.GetStringAsync($"products/LOCKED1{query}"), StringComparison.Ordinal);
                Assert.DoesNotContain("Skep 9", await client.GetStringAsync($"products/LOCKED1{query}"), StringComparison.Ordinal);
            }
        }
        foreach (var (method, path) in new[] { ("GET", "orders"), ("PUT", "shop"), ("DELETE", "products/FYK"), ("POST", "orders") })
        {
            using var request = new HttpRequestMessage(new HttpMethod(method), path) { Content = App.Json("{}") };
            using var reply = await client.SendAsync(request);
            Assert.Equal(HttpStatusCode.Forbidden, reply.StatusCode);
            Assert.Contains("lacks the scope", await reply.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        }
        _s.Open("/office/keys");
        Assert.DoesNotContain(key, _s.Browser.PageSource, StringComparison.Ordinal);
        Assert.DoesNotContain("never", _s.Text("tbody tr"), StringComparison.Ordinal);
        _s.Click("[aria-label='Withdraw price screen']");
        _s.See("withdrawn");
        using var after = await client.GetAsync("products");
        Assert.Equal(HttpStatusCode.Unauthorized, after.StatusCode);
    }

    [Fact]
    public async Task A_buyer_is_erased_from_an_order_that_was_sent()
    {
        using var client = app.Client();
        using var placed = await client.PostAsync(
            "orders",
            App.Json(
                """
                { "lines": [ { "sku": "SMK", "quantity": 1 } ], "destination": "IE",
                  "buyer": { "name": "Vera Mole", "email": "vera@example.org" } }
                """
            )
        );
        var body = await placed.Content.ReadAsStringAsync();
        Assert.True(placed.IsSuccessStatusCode, body);
        var number = System.Text.Json.Nodes.JsonNode.Parse(body)!["number"]!.ToString();
        _s.SignIn();
        _s.Open($"/office/orders/{number}");
        Assert.False(_s.Has("#erase"));
        _s.Click("#dispatch");
        _s.See("Dispatched");
        _s.See("Vera Mole");
        _s.Click("#erase");
        _s.Click("#do-erase");
        _s.Until("the buyer is gone", () => !_s.Text("main").Contains("Vera Mole", StringComparison.Ordinal));
        _s.See("Erased");
        _s.Open("/office/events?kind=Erased");
        _s.See("Erased a buyer with 1 order");
        using var after = await client.GetAsync($"orders/{number}");
        Assert.DoesNotContain("vera@example.org", await after.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }
}
