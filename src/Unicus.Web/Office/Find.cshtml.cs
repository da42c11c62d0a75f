using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Office;

public sealed record Hit(string Label, string Kind, string Url);

/// <summary>Goods that a box may take.</summary>
/// <param name="Picture">The file of the product's first picture; null for none.</param>
public sealed record GoodsHit(string Name, string Code, string? Picture);

/// <summary>The find-or-do box: products, SKUs, orders, places and actions by a piece of their name.</summary>
public sealed class FindModel(OfficeLists lists, ProductReading goods, OptionLibrary library, OrderReading reading) : PageModel
{
    private const int MostOfKind = 6;

    private static readonly Hit[] Places =
    [
        new("New product", "do", "/office/range?new=1"),
        new("New price rule", "do", "/office/pricing/new"),
        new("Bring products together", "do", "/office/together"),
        new("Range", "place", "/office/range"),
        new("All variants", "place", "/office/variants"),
        new("Spreadsheet", "place", "/office/sheet"),
        new("Categories", "place", "/office/categories"),
        new("Options", "place", "/office/options"),
        new("Extras kept once", "place", "/office/extras"),
        new("Pricing", "place", "/office/pricing"),
        new("Customer groups and codes", "place", "/office/pricing/groups"),
        new("Stock", "place", "/office/stock"),
        new("Orders", "place", "/office/orders"),
        new("Shop settings", "place", "/office/settings"),
        new("People", "place", "/office/people"),
        new("Keys", "place", "/office/keys"),
        new("Events", "place", "/office/events"),
        new("Outbox", "place", "/office/outbox"),
        new("My account", "place", "/office/me"),
        new("Open shop", "place", "/"),
    ];

    public string Q { get; private set; } = "";
    public IReadOnlyList<Hit> Hits { get; private set; } = [];

    public async Task OnGet(string? q) => await Look(q);

    public async Task<IActionResult> OnGetList(string? q)
    {
        await Look(q);
        return Partial("_Found", this);
    }

    /// <summary>Goods that fit what is typed into a box for goods.</summary>
    /// <param name="of"><c>products</c>, <c>skus</c>, or both.</param>
    public async Task<IActionResult> OnGetGoods(string? q, string? of)
    {
        Q = TypedText.Search(q);
        if (Q.Length == 0)
            return Partial("_Goods", Array.Empty<GoodsHit>());
        var found = await lists.Find(Q);
        int[] ids = [.. found.Products.Concat(found.BySku.Select(s => s.ProductId)).Distinct().Take(MostGoods)];
        var named = (await goods.Named(ids)).Where(p => !p.Value.IsAway).ToDictionary();
        GoodsHit Hit(int id, string code) => new(named[id].Name, code, named[id].Picture);
        var products = found.Products.Where(named.ContainsKey).Take(MostGoods).Select(id => Hit(id, named[id].Code));
        var skus = found.BySku.Where(s => named.ContainsKey(s.ProductId)).Take(MostGoods).Select(s => Hit(s.ProductId, s.Code));
        GoodsHit[] hits = [.. (of == "skus" ? [] : products).Concat(of == "products" ? [] : skus).DistinctBy(h => h.Code).Take(MostGoods)];
        return Partial("_Goods", hits);
    }

    private const int MostGoods = 8;

    private async Task Look(string? q)
    {
        Q = TypedText.Search(q);
        if (Q.Length == 0)
            return;
        var found = await lists.Find(Q);
        int[] ids = [.. found.Products.Take(MostOfKind)];
        var named = await goods.Named(ids);
        var products = ids.Where(named.ContainsKey)
            .Select(id => new Hit(named[id].Name, named[id].Code, $"/office/products/{named[id].Code}"))
            .ToList();
        var options = (await library.Called(Q, MostOfKind)).Select(o => new Hit(o.Label, "option", $"/office/options/{o.Key}"));
        var skus = found.BySku.Take(MostOfKind).Select(s => new Hit(s.Code, "SKU", RawPath.OfSku(s.Code)));
        var isNumber = int.TryParse(Q, out var number);
        var isLookedFor = isNumber || Q.Length >= 3;
        var byBuyer = isLookedFor ? await reading.Named(isNumber ? number : null, Q, isNumber ? 1 : MostOfKind / 2) : [];
        var orders = byBuyer.Select(o => new Hit($"Order {o.Number}, {o.Buyer}", "order", $"/office/orders/{o.Number}")).ToList();
        var places = Places.Where(p => p.Label.Contains(Q, StringComparison.OrdinalIgnoreCase)).ToList();
        // What is called just so, or begins so, comes before goods that have the word somewhere.
        var first = places.Where(p => p.Label.StartsWith(Q, StringComparison.OrdinalIgnoreCase)).ToList();
        List<Hit> numbered = isNumber ? orders : [];
        Hits = [.. numbered, .. first, .. products, .. skus, .. options, .. places.Except(first), .. orders.Except(numbered)];
    }
}
