using System.Collections.Immutable;
using System.Globalization;
using System.Security.Claims;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>Who is here, and the shop's settings, once per request.</summary>
public sealed class Visit(ShopReading reading, CustomerAccounts accounts, IHttpContextAccessor http, TimeProvider clock)
{
    private ShopSettings? _shop;
    private Task<Customer?>? _customer;

    /// <summary>Who acts; with the name of their stay in a field, where a script says that they are still typing.</summary>
    public Actor Actor =>
        new(Name)
        {
            Typing = http.HttpContext?.Request.Headers["X-Unicus-Typing"].ToString() is { Length: > 0 and <= 40 } stay ? stay : null,
        };

    /// <summary>Who has signed in to the back office, as people know them.</summary>
    public string Name => http.HttpContext?.User.Identity?.Name is { Length: > 0 } name ? name : "nobody";

    /// <summary>Who asks, and from where.</summary>
    public Caller Caller =>
        new(Strangers.AddressOf(http.HttpContext!), Devices.Named(http.HttpContext!.Request.Headers.UserAgent.ToString()));

    public bool IsHtmx => http.HttpContext?.Request.Headers.ContainsKey("HX-Request") == true;

    public async Task<ShopSettings> Shop() => _shop ??= await reading.Settings();

    /// <summary>What stands around every product, kept until it changes.</summary>
    public async Task<Surroundings> Around() => new(await Shop(), await reading.SharedSets());

    /// <summary>What prices go by for anyone now.</summary>
    public Task<RunTerms> PublicTerms() => reading.PublicTerms();

    /// <summary>The cookie by which customers with an account are known.</summary>
    public const string CustomerCookie = "unicus-customer";

    /// <summary>The cookie with the code of the customer group that a shopper said they belong to.</summary>
    public const string GroupCookie = "unicus-group";

    /// <summary>What prices go by for this shopper now: for everyone, or for the group whose code they typed.</summary>
    public async Task<RunTerms> ShopperTerms()
    {
        var terms = await PublicTerms();
        var named = terms.Buying.Book.GroupsCalled(http.HttpContext?.Request.Cookies[GroupCookie]);
        var groups = named.Concat(await CustomerGroups()).Distinct().ToList();
        return groups.Count == 0 ? terms : terms with { Buying = terms.Buying with { Groups = [.. groups] } };
    }

    /// <summary>The account that the shopper is signed in with; null for none.</summary>
    public Task<Customer?> Customer() => _customer ??= FindCustomer();

    /// <summary>The groups that the shopper is in by their account.</summary>
    public async Task<ImmutableArray<Key>> CustomerGroups() => (await Customer())?.Group is { } group ? [Key.Of(group)] : [];

    private async Task<Customer?> FindCustomer()
    {
        if (http.HttpContext is not { } context || !context.Request.Cookies.ContainsKey(CustomerCookie))
            return null;
        var read = await context.AuthenticateAsync(CustomerAccounts.Scheme);
        return read.Principal?.FindFirst(ClaimTypes.NameIdentifier)?.Value is { } id
            ? await accounts.Find(int.Parse(id, CultureInfo.InvariantCulture))
            : null;
    }

    public async Task<DateOnly> Today() => (await Shop()).DayAt(clock.GetUtcNow());

    /// <summary>Leads people to the sign-in page; a script that asks for a part of a page hears that it is signed out, so that the page
    /// stays.</summary>
    public static Task AskToSignIn(RedirectContext<CookieAuthenticationOptions> context)
    {
        if (ProblemReply.IsPartial(context.Request))
            context.Response.StatusCode = StatusCodes.Status401Unauthorized;
        else
            context.Response.Redirect(context.RedirectUri);
        return Task.CompletedTask;
    }

    public static Task Refuse(RedirectContext<CookieAuthenticationOptions> context)
    {
        context.Response.StatusCode = StatusCodes.Status403Forbidden;
        return Task.CompletedTask;
    }

    /// <summary>“12 March, 14:02”, with the year where it is another one.</summary>
    public async Task<string> When(DateTimeOffset at)
    {
        var shop = await Shop();
        var local = shop.LocalTime(at);
        var now = shop.LocalTime(clock.GetUtcNow());
        return local.ToString(
            local.Date == now.Date ? "HH:mm"
            : local.Year == now.Year ? "d MMMM, HH:mm"
            : "d MMMM yyyy"
        );
    }
}
