using System.Net;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>Signs people in and out; in a demo shop it offers the demo account.</summary>
[EnableRateLimiting(Strangers.SignIn)]
public sealed class SignInModel(Entrance entrance, FirstAccount first, EventLog log, Visit visit) : PageModel
{
    /// <summary>The header that says to a script that the code of the second factor is wanted.</summary>
    private const string HalfHeader = "X-Unicus-Half";

    [BindProperty(SupportsGet = true)]
    public string? ReturnUrl { get; set; }

    /// <summary>What says that the password was right and the code is still wanted; null before that.</summary>
    public string? Half { get; private set; }

    public string? Problem { get; private set; }
    public string? Said { get; private set; }
    public string? Email { get; private set; }
    public bool OffersDemo { get; private set; }

    private string? Device => Request.Cookies[Entering.DeviceCookie];

    public async Task<IActionResult> OnGet(bool changed)
    {
        if (await first.IsWanted())
            return Redirect("/office/first");
        Said = changed ? "Your password is changed. Sign in with it." : null;
        return await Show();
    }

    public async Task<IActionResult> OnPost(string? email, string? password)
    {
        Email = email;
        return await Enter(await entrance.Enter(email ?? "", password ?? "", visit.Caller, Device));
    }

    public async Task<IActionResult> OnPostCode(string? half, string? code)
    {
        Half = half;
        return await Enter(await entrance.EnterWithCode(half ?? "", code ?? "", visit.Caller, Device));
    }

    public async Task<IActionResult> OnPostDemo() => await EnterDemo() ? Onwards() : NotFound();

    /// <summary>A small form for whoever was signed out while working, so that the page need not be left.</summary>
    public async Task<IActionResult> OnGetBeside()
    {
        OffersDemo = await HasDemoDoor();
        return Partial("_Beside", this);
    }

    /// <summary>Signs in without another page; what is wrong is said in a sentence.</summary>
    public async Task<IActionResult> OnPostBeside(string? email, string? password, string? half, string? code)
    {
        var entry = string.IsNullOrEmpty(half)
            ? await entrance.Enter(email ?? "", password ?? "", visit.Caller, Device)
            : await entrance.EnterWithCode(half, code ?? "", visit.Caller, Device);
        switch (entry)
        {
            case Entry.Entered entered:
                await HttpContext.LetIn(entered.Person, entrance.DeviceOf(entered.Person));
                return new NoContentResult();
            case Entry.NeedsCode more:
                Response.Headers[HalfHeader] = more.Half;
                return No("Now the code of your second factor.");
            default:
                return No(((Entry.Refused)entry).Why);
        }
    }

    public async Task<IActionResult> OnPostBesideDemo() => await EnterDemo() ? new NoContentResult() : NotFound();

    /// <summary>The form token of whoever is signed in now, for a page that was opened before.</summary>
    public IActionResult OnGetToken([FromServices] IAntiforgery antiforgery) =>
        User.Identity?.IsAuthenticated == true ? Content(antiforgery.GetAndStoreTokens(HttpContext).RequestToken!) : Unauthorized();

    public async Task<IActionResult> OnPostOut()
    {
        if (User.Identity?.IsAuthenticated == true)
        {
            await log.SignedOut(visit.Name, visit.Caller.Device, visit.Caller);
        }
        await HttpContext.SignOutAsync(ChangePeople.Scheme);
        return Redirect("/");
    }

    private static ContentResult No(string why) => new() { StatusCode = StatusCodes.Status422UnprocessableEntity, Content = why };

    private async Task<IActionResult> Enter(Entry entry)
    {
        switch (entry)
        {
            case Entry.Entered entered:
                await HttpContext.LetIn(entered.Person, entrance.DeviceOf(entered.Person));
                return Onwards();
            case Entry.NeedsCode more:
                Half = more.Half;
                break;
            case Entry.Refused refused:
                Problem = refused.Why;
                break;
        }
        return await Show();
    }

    private async Task<IActionResult> Show()
    {
        OffersDemo = await HasDemoDoor();
        return Page();
    }

    /// <summary>The demo account stands open only to whoever sits at the machine that serves it.</summary>
    private async Task<bool> HasDemoDoor() =>
        (await visit.Shop()).OffersDemoAccount
        && HttpContext.Connection.RemoteIpAddress is { } address
        && IPAddress.IsLoopback(address.IsIPv4MappedToIPv6 ? address.MapToIPv4() : address)
        && (Request.Host.Host is "localhost" or "127.0.0.1" or "[::1]");

    private async Task<bool> EnterDemo()
    {
        if (!await HasDemoDoor())
            return false;
        await HttpContext.LetIn(await entrance.EnterDemo(visit.Caller), device: null);
        return true;
    }

    private LocalRedirectResult Onwards() => LocalRedirect(Url.IsLocalUrl(ReturnUrl) ? ReturnUrl! : "/office/range");
}
