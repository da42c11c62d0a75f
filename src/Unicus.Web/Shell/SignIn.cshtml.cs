using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>Signs people in and out; in an empty shop it makes the first account, in a demo shop it offers the demo one.</summary>
[EnableRateLimiting(Strangers.SignIn)]
public sealed class SignInModel(
    SignInManager<IdentityUser> door,
    UserManager<IdentityUser> people,
    RoleManager<IdentityRole> roles,
    Visit visit,
    UnicusContext db
) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? ReturnUrl { get; set; }

    public string? Problem { get; private set; }
    public string? Email { get; private set; }
    public bool OffersDemo { get; private set; }
    public bool NobodyYet { get; private set; }

    public Task OnGet() => Look();

    public async Task<IActionResult> OnPost(string? email, string? password)
    {
        var result = await door.PasswordSignInAsync(email ?? "", password ?? "", isPersistent: false, lockoutOnFailure: true);
        if (result.Succeeded)
            return Enter();
        (Email, Problem) = (email, WhyNot(result));
        await Look();
        return Page();
    }

    public async Task<IActionResult> OnPostDemo() => await EnterDemo() ? Enter() : NotFound();

    /// <summary>A small form for whoever was signed out while working, so that the page need not be left.</summary>
    public async Task<IActionResult> OnGetBeside()
    {
        await Look();
        return Partial("_Beside", this);
    }

    /// <summary>Signs in without another page; what is wrong is said in a sentence.</summary>
    public async Task<IActionResult> OnPostBeside(string? email, string? password)
    {
        var result = await door.PasswordSignInAsync(email ?? "", password ?? "", isPersistent: false, lockoutOnFailure: true);
        return result.Succeeded
            ? new NoContentResult()
            : new ContentResult { StatusCode = StatusCodes.Status422UnprocessableEntity, Content = WhyNot(result) };
    }

    public async Task<IActionResult> OnPostBesideDemo() => await EnterDemo() ? new NoContentResult() : NotFound();

    /// <summary>The form token of whoever is signed in now, for a page that was opened before.</summary>
    public IActionResult OnGetToken([FromServices] IAntiforgery antiforgery) =>
        User.Identity?.IsAuthenticated == true ? Content(antiforgery.GetAndStoreTokens(HttpContext).RequestToken!) : Unauthorized();

    public async Task<IActionResult> OnPostFirst(string? email, string? password)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        await db.Database.ExecuteSqlAsync($"select 1 from shop for update");
        if (await people.Users.AnyAsync())
            return NotFound();
        foreach (var role in new[] { "owner", "staff" })
            if (!await roles.RoleExistsAsync(role))
                await roles.CreateAsync(new IdentityRole(role));
        var user = new IdentityUser(email ?? "") { Email = email };
        var made = await people.CreateAsync(user, password ?? "");
        if (!made.Succeeded)
        {
            Problem = string.Join(' ', made.Errors.Select(e => e.Description));
            await Look();
            return Page();
        }
        await people.AddToRoleAsync(user, "owner");
        await transaction.CommitAsync();
        await door.SignInAsync(user, isPersistent: false);
        return Enter();
    }

    public async Task<IActionResult> OnPostOut()
    {
        await door.SignOutAsync();
        return Redirect("/");
    }

    private static string WhyNot(Microsoft.AspNetCore.Identity.SignInResult result) =>
        result.IsLockedOut ? "Too many wrong passwords. Wait five minutes." : "Email and password do not belong together.";

    private async Task<bool> EnterDemo()
    {
        if (!(await visit.Shop()).OffersDemoAccount)
            return false;
        await door.SignInAsync(await people.Users.OrderBy(u => u.UserName).FirstAsync(), isPersistent: false);
        return true;
    }

    private LocalRedirectResult Enter() => LocalRedirect(Url.IsLocalUrl(ReturnUrl) ? ReturnUrl! : "/office/range");

    private async Task Look()
    {
        OffersDemo = (await visit.Shop()).OffersDemoAccount;
        NobodyYet = !await people.Users.AnyAsync();
    }
}
