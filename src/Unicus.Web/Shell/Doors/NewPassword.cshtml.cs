using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;
using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>Sends people a link to a new password, and takes the password that they choose by it.</summary>
[EnableRateLimiting(Strangers.SignIn)]
public sealed class NewPasswordModel(OwnAccount account, Visit visit) : PageModel
{
    /// <summary>The token of the link that was followed; null where none was.</summary>
    public string? Token { get; private set; }

    public string? Said { get; private set; }
    public IReadOnlyList<Fault> Faults { get; private set; } = [];

    public void OnGet(string? token) => Token = token;

    public async Task OnPost(string? email)
    {
        var typed = TypedText.Line(email);
        await account.Recover(typed, visit.Caller, token => LinkFor(Request, token));
        Said = $"If there is an account with {typed}, a link to a new password is on its way. It works for two hours.";
    }

    public async Task<IActionResult> OnPostChoose(string? token, string? password)
    {
        var outcome = await account.Reset(token ?? "", password ?? "");
        if (outcome.Done)
            return Redirect("/office/sign-in?changed=true");
        (Faults, Token) = (outcome.Faults, outcome.Faults[0].Where == "password" ? token : null);
        return Page();
    }

    /// <summary>Where somebody chooses a password.</summary>
    public static string LinkFor(HttpRequest request, string token) =>
        $"{request.Scheme}://{request.Host}/office/new-password?token={token}";
}
