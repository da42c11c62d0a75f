using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;
using Unicus.Store;

namespace Unicus.Web.Shell;

/// <summary>The first page of an empty shop: whose it is, and what a shop cannot be without.</summary>
[EnableRateLimiting(Strangers.SignIn)]
public sealed class FirstModel(FirstAccount first, Entrance entrance, Visit visit) : PageModel
{
    [BindProperty]
    public string? Code { get; set; }

    [BindProperty]
    public string? Email { get; set; }

    [BindProperty]
    public string? PersonName { get; set; }

    [BindProperty]
    public string? Shop { get; set; }

    [BindProperty]
    public string? Currency { get; set; } = "EUR";

    [BindProperty]
    public string? TimeZone { get; set; } = "Europe/Dublin";

    [BindProperty]
    public bool PricesIncludeTax { get; set; } = true;

    [BindProperty]
    public string? Destination { get; set; }

    [BindProperty]
    public string? DestinationName { get; set; }

    [BindProperty]
    public string? TaxRate { get; set; }

    public IReadOnlyList<Fault> Faults { get; private set; } = [];

    public IEnumerable<string> FaultsOf(string where) => Faults.Where(f => f.Where == where).Select(f => f.What);

    public async Task<IActionResult> OnGet() => await first.IsWanted() ? Page() : Redirect("/office/sign-in");

    public async Task<IActionResult> OnPost(string? password)
    {
        var outcome = await first.Make(
            new FirstSettings(
                Code ?? "",
                TypedText.Line(Email),
                TypedText.Line(PersonName),
                password ?? "",
                TypedText.Line(Shop),
                TypedText.Line(Currency).ToUpperInvariant(),
                TypedText.Line(TimeZone),
                PricesIncludeTax,
                TypedText.Line(Destination),
                TypedText.Line(DestinationName),
                TypedText.Line(TaxRate)
            ),
            visit.Caller
        );
        if (outcome.Result is { } person)
        {
            await HttpContext.LetIn(person, entrance.DeviceOf(person));
            return Redirect("/office/range");
        }
        Faults = outcome.Faults;
        return Page();
    }
}
