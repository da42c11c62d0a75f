using System.Collections.Immutable;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>A line of the basket as the shopper sees it.</summary>
/// <param name="Typed">What stands in the box of its quantity.</param>
/// <param name="Problem">Why it cannot be had like this; empty where it can.</param>
/// <param name="Note">What of it is beyond stock; empty where nothing is.</param>
/// <param name="Seen">What one cost when it was put in, where that was another price; null where it was not.</param>
public sealed record BasketLine(PricedLine Priced, string Typed, string Problem, string Note, Money? Seen);

/// <summary>What the shopper means to buy.</summary>
public sealed class BasketModel(
    ShopReading reading,
    Baskets baskets,
    BasketPricing pricing,
    BasketOffers offers,
    PageLock pageLock,
    Visit visit
) : PageModel
{
    private string[] _typed = [];

    public PricedBasket? Basket { get; private set; }
    public KeptBasket Kept { get; private set; } = KeptBasket.None;
    public IReadOnlyList<BasketLine> Lines { get; private set; } = [];
    public string? Problem { get; private set; }

    /// <summary>The sets whose parts lie in it.</summary>
    public IReadOnlyList<OfferedSet> Sets { get; private set; } = [];

    /// <summary>What goes with it.</summary>
    public IReadOnlyList<ShownProduct> Companions { get; private set; } = [];

    public Currency Currency { get; private set; } = Currency.Euro;

    /// <summary>Where goods are sent.</summary>
    public IReadOnlyList<Destination> Destinations { get; private set; } = [];

    /// <summary>Whether it is still to be said where it goes, so that delivery and tax are not known.</summary>
    public bool AsksWhere => Destinations.Count > 1 && Kept.Destination is null;

    /// <summary>Keeps where it goes.</summary>
    public async Task<IActionResult> OnPostWhere(string? destination)
    {
        if ((await visit.Shop()).Terms.Destinations.Any(d => d.Code == destination))
            await baskets.SendTo(destination!);
        return Redirect("/basket");
    }

    /// <summary>The picture of a line: of its variant, else of its product; null for none.</summary>
    public static string? PictureOf(PricedLine line)
    {
        var (product, variant) = (line.Line.Goods.Edition.Product, line.Line.Goods.Variant);
        return product.PictureOf(variant.Variant).Picture?.File ?? product.Pictures.FirstOrDefault()?.File;
    }

    /// <summary>Takes the parts of a set together, as the set.</summary>
    public async Task<IActionResult> OnPostAsSet(string set)
    {
        var kept = await baskets.Look();
        var priced = await pricing.Run(kept.Request(null), await visit.Shop(), anyQuantity: true);
        if (priced.Result is { } basket && (await offers.Find(kept, basket)).FirstOrDefault(o => o.Code == set) is { } offer)
            await baskets.Change(now => offer.Takes(now) ? offer.Lines : now);
        return Redirect("/basket");
    }

    public Task OnGet(string? problem)
    {
        if (problem == "full")
            Problem = $"A basket holds at most {BasketRequest.MostLinesInShop} lines. Order these first, or remove some.";
        else if (problem == "coupons")
            Problem = $"A basket takes at most {BasketWords.MostCoupons} coupons. Leave one out, then add another.";
        return Look();
    }

    public async Task<IActionResult> OnPostAdd(string product, string? quantity)
    {
        if (await reading.Latest(product) is not { } edition || pageLock.IsClosed(edition.Product))
            return NotFound();
        var (configurator, today) = (edition.Configurator, await visit.Today());
        var sent = BuyForm.Read(configurator, Request.Form, today);
        var typed = TypedQuantity.Read(quantity, edition.Product.Selling.Least);
        var range = await reading.Range(edition);
        var parts = PartForm.Read(edition, Request.Form, range, today);
        var stock = await reading.Outlook(edition, range, today);
        var terms = new ConfigurationTerms(range, stock, await visit.ShopperTerms(), typed.Units);
        var status = ConfigurationStatus.Of(edition, sent.Given, Filling.Rest, terms, parts);
        var page = $"/p/{edition.Product.Address}{BuyForm.Query(sent.Given, typed, status.Assembled)}";
        IActionResult Back(string problem) => Redirect(page + (page.Contains('?') ? "&" : "?") + "problem=" + problem);
        if (typed.Problem is not null)
            return Back("quantity");
        if (sent.Faulty.Count > 0)
            return Back("typed");
        if (!status.Reply.Complete || status.IsOpen)
            return Back("open");
        if (
            status.Variant is { } variant
            && QuantityLimits.WhyNot(new VariantOnSale(edition, variant), typed.Units, typed.Units) is not null
        )
            return Back("limit");
        if (status.Available?.CanSell(typed.Units) != true || edition.Product.WhyNotOn(today) is not null)
            return Back("short");
        var code = edition.Product.Code.Text;
        var line = new LineRequest(code, null, AnswerDocument.Write(status.Shown, configurator.Questions), typed.Units, code)
        {
            Seen = status.Price?.Working.Unit.Amount,
            Parts = status.Assembled is { } set ? PartAnswersDocument.Write(set) : null,
        };
        var isFull = false;
        await baskets.Change(lines =>
        {
            var more = line.PutInto(lines);
            isFull = more is null;
            return more ?? lines;
        });
        return Redirect(isFull ? "/basket?problem=full" : "/basket");
    }

    /// <summary>Puts every piece of a group that has a quantity into the basket, and what its own extras ask for.</summary>
    public async Task<IActionResult> OnPostPieces(string product)
    {
        if (await reading.Latest(product) is not { Product.IsGroup: true } edition || pageLock.IsClosed(edition.Product))
            return NotFound();
        var today = await visit.Today();
        var range = await reading.Range(edition);
        var stock = await reading.Outlook(edition, range, today);
        var source = new BuySource(edition, range, stock, await visit.ShopperTerms(), false, _ => Task.FromResult<Money?>(null));
        var group = GroupView.Make(source, Request.Form, today);
        var sent = Request
            .Form.Where(f => f.Key.StartsWith(GroupView.Prefix, StringComparison.Ordinal) && f.Value.ToString().Trim().Length > 0)
            .Select(f => $"&{Uri.EscapeDataString(f.Key)}={Uri.EscapeDataString(f.Value.ToString())}");
        IActionResult Back(string problem)
        {
            var query = BuyForm.Query(group.Own.Answers);
            return Redirect($"/p/{edition.Product.Address}{(query.Length == 0 ? "?" : query + "&")}problem={problem}{string.Concat(sent)}");
        }
        if (group.Pieces.SelectMany(p => p.Rows).Any(r => r.Problem is not null))
            return Back("short");
        if (group.Lines() is not { Count: > 0 } lines)
            return Back("nothing");
        if (group.Own.Open.Any())
            return Back("open");
        var isFull = false;
        await baskets.Change(now =>
        {
            foreach (var line in lines)
                // What the group itself asks for is wanted once, however often its pieces are.
                if (line.Product == edition.Product.Code.Text && now.FirstOrDefault(line.IsSame) is { } same)
                    now = now.Replace(same, line);
                else if (line.PutInto(now) is { } more)
                    now = more;
                else
                    isFull = true;
            return now;
        });
        return Redirect(isFull ? "/basket?problem=full" : "/basket");
    }

    /// <summary>Takes the quantities as typed, or takes a line out; then on to the checkout where that was pressed.</summary>
    public async Task<IActionResult> OnPostChange(string[] quantities, int? remove, string? then)
    {
        var typed = quantities.Select(q => TypedQuantity.Read(q.Trim().Length == 0 ? "nothing" : q)).ToList();
        // What is wrong with a line that is taken out does not matter.
        if (typed.Index().Any(q => q.Index != remove && q.Item.Problem is not null))
        {
            _typed = quantities;
            Problem = typed.First(q => q.Problem is not null).Problem;
            await Look();
            return Page();
        }
        await baskets.Change(lines =>
            [
                .. lines
                    .Select((l, i) => i < typed.Count && i != remove ? l with { Quantity = typed[i].Units } : l)
                    .Where((_, i) => i != remove),
            ]
        );
        return Redirect(then == "checkout" ? "/checkout" : "/basket");
    }

    /// <summary>The name of the customer group that the shopper said they belong to.</summary>
    public string GroupLabel =>
        Basket?.Terms.Buying is { Groups: [var group, ..] } buying ? buying.Book.Groups.First(g => g.Key == group).Label : "";

    /// <summary>Takes a coupon, or the code of a customer group, as typed.</summary>
    public async Task<IActionResult> OnPostCoupon(string? coupon, string? drop)
    {
        if (drop is not null)
            await baskets.ChangeWords(w => w.Without(drop));
        else if (TypedText.Line(coupon) is { Length: > 0 and <= Coupons.LongestCode } word)
        {
            if ((await baskets.Look()).Words.Coupons.Length >= BasketWords.MostCoupons)
                return Redirect("/basket?problem=coupons");
            var isGroup = (await reading.Prices()).GroupsCalled(word).Any();
            await baskets.ChangeWords(w => isGroup ? w.WithGroup(word) : w.With(word));
        }
        return Redirect("/basket");
    }

    private async Task Look()
    {
        var kept = await baskets.Look();
        Kept = kept;
        if (kept.Lines.IsEmpty)
            return;
        var shop = await visit.Shop();
        Destinations = shop.Terms.Destinations;
        var priced = await pricing.Run(kept.Request(null) with { WithoutDelivery = AsksWhere }, shop, anyQuantity: true);
        if (!priced.Done)
            priced = await WithoutGone(kept, priced, shop);
        if (priced.Result is not { } basket)
            return;
        (Basket, Currency) = (basket, shop.Currency);
        Sets = await offers.Find(kept, basket);
        Companions = await offers.Companions(basket);
        var levels = await reading.Stock(basket.Lines.SelectMany(l => l.Line.Needs));
        var stock = new StockOutlook(levels.Of, await visit.Today());
        var found = new List<BasketLine>();
        var limits = QuantityLimits.Of([.. basket.Lines.Select(l => l.Line)]).ToDictionary(f => f.Line, f => f.What);
        foreach (var (i, line) in basket.Lines.Index())
        {
            var (available, quantity) = (stock.Of(line.Line.Needs), line.Line.Quantity);
            var typed = found.Count < _typed.Length ? _typed[found.Count] : quantity.ToString();
            var problem = limits.GetValueOrDefault(i) ?? (available.CanSell(quantity) ? "" : $"Only {available.Units:N0} can be had");
            var request = kept.Lines.FirstOrDefault(l => l.Product == line.Line.Goods.Edition.Product.Code.Text && IsOf(l, line));
            Money? seen = request?.Seen is { } amount && amount != line.Unit.Amount ? new Money(amount, shop.Currency) : null;
            found.Add(new BasketLine(line, typed, problem, available.BeyondWords(quantity), seen));
        }
        Lines = found;
    }

    /// <summary>Something was taken off sale meanwhile: says which, keeps the rest.</summary>
    private async Task<Outcome<PricedBasket>> WithoutGone(KeptBasket kept, Outcome<PricedBasket> priced, ShopSettings shop)
    {
        var lines = kept.Lines;
        var gone = priced.Faults.Where(f => f.Where.StartsWith("#/lines/", StringComparison.Ordinal)).Select(LineOf).ToHashSet();
        if (gone.Count == 0)
        {
            Problem = priced.Faults[0].What;
            return await pricing.Run(kept.Request(null) with { WithoutDelivery = true }, shop, anyQuantity: true);
        }
        Problem = "No longer on sale like this, so removed: " + $"{string.Join(", ", gone.Select(g => lines[g].Product ?? lines[g].Sku))}.";
        ImmutableArray<LineRequest> left = [.. lines.Where((_, i) => !gone.Contains(i))];
        await baskets.Change(now => [.. now.Where(n => !gone.Any(g => lines[g].IsSame(n)))]);
        return left.IsEmpty
            ? new Outcome<PricedBasket>(null, priced.Faults)
            : await pricing.Run((kept with { Lines = left }).Request(null), shop, anyQuantity: true);
    }

    /// <summary>Whether a line was asked for like this.</summary>
    private static bool IsOf(LineRequest request, PricedLine line) =>
        System.Text.Json.Nodes.JsonNode.DeepEquals(
            request.Answers,
            AnswerDocument.Write(line.Line.Answers, line.Line.Goods.Edition.Configurator.Questions)
        ) && System.Text.Json.Nodes.JsonNode.DeepEquals(request.Parts, line.Line.AskedParts);

    private static int LineOf(Fault fault) => int.Parse(fault.Where.Split('/')[2]);
}
