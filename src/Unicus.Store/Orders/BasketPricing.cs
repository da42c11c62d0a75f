using System.Collections.Immutable;
using Unicus.Core;

namespace Unicus.Store;

/// <summary>Prices baskets from the latest editions, for the shop's pages, orders and the HTTP interface alike.</summary>
public sealed class BasketPricing(UnicusContext db, Catalogue catalogue, TimeProvider clock)
{
    /// <summary>Prices a basket.</summary>
    /// <param name="trace">Whether workings are wanted.</param>
    /// <returns>The priced basket, or every fault with the pointer of its line.</returns>
    public async Task<Outcome<PricedBasket>> Run(BasketRequest request, ShopSettings shop, bool trace = true)
    {
        var faults = new List<Fault>();
        var destination = shop.Terms.Find(request.Destination);
        if (request.Destination is not null && destination is null)
            faults.Add(new Fault("#/destination", $"Nothing is sent to {request.Destination}."));
        var range = await catalogue.Range(
            db,
            request.Lines.SelectMany(l => new[] { l.Product, l.Through }).OfType<string>(),
            request.Lines.Select(l => l.Sku).OfType<string>()
        );
        var completion = new LineCompletion(range, shop.DayAt(request.At ?? clock.GetUtcNow()));
        var lines = request.Lines.Select((l, i) => completion.Complete(l, $"#/lines/{i}", faults)).ToList();
        if (faults.Count > 0)
            return new Outcome<PricedBasket>(null, faults);
        var terms = new RunTerms(shop.Terms, destination, request.Service) { WithoutDelivery = request.WithoutDelivery };
        var run = PriceRun.Of([.. lines.OfType<RunLine>()], terms, range, trace);
        if (run.Basket is not { } basket)
            return new Outcome<PricedBasket>(null, [.. run.Faults.Select(f => new Fault(Pointer(f.Line), f.What))]);
        return Outcome<PricedBasket>.Of(basket with { Coupons = [.. request.Coupons.Select(Unknown)] });
    }

    private static string Pointer(int line) => line < 0 ? "#/service" : $"#/lines/{line}";

    private static CouponReply Unknown(string code) => new(code, false, $"There is no coupon {code}.");
}
