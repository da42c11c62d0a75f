using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Office;

/// <summary>Who works in the back office, and what each may do. For owners.</summary>
public sealed class PeopleModel(ChangePeople change, Visit visit) : PageModel
{
    public IReadOnlyList<Person> People { get; private set; } = [];
    public IReadOnlyList<Fault> Faults { get; private set; } = [];
    public string? Said { get; private set; }

    [BindProperty]
    public string? Email { get; set; }

    [BindProperty]
    public string? Called { get; set; }

    [BindProperty]
    public string? Role { get; set; }

    public async Task OnGet(string? said)
    {
        Said = said switch
        {
            "added" => "Added. A message with a link to a password is in the outbox.",
            "invited" => "A new link is in the outbox.",
            "changed" => "Done. They sign in anew.",
            _ => null,
        };
        People = await change.List();
    }

    public async Task<IActionResult> OnPost() =>
        await After(
            "added",
            await change.Add(
                TypedText.Line(Email),
                TypedText.Line(Called),
                Role ?? "",
                visit.Actor,
                t => NewPasswordModel.LinkFor(Request, t)
            )
        );

    public async Task<IActionResult> OnPostRole(string? id, string? role) =>
        await After("changed", await change.SetRole(id ?? "", role ?? "", visit.Actor));

    public async Task<IActionResult> OnPostRemove(string? id) => await After("changed", await change.Remove(id ?? "", visit.Actor));

    public async Task<IActionResult> OnPostBack(string? id) => await After("changed", await change.BringBack(id ?? "", visit.Actor));

    public async Task<IActionResult> OnPostFactor(string? id) =>
        await After("changed", await change.ResetSecondFactor(id ?? "", visit.Actor));

    public async Task<IActionResult> OnPostInvite(string? id) =>
        await change.InviteAgain(id ?? "", visit.Actor, t => NewPasswordModel.LinkFor(Request, t))
            ? Redirect("/office/people?said=invited")
            : NotFound();

    private async Task<IActionResult> After(string said, Outcome outcome)
    {
        if (outcome.Done)
            return Redirect($"/office/people?said={said}");
        Faults = outcome.Faults;
        People = await change.List();
        return Page();
    }
}
