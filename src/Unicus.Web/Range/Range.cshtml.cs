using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Primitives;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Range;

/// <summary>A product as a row of the range.</summary>
/// <param name="Version">Of its working copy.</param>
public sealed record RangeRow(
    string Code,
    int Version,
    string Name,
    string? Picture,
    string MadeOf,
    string Price,
    decimal? Low,
    decimal? High,
    string Available,
    string Category,
    string Mark,
    string State,
    string StateNote
)
{
    /// <summary>The margin on one scale for all rows: 0 to 80 % over 124 units.</summary>
    public string BarStart => (Math.Clamp(Low!.Value, 0, 80) / 80 * 124).ToString("0.#");

    public string BarWidth => Math.Max(3, (Math.Clamp(High!.Value, 0, 80) - Math.Clamp(Low!.Value, 0, 80)) / 80 * 124).ToString("0.#");
}

/// <summary>A column of the list, by which it can be sorted.</summary>
/// <param name="Right">Whether it holds numbers, which line up at their right.</param>
public sealed record ListColumn(string Key, string Label, bool Right);

/// <summary>A state by which the list is narrowed.</summary>
public sealed record ListedState(string Key, string Label, int? Count);

/// <summary>All the products of the shop.</summary>
public sealed class RangeModel(OfficeLists lists, CategoryTree tree, ChangeProduct products, ChangeMany many, Visit visit) : PageModel
{
    public static IReadOnlyList<ListColumn> Columns { get; } =
    [
        new("name", "Product", false),
        new("made", "Made of", false),
        new("price", "Price", true),
        new("margin", "Margin 0 to 80 %", false),
        new("available", "Available", true),
        new("category", "Category", false),
        new("state", "State", false),
    ];

    public string Q { get; private set; } = "";
    public string Show { get; private set; } = "";
    public string Sort { get; private set; } = "";
    public string Category { get; private set; } = "";
    public string Made { get; private set; } = "";
    public bool New { get; private set; }
    public string? NewName { get; private set; }
    public string? Problem { get; private set; }
    public int ProductCount { get; private set; }
    public long VariantCount { get; private set; }
    public long P { get; private set; } = 1;
    public int Pages { get; private set; }
    public int Total { get; private set; }
    public IReadOnlyList<ListedState> States { get; private set; } = [];
    public IReadOnlyList<string> Categories { get; private set; } = [];
    public IReadOnlyList<RangeRow> Rows { get; private set; } = [];

    public async Task OnGet(string? q, string? show, string? sort, string? category, string? made, string? @new, string? p)
    {
        P = long.TryParse(p, out var page) ? page : 1;
        (Q, Show, Sort, Category, Made, New) = (TypedText.Search(q), show ?? "", sort ?? "", category ?? "", made ?? "", @new == "1");
        await Look();
    }

    public async Task<IActionResult> OnPostNew(string? name)
    {
        var outcome = await products.Create(name, visit.Actor);
        if (outcome.Done)
            return Redirect($"/office/products/{outcome.Result}/facts");
        (New, NewName, Problem) = (true, name, outcome.Faults[0].What);
        await Look();
        return Page();
    }

    /// <summary>Does one thing to the products that are ticked, and says on the list again what came of it.</summary>
    public async Task<IActionResult> OnPostMany(string[] code, string? act, string? category, string? tag, string? percent, string? back)
    {
        var ticked = code.Select(TickedProduct.Read).ToList();
        if (act == "together")
            return Redirect($"/office/together{QueryString.Create(ticked.Select(t => KeyValuePair.Create("code", (StringValues)t.Code)))}");
        if (!Enum.TryParse<ManyAct>(act, out var wanted) || !Enum.IsDefined(wanted))
            return BadRequest();
        var typed = wanted switch
        {
            ManyAct.Categorise => category,
            ManyAct.Tag => tag,
            _ => percent,
        };
        var outcome = await many.Run(ticked, wanted, typed, visit.Actor);
        var refused = (outcome.Result ?? []).Where(d => d.WhyNot.Length > 0).ToList();
        DoneToMany = outcome.Done ? $"{Done(wanted, typed)}: {outcome.Result!.Count - refused.Count:N0} of {outcome.Result.Count:N0}." : "";
        NotDone = outcome.Done ? [.. refused.Take(MostTold).Select(r => $"{r.Name}: {r.WhyNot}")] : [.. outcome.Faults.Select(f => f.What)];
        if (refused.Count > MostTold)
            NotDone = [.. NotDone, $"And {refused.Count - MostTold:N0} more."];
        return Redirect(Url.IsLocalUrl(back) ? back : "/office/range");
    }

    /// <summary>What was done to several products just now; null where nothing was.</summary>
    [TempData]
    public string? DoneToMany { get; set; }

    /// <summary>What stood in the way of which.</summary>
    [TempData]
    public string[]? NotDone { get; set; }

    private const int MostTold = 12;

    private static string Done(ManyAct act, string? typed) =>
        act switch
        {
            ManyAct.Publish => "Published",
            ManyAct.PutAway => "Put away",
            ManyAct.BringBack => "Brought back",
            ManyAct.Categorise => $"In the category {typed?.Trim()}",
            ManyAct.Tag => $"Tagged {typed?.Trim()}",
            _ => $"Prices moved by {typed?.Trim()} %",
        };

    /// <summary>Which way a column is sorted.</summary>
    public string Arrow(string key) =>
        Sort == key ? " ↑"
        : Sort == "-" + key ? " ↓"
        : "";

    /// <summary>The address of this list with one thing changed.</summary>
    public string With(string name, string value)
    {
        var query = new Dictionary<string, string?>
        {
            ["q"] = Q,
            ["show"] = Show,
            ["sort"] = Sort,
            ["category"] = Category,
            ["made"] = Made,
            [name] = value,
        };
        if (name == "p" && value == "1")
            query.Remove("p");
        return QueryHelpers.AddQueryString("/office/range", query.Where(p => !string.IsNullOrEmpty(p.Value)));
    }

    private async Task Look()
    {
        var list = await lists.Range(new RangeQuery(Q, Show, Category, Made, Sort, P));
        var shop = await visit.Shop();
        (ProductCount, VariantCount) = (list.Sums.Products, list.Sums.Variants);
        (P, Pages, Total) = (list.Page, list.Pages, list.Total);
        States =
        [
            new ListedState("", "all", null),
            new ListedState("mend", "to mend", list.Sums.ToMend),
            new ListedState("doubt", "doubtful", list.Sums.Doubtful),
            new ListedState("changed", "changed", list.Sums.Changed),
            new ListedState("draft", "draft", list.Sums.Drafts),
        ];
        if (list.Sums.Away > 0 || Show == "away")
            States = [.. States, new ListedState("away", "put away", list.Sums.Away)];
        Categories = await tree.Names();
        Rows =
        [
            .. list.Rows.Select(p => Row(p, list.Available.GetValueOrDefault(p.Id), list.OnSale.GetValueOrDefault(p.Id), shop.Currency)),
        ];
    }

    /// <summary>“54 variants, 6 not made”, “one piece”, “5 parts together”, “8 pieces separately”.</summary>
    private static string MadeOf(ListedProduct p)
    {
        string Count(int number, string one, string many) => $"{number:N0} {(number == 1 ? one : many)}";
        var parts =
            p.SlotCount == 0 ? ""
            : p.IsGroup ? Count(p.SlotCount, "piece", "pieces") + " separately"
            : Count(p.SlotCount, "part", "parts") + " together";
        if (p.VariantCount == 0)
            return parts.Length > 0 ? parts : "one piece";
        var variants = Count(p.VariantCount, "variant", "variants") + (p.NotMadeCount > 0 ? $", {p.NotMadeCount:N0} not made" : "");
        return parts.Length > 0 ? $"{variants} of {parts}" : variants;
    }

    private static string PriceOf(ListedProduct p, SetOnSale? set, Currency currency) =>
        p.SlotCount > 0
            ? set is null
                ? "from its parts"
                : set.From is { } from
                    ? (set.Varies ? "from " : "") + from.ForPeople()
                    : "none can be had"
            : p.LowestPrice is { } low
                ? new PriceSpan(new Money(low, currency), new Money(p.HighestPrice!.Value, currency)).ForPeople()
                : "no price";

    /// <summary>Units of goods; how many of a set can be sold; nothing for a group, which has no stock.</summary>
    private static string AvailableOf(ListedProduct p, long available, SetOnSale? set) =>
        p.SlotCount > 0 ? set?.Sets?.ToString("N0") ?? ""
        : p.Counted ? available.ToString("N0")
        : "not counted";

    private static RangeRow Row(ListedProduct p, long available, SetOnSale? set, Currency currency)
    {
        var (mark, note) =
            p.IsAway ? ("ring", "")
            : p.StopCount > 0 ? ("sq", $"{p.StopCount} to mend first")
            : p.DoubtCount > 0 ? ("dia", $"{p.DoubtCount} doubtful")
            : p.Edition is null ? ("ring", "ready to publish")
            : ("ok", "");
        var state =
            p.IsAway ? "Put away"
            : p.Edition is null ? "Draft"
            : p.IsChanged ? "On sale, changed"
            : "On sale";
        return new RangeRow(
            p.Code,
            p.Version,
            p.Name,
            p.Picture,
            MadeOf(p),
            PriceOf(p, set, currency),
            p.LowestMargin,
            p.HighestMargin,
            AvailableOf(p, available, set),
            string.Join(", ", p.Categories),
            mark,
            state,
            note
        );
    }
}
