using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using QRCoder;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Office;

/// <summary>Somebody's own account: password, second factor, and where they are signed in.</summary>
public sealed class MeModel(OwnAccount account, Sessions sessions, EventLog log, Visit visit) : PageModel
{
    public Person Person { get; private set; } = null!;
    public IReadOnlyList<Stay> Stays { get; private set; } = [];
    public IReadOnlyList<Fault> Faults { get; private set; } = [];
    public string? Said { get; private set; }

    /// <summary>The secret that is being set up; null where none is.</summary>
    public string? Secret { get; private set; }

    /// <summary>The square of dots of the secret, as SVG.</summary>
    public string? Square { get; private set; }

    /// <summary>Spare codes made just now; shown this once.</summary>
    public IReadOnlyList<string> Spare { get; private set; } = [];

    /// <summary>The stay of this page.</summary>
    public string? Stay => StoredTickets.StayOf(HttpContext, ChangePeople.Scheme);

    private string Id => User.PersonId();

    public IEnumerable<string> FaultsOf(string where) => Faults.Where(f => f.Where == where).Select(f => f.What);

    public Task<IActionResult> OnGet(string? said)
    {
        Said = said switch
        {
            "password" => "Your password is changed; every other device is signed out.",
            "off" => "The second factor is off.",
            _ => null,
        };
        return Show();
    }

    public async Task<IActionResult> OnPostPassword(string? old, string? password)
    {
        var outcome = await account.ChangePassword(Id, old ?? "", password ?? "", Stay);
        if (outcome.Done)
            return Redirect("/office/me?said=password");
        Faults = outcome.Faults;
        return await Show();
    }

    /// <summary>Shows a new secret to be taken by a device.</summary>
    public Task<IActionResult> OnPostFactor()
    {
        Secret = SecondFactor.NewSecret();
        return Show();
    }

    public async Task<IActionResult> OnPostTurnOn(string? secret, string? code, string? current)
    {
        var outcome = await account.TurnOn(Id, current ?? "", secret ?? "", code ?? "");
        if (outcome.Result is { } codes)
            Spare = codes;
        else
            (Faults, Secret) = (outcome.Faults, SecondFactor.IsSecret(secret) ? secret : SecondFactor.NewSecret());
        return await Show();
    }

    public async Task<IActionResult> OnPostTurnOff(string? current)
    {
        var outcome = await account.TurnOff(Id, current ?? "");
        if (outcome.Done)
            return Redirect("/office/me?said=off");
        Faults = outcome.Faults;
        return await Show();
    }

    /// <summary>Ends one other stay.</summary>
    public async Task<IActionResult> OnPostEnd(string? stay)
    {
        await sessions.EndOf(ChangePeople.Scheme, Id, only: stay ?? "");
        return Redirect("/office/me");
    }

    /// <summary>Ends every stay, this one too.</summary>
    public async Task<IActionResult> OnPostEverywhere()
    {
        await log.SignedOut(visit.Name, "Signed out everywhere", visit.Caller);
        await sessions.EndOf(ChangePeople.Scheme, Id);
        await HttpContext.SignOutAsync(ChangePeople.Scheme);
        return Redirect("/office/sign-in");
    }

    private async Task<IActionResult> Show()
    {
        if (await account.Find(Id) is not { } person)
            return NotFound();
        (Person, Stays) = (person, await sessions.Of(ChangePeople.Scheme, Id));
        if (Secret is not null)
            Square = SquareOf(SecondFactor.AddressOf(Secret, (await visit.Shop()).Name, person.Email));
        return Page();
    }

    private static string SquareOf(string text)
    {
        using var data = QRCodeGenerator.GenerateQrCode(text, QRCodeGenerator.ECCLevel.M);
        return new SvgQRCode(data).GetGraphic(4, "#22303c", "#ffffff", drawQuietZones: true, SvgQRCode.SizingMode.ViewBoxAttribute);
    }
}
