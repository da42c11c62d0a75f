using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.WebUtilities;
using Unicus.Store;

namespace Unicus.Web.Stock;

/// <summary>Every SKU that has moved, with its levels over all locations.</summary>
public sealed class StockModel(OfficeLists lists, SetsToMakeUp sets) : PageModel
{
    public string Q { get; private set; } = "";
    public string Show { get; private set; } = "";
    public StockPage List { get; private set; } = null!;

    /// <summary>Sets to make up, on the first page of the whole list.</summary>
    public IReadOnlyList<SetToMakeUp> ToMakeUp { get; private set; } = [];

    public async Task OnGet(string? q, string? show, string? p)
    {
        (Q, Show) = (TypedText.Search(q), show is "none" or "low" ? show : "");
        var which =
            Show == "none" ? StockFilter.NoneLeft
            : Show == "low" ? StockFilter.Low
            : StockFilter.All;
        List = await lists.Stock(Q, which, long.TryParse(p, out var page) ? page : 1);
        if (Q.Length == 0 && List.Page == 1)
            ToMakeUp = await sets.List();
    }

    /// <summary>The address of this list.</summary>
    public string Address(string show, int page)
    {
        var query = new Dictionary<string, string?>
        {
            ["q"] = Q,
            ["show"] = show,
            ["p"] = page > 1 ? page.ToString() : "",
        };
        return QueryHelpers.AddQueryString("/office/stock", query.Where(x => !string.IsNullOrEmpty(x.Value)));
    }
}
