using System.Collections.Immutable;

namespace Unicus.Store;

/// <summary>Prices baskets from the latest editions, for the shop's pages, orders and the HTTP interface alike.</summary>
public sealed class BasketPricing(UnicusContext db, Catalogue catalogue, Coupons coupons, TimeProvider clock)
{
    /// <summary>Prices a basket.</summary>
    /// <param name="trace">Whether workings are wanted.</param>
    /// <param name="email">Of the buyer, for limits of uses; empty where it is not known.</param>
    /// <param name="anyQuantity">Whether quantities in which goods are not sold are priced all the same, while one looks at them.</param>
    /// <returns>The priced basket, or every fault with the pointer of its line.</returns>
    public async Task<Outcome<PricedBasket>> Run(
        BasketRequest request,
        ShopSettings shop,
        bool trace = true,
        string email = "",
        bool anyQuantity = false
    )
    {
        var faults = new List<Fault>();
        var destination = shop.Terms.Find(request.Destination);
        if (request.Destination is not null && destination is null)
            faults.Add(new Fault("#/destination", $"Nothing is sent to {request.Destination}."));
        var range = await catalogue.Editions.Range(
            db,
            request.Lines.SelectMany(l => new[] { l.Product, l.Through }).OfType<string>(),
            request.Lines.Select(l => l.Sku).OfType<string>()
        );
        var terms = new RunTerms(shop.Terms, destination, request.Service)
        {
            WithoutDelivery = request.WithoutDelivery,
            Buying = await Buying(request, shop),
        };
        var completion = new LineCompletion(range, shop.DayAt(terms.Buying.At), terms);
        var (lines, pointers) = (new List<RunLine>(), new List<string>());
        foreach (var (i, asked) in request.Lines.Index())
        {
            var pointer = asked.Pointer ?? $"#/lines/{i}";
            if (completion.Complete(asked, pointer, faults) is not { IsEmpty: false } line)
                continue;
            lines.Add(line);
            pointers.Add(pointer);
        }
        if (lines.Count == 0 && faults.Count == 0)
            faults.Add(new Fault("#/lines", "Nothing is bought by this: a group is bought by its pieces."));
        if (!anyQuantity)
            faults.AddRange(QuantityLimits.Of(lines).Select(f => new Fault($"{pointers[f.Line]}/quantity", f.What)));
        if (faults.Count > 0)
            return new Outcome<PricedBasket>(null, faults);
        var own = lines.Select(l => l.Goods.Edition.Product).Distinct().SelectMany(p => p.PriceRules);
        var usedUp = await coupons.UsedUp(terms.Buying.Book.Rules.Concat(own), email);
        var run = PriceRun.Of(lines, terms with { Buying = terms.Buying with { UsedUp = usedUp } }, range, trace);
        return run.Basket is { } basket
            ? Outcome<PricedBasket>.Of(basket)
            : new Outcome<PricedBasket>(null, [.. run.Faults.Select(f => new Fault(f.Line < 0 ? "#/service" : pointers[f.Line], f.What))]);
    }

    /// <summary>When it is bought, by whom and with which coupons.</summary>
    public async Task<RuleContext> Buying(BasketRequest request, ShopSettings shop)
    {
        var book = await catalogue.Terms.Prices(db);
        return new RuleContext(request.At ?? clock.GetUtcNow(), shop.TimeZone)
        {
            Book = book,
            Groups = [.. book.GroupsCalled(request.CustomerGroup).Concat(request.Groups).Distinct()],
            Coupons = await coupons.Named(request.Coupons),
        };
    }
}
