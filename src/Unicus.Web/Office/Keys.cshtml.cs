using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Office;

/// <summary>Keys for the HTTP interface. For owners.</summary>
public sealed class KeysModel(ApiKeys keys, Visit visit) : PageModel
{
    public IReadOnlyList<ApiKey> Keys { get; private set; } = [];
    public IReadOnlyList<Fault> Faults { get; private set; } = [];

    /// <summary>The key that was made just now; it is shown this once.</summary>
    public string? Made { get; private set; }

    public string? Called { get; private set; }
    public IReadOnlyList<string> Scopes { get; private set; } = [ApiScopes.Read];

    /// <summary>What the scopes mean, in words.</summary>
    public static IReadOnlyList<(string Scope, string Words)> Meanings { get; } =
    [
        (ApiScopes.Read, "look at goods, prices and stock"),
        (ApiScopes.Products, "change goods, price rules, coupons, stock and settings"),
        (ApiScopes.Orders, "place, see, send and cancel orders, with names of buyers"),
    ];

    public async Task OnGet() => Keys = await keys.List();

    public async Task OnPost(string? called, List<string>? scopes)
    {
        (Called, Scopes) = (TypedText.Line(called), scopes ?? []);
        var outcome = await keys.Make(Called, Scopes.ToList(), visit.Actor);
        (Made, Faults) = (outcome.Result, outcome.Faults);
        if (outcome.Done)
            (Called, Scopes) = (null, [ApiScopes.Read]);
        Keys = await keys.List();
    }

    public async Task OnPostWithdraw(int id)
    {
        await keys.Withdraw(id, visit.Actor);
        Keys = await keys.List();
    }
}
