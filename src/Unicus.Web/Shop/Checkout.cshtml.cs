using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Core;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>Name, address, payment; then the order. The payment is a stand-in: the shopper says what the bank says.</summary>
public sealed class CheckoutModel(Baskets baskets, BasketPricing pricing, PlaceOrder place, Visit visit) : PageModel
{
    public PricedBasket? Basket { get; private set; }
    public IReadOnlyList<Destination> Destinations { get; private set; } = [];
    public List<string> Problems { get; } = [];
    public HashSet<string> Missing { get; } = [];
    public string? Buyer { get; private set; }
    public string? Email { get; private set; }
    public string? Address { get; private set; }
    public string? Destination { get; private set; }
    public string? Payment { get; private set; }

    public async Task<IActionResult> OnGet() => await Look() ? Page() : Redirect("/basket");

    public async Task<IActionResult> OnPost(string? buyer, string? email, string? address, string? destination, string? payment, string? only)
    {
        (Buyer, Email, Address, Destination, Payment) = (buyer?.Trim(), email?.Trim(), address?.Trim(), destination, payment);
        if (!await Look()) return Redirect("/basket");
        if (only == "look") return Page();
        if (string.IsNullOrEmpty(Buyer) || Buyer.Length > 120) Missing.Add("buyer");
        if (Email is not { Length: > 2 and <= 200 } || !Email.Contains('@')) Missing.Add("email");
        if (string.IsNullOrEmpty(Address) || Address.Length > 600) Missing.Add("address");
        if (Missing.Count > 0) return Page();
        if (payment == "no")
        {
            Problems.Add("The bank declined. Nothing was ordered and nothing is held; try again or pay another way.");
            return Page();
        }
        var placed = await place.Run(new BasketRequest(await baskets.Lines(), Basket!.Destination?.Code), new Buyer(Buyer!, Email!, Address!, "Paid (simulated)"), Actor.Shopper);
        if (placed.Order is { } order)
        {
            await baskets.Save([]);
            return Redirect($"/order/{order.Token}");
        }
        Problems.AddRange(placed.Faults.Select(f => f.What));
        Problems.AddRange(placed.Shortages.Select(s => $"{s.Sku}: {s.Wanted:N0} wanted, {s.Available:N0} left. Nothing was ordered and nothing was charged; change the quantity in your basket."));
        return Page();
    }

    private async Task<bool> Look()
    {
        var shop = await visit.Shop();
        Destinations = shop.Terms.Destinations;
        var lines = await baskets.Lines();
        if (lines.IsEmpty) return false;
        var priced = await pricing.Run(new BasketRequest(lines, shop.Terms.Find(Destination)?.Code), shop);
        Basket = priced.Result;
        return priced.Done;
    }
}
