using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>The page of one product, from its newest edition.</summary>
public sealed class ProductModel(ShopReading reading, Suggestions suggestions, RangeLists lists, PageLock pageLock, Visit visit) : PageModel
{
    private BuyView? _buy;
    private GroupView? _group;
    private ShownStock _stock = null!;
    private PublishedRange _range = PublishedRange.Empty;
    private ShopSettings _shop = null!;
    private RunTerms _terms = null!;
    private DateOnly _today;
    private string? _problem;

    public Edition Edition { get; private set; } = null!;
    public BuyView Buy => _buy ??= MakeBuy();

    /// <summary>The page of a group; null for anything else.</summary>
    public GroupView? Group => Edition.Product.IsGroup ? _group ??= MakeGroup() : null;

    /// <summary>For anyone, whichever group the shopper is in.</summary>
    public string StructuredData =>
        Shop.StructuredData.Of(Source with { Terms = _terms with { Buying = _terms.Buying with { Groups = [] } } }, Root);

    /// <summary>The films that this shop may show: its own and those from hosts it allows.</summary>
    public IEnumerable<ProductVideo> Videos => Edition.Product.Videos.Where(v => v.Host is not { } host || _shop.VideoHosts.Contains(host));

    /// <summary>Whether a password opens it that was not typed yet.</summary>
    public bool IsClosed { get; private set; }

    /// <summary>Why it cannot be ordered on this day; null where it can.</summary>
    public string? NotToday => Edition.Product.WhyNotOn(_today);

    public Currency Currency => _shop.Currency;

    /// <summary>Its first category with those above it, from the top.</summary>
    public Task<IReadOnlyList<ShopCategory>> Trail() => lists.Trail(Edition.Product.Categories.FirstOrDefault());

    /// <summary>The sets and groups that it is in, with what each saves.</summary>
    public async Task<IReadOnlyList<SetShown>> InSets()
    {
        var shown = new List<SetShown>();
        foreach (var entry in await suggestions.SetsWith([Edition.ProductId]))
            if (await reading.Latest(entry.ProductId) is { } set)
                shown.Add(SetShown.Of(entry, set, Edition, await reading.TermsOf(set, _today, _terms)));
        return shown;
    }

    /// <summary>The products that go with it.</summary>
    public Task<IReadOnlyList<ShownProduct>> Companions() => suggestions.Shown(Edition.Product.Companions);

    /// <summary>The products that may be bought instead.</summary>
    public Task<IReadOnlyList<ShownProduct>> StepUps() => suggestions.Shown(Edition.Product.StepUps);

    /// <summary>How long a page is kept; what it shows is no older than this and <see cref="ShopReading"/>'s moment.</summary>
    public TimeSpan Moment { get; } = TimeSpan.FromSeconds(2);

    /// <summary>All that the page depends on.</summary>
    public string CacheKey =>
        $"{Edition.ProductId} {Edition.Number} {_stock.Stamp} {_today:O} {_shop.Version} {PriceStamp} {Root}{Request.QueryString}";

    private string PriceStamp =>
        $"{string.Join('+', _terms.Buying.Groups)} {_terms.Buying.Book.StampAt(Edition.Product, _terms.Buying.At, _terms.Buying.Day)}";

    private BuySource Source =>
        new(Edition, _range, new StockOutlook(_stock.Of, _today), _terms, IsProof: false, v => reading.PriorPrice(Edition, v, _terms));

    private string Root => $"{Request.Scheme}://{Request.Host}";

    public async Task<IActionResult> OnGet(string address, string? problem)
    {
        _problem = problem;
        if (await Look(address))
        {
            if (IsClosed)
                return Redirect($"/p/{address}/password");
            if (Videos.Any(v => v.Host is not null))
                SafeHeaders.AllowFilms(Response, _shop.VideoHosts);
            return Page();
        }
        // An address of a product that became part of another leads there, with its value picked.
        if (await reading.Formerly(address) is not var (edition, values))
            return NotFound();
        var still = values.Pairs.Where(p => edition.Matrix.Options.Any(o => o.Key == p.Option && o.Find(p.Value) is not null));
        return RedirectPermanent($"/p/{edition.Product.Address}{BuyForm.Query(Configuration.Of(Combination.Of(still)))}");
    }

    /// <summary>What a pick changes.</summary>
    public async Task<IActionResult> OnGetBuy(string address)
    {
        if (!await Look(address) || IsClosed)
            return NotFound();
        if (Group is { } group)
            return Partial("_Group", group);
        Response.Headers["HX-Replace-Url"] = $"/p/{address}{Buy.Query}";
        return Partial("_Buy", Buy);
    }

    /// <summary>The same without script: the picks go into the address.</summary>
    public async Task<IActionResult> OnPostPick(string address)
    {
        if (await reading.AtAddress(address) is not { } edition)
            return NotFound();
        var picked = BuyForm.Read(edition.Configurator, Request.Form, await visit.Today()).Given;
        var parts = Request
            .Form.Where(f =>
                f.Key.StartsWith("p-", StringComparison.Ordinal) || f.Key.StartsWith(GroupView.Prefix, StringComparison.Ordinal)
            )
            .SelectMany(f => f.Value, (f, v) => (f.Key, v));
        var query = BuyForm.Query(picked, TypedQuantity.Read(Request.Form["quantity"], edition.Product.Selling.Least));
        var more = string.Concat(parts.Select(p => $"&{Uri.EscapeDataString(p.Key)}={Uri.EscapeDataString(p.v ?? "")}"));
        return Redirect($"/p/{address}{(query.Length == 0 ? "?" : query)}{more}");
    }

    private async Task<bool> Look(string address)
    {
        if (await reading.AtAddress(address) is not { Product.Shelf.Alone: true } edition)
            return false;
        Edition = edition;
        IsClosed = pageLock.IsClosed(edition.Product);
        _shop = await visit.Shop();
        _range = await reading.Range(edition);
        _stock = await reading.Stock(edition, _range);
        _today = await visit.Today();
        _terms = await visit.ShopperTerms();
        return true;
    }

    private GroupView MakeGroup()
    {
        var group = GroupView.Make(Source, Request.Query, _today);
        group.Problem = _problem switch
        {
            "open" => $"Still to answer: {string.Join(", ", group.Own.Open)}.",
            "short" => "There are not that many left.",
            "nothing" => "Nothing has a quantity yet.",
            "typed" => "Something typed cannot be taken as it is; it was left out.",
            _ => null,
        };
        return group;
    }

    private BuyView MakeBuy()
    {
        var buy = BuyView.Make(
            Source,
            BuyForm.Read(Edition.Configurator, Request.Query, _today),
            TypedQuantity.Read(Request.Query["quantity"], Edition.Product.Selling.Least),
            PartForm.Read(Edition, Request.Query, _range, _today)
        );
        buy.Problem = _problem switch
        {
            "open" => $"Still to answer: {string.Join(", ", buy.Open)}.",
            "short" => "There are not that many left.",
            "typed" => "Something typed cannot be taken as it is; it was left out.",
            _ => null,
        };
        return buy;
    }
}
