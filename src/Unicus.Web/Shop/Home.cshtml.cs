using System.Collections.Immutable;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.WebUtilities;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>The shop's lists: everything, a category, or what a search finds, by pages, in an order, filtered.</summary>
public sealed class HomeModel(RangeLists lists, Visit visit) : PageModel
{
    private const int MostPicks = 20;

    /// <summary>The orders to choose from.</summary>
    public static IReadOnlyList<(string Key, string Label)> Orders { get; } =
    [("", "as we show it"), ("name", "by name"), ("price", "by price"), ("newest", "newest first")];

    public string Q { get; private set; } = "";
    public string Sort { get; private set; } = "";
    public bool InStock { get; private set; }
    public ListPage List { get; private set; } = null!;
    public Currency Currency { get; private set; } = Currency.Euro;

    /// <summary>What the start page leads with; nothing elsewhere.</summary>
    public IReadOnlyList<ShownProduct> Featured { get; private set; } = [];
    public string Heading { get; private set; } = "";

    /// <summary>Whether anything narrows the list.</summary>
    public bool IsFiltered => InStock || Picked.Any();

    /// <summary>The filters that are on.</summary>
    public IEnumerable<FilterValue> Picked => List.Filters.SelectMany(f => f.Values).Where(v => v.IsOn);

    public async Task OnGet(string? q, string? category, string? sort, string[] pick, string? stock, string? p)
    {
        (Q, Sort, InStock) = (TypedText.Search(q), Orders.Any(o => o.Key == sort) ? sort! : "", stock == "yes");
        var order = Sort switch
        {
            "name" => ListOrder.Name,
            "price" => ListOrder.Price,
            "newest" => ListOrder.Newest,
            _ => ListOrder.Position,
        };
        var picks = pick.Where(x => x.Length <= 140 && x.IndexOf('=') > 0).Take(MostPicks).ToImmutableArray();
        List = await lists.Read(new ListQuery(Q, category, picks, InStock, order, long.TryParse(p, out var page) ? page : 1));
        Currency = (await visit.Shop()).Currency;
        if (Q.Length == 0 && category is null && !IsFiltered && List.Page == 1)
            Featured = await lists.Featured();
        Heading = Q.Length > 0 ? $"“{Q}”" : List.Category?.Name ?? "Everything we sell";
    }

    /// <summary>The address of this list on another page.</summary>
    public string PageAddress(int page) => Address(Picked.Select(v => v.Pick), InStock, page);

    /// <summary>The address of this list with one filter taken off.</summary>
    public string Without(FilterValue value) => Address(Picked.Where(v => v != value).Select(v => v.Pick), InStock, 1);

    /// <summary>The address of this list whether in stock or not.</summary>
    public string AnyStock => Address(Picked.Select(v => v.Pick), inStock: false, 1);

    /// <summary>The address of this list without filters.</summary>
    public string Unfiltered => Address([], inStock: false, 1);

    private string Address(IEnumerable<string> picks, bool inStock, int page)
    {
        var query = new List<KeyValuePair<string, string?>>
        {
            new("q", Q),
            new("category", List.Category?.Key),
            new("sort", Sort),
            new("stock", inStock ? "yes" : ""),
            new("p", page > 1 ? page.ToString() : ""),
        };
        query.AddRange(picks.Select(v => new KeyValuePair<string, string?>("pick", v)));
        return QueryHelpers.AddQueryString("/", query.Where(x => !string.IsNullOrEmpty(x.Value)));
    }
}
