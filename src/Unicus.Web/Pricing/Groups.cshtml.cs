using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Pricing;

/// <summary>Customer groups, and lists of codes that each work once.</summary>
[RequestSizeLimit(LongestRequest)]
public sealed class GroupsModel(PriceRuleReading reading, ChangePriceRules rules, Coupons coupons, CustomerAccounts accounts) : PageModel
{
    private const long LongestRequest = 16L * 1024 * 1024;
    private const int CodesShown = 50;
    private const int MostMembers = 500;
    private const int MostMade = 10_000;

    public IReadOnlyList<CustomerGroup> Groups { get; private set; } = [];

    /// <summary>The accounts that are in a group.</summary>
    public IReadOnlyList<Customer> Members { get; private set; } = [];

    public IReadOnlyList<CouponList> Lists { get; private set; } = [];

    /// <summary>The list that is open; null where none is.</summary>
    public string? Open { get; private set; }

    /// <summary>The first codes of the list that is open, the used ones first.</summary>
    public IReadOnlyList<ListedCode> Codes { get; private set; } = [];

    public string? Problem { get; private set; }
    public string Typed { get; private set; } = "";

    public Task OnGet(string? list)
    {
        Open = list;
        return Look();
    }

    public async Task<IActionResult> OnPostGroup(string? label, string? code)
    {
        var name = TypedText.Line(label);
        if (name.Length is 0 or > 120)
            return await Say("A group needs a name of 1 to 120 characters.");
        var groups = await reading.Groups();
        var key = groups.FirstOrDefault(g => g.Label == name)?.Key ?? Key.From(name, groups.Select(g => g.Key).ToHashSet(), "group");
        var outcome = await rules.PutGroup(key, name, TypedText.Line(code));
        return outcome.Done ? Redirect("/office/pricing/groups") : await Say(outcome.Faults[0].What);
    }

    /// <summary>Puts an account of a customer into a group, or into none.</summary>
    public async Task<IActionResult> OnPostMember(string? email, string? group)
    {
        if (group is { Length: > 0 } && (await reading.Groups()).All(g => g.Key.Text != group))
            return await Say("There is no such group.");
        var done = await accounts.PutIntoGroup(TypedText.Line(email), string.IsNullOrEmpty(group) ? null : group);
        return done ? Redirect("/office/pricing/groups") : await Say($"There is no account with {TypedText.Line(email)}.");
    }

    /// <summary>Adds codes to a list: pasted, one a line, or so many made at random.</summary>
    public async Task<IActionResult> OnPostCodes(string? list, string? codes, string? make, IFormFile? file)
    {
        (Open, Typed) = (list, TypedText.Lines(codes));
        if (!Key.TryParse(TypedText.Line(list).ToLowerInvariant(), out var key))
            return await Say($"A list needs a key: {Key.Shape}.");
        var wanted = Typed.Split(['\n', ',', ';', '\t'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).ToList();
        if (file is not null)
        {
            using var reader = new StreamReader(file.OpenReadStream());
            while (await reader.ReadLineAsync() is { } line)
                if (TypedText.Line(line.Split([',', ';', '\t'])[0].Trim('"')) is { Length: > 0 } code)
                    wanted.Add(code);
        }
        if (int.TryParse(make, out var count))
        {
            if (count is < 1 or > MostMade)
                return await Say($"From 1 to {MostMade:N0} codes are made at once.");
            wanted.AddRange(Enumerable.Range(0, count).Select(_ => CouponCodes.Make()));
        }
        if (wanted.Count == 0)
            return await Say("Paste codes, choose a file, or say how many to make.");
        var outcome = await coupons.Put(key, wanted, besides: true);
        return outcome.Done ? Redirect($"/office/pricing/groups?list={key}") : await Say(outcome.Faults[0].What);
    }

    private async Task<IActionResult> Say(string problem)
    {
        Problem = problem;
        await Look();
        return Page();
    }

    private async Task Look()
    {
        (Groups, Members, Lists) = (await reading.Groups(), await accounts.InGroups(MostMembers), await reading.Lists());
        Codes = Open is null ? [] : await reading.Codes(Open, CodesShown);
    }
}
