using System.Collections.Immutable;
using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>What the checkout showed, as its form sends it back: the basket's version, the total, and the total of each line.</summary>
public sealed record ShownTotals(int Version, decimal? Total, ImmutableArray<decimal?> Lines)
{
    /// <summary>Reads what a form sends; what is no amount counts as not shown.</summary>
    public static ShownTotals Read(int version, string? total, IEnumerable<string> lines) =>
        new(version, Amount(total), [.. lines.Select(Amount)]);

    /// <summary>What a line cost when it was shown, where that was another price.</summary>
    public decimal? Former(int line, Money now) => line < Lines.Length && Lines[line] is { } shown && shown != now.Amount ? shown : null;

    private static decimal? Amount(string? text) =>
        decimal.TryParse(text, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var amount) ? amount : null;
}

/// <summary>Name, address, payment; then the order. The payment is a stand-in: the shopper says what the bank says.</summary>
public sealed class CheckoutModel(Baskets baskets, BasketPricing pricing, CheckOut checkOut, Visit visit) : PageModel
{
    public PricedBasket? Basket { get; private set; }
    public int Version { get; private set; }
    public IReadOnlyList<Destination> Destinations { get; private set; } = [];
    public List<string> Problems { get; } = [];
    public HashSet<string> Missing { get; } = [];

    /// <summary>What was shown before, where the price is another one now.</summary>
    public ShownTotals? Before { get; private set; }

    public string? Buyer { get; private set; }
    public string? Email { get; private set; }
    public string? Address { get; private set; }
    public string? Destination { get; private set; }
    public string? Payment { get; private set; }

    /// <summary>The key of the way of delivery that was picked; null: the first.</summary>
    public string? Service { get; private set; }

    /// <summary>Whether the shopper is signed in with an account.</summary>
    public bool HasAccount { get; private set; }

    public async Task<IActionResult> OnGet()
    {
        if (await visit.Customer() is { } customer)
            (HasAccount, Buyer, Email, Address) = (true, customer.Name, customer.Email, customer.Address);
        Destination = (await baskets.Look()).Destination;
        return await Look() ? Page() : Redirect("/basket");
    }

    /// <summary>Whether the focus goes to this control: the first one that something is wrong with.</summary>
    public bool IsFirstFault(string name) => Missing.Contains(name) && Missing.First() == name;

    public async Task<IActionResult> OnPost(
        string? buyer,
        string? email,
        string? address,
        string? destination,
        string? payment,
        string? service,
        string? only,
        int version,
        string? total,
        string[] lines
    )
    {
        (Buyer, Email, Address, Destination, Payment, Service) = (
            TypedText.Line(buyer),
            TypedText.Line(email),
            TypedText.Lines(address),
            destination,
            payment,
            string.IsNullOrEmpty(service) ? null : service
        );
        var shown = ShownTotals.Read(version, total, lines);
        if (only == "look")
            return await Look() ? Page() : Redirect("/basket");
        FindMissing();
        if (Missing.Count > 0)
            return await Look() ? Page() : Redirect("/basket");
        if (payment == "no")
        {
            Problems.Add("The bank declined. Nothing was ordered and nothing is held; try again or pay another way.");
            return await Look() ? Page() : Redirect("/basket");
        }
        var kept = await baskets.Look();
        var destinationCode = (await visit.Shop()).Terms.Find(Destination)?.Code;
        // Without a total nothing was shown; no basket costs less than nothing.
        var done = await checkOut.Run(
            kept.Id,
            shown.Version,
            shown.Total ?? -1,
            destinationCode,
            new Buyer(Buyer, Email, Address, "Paid (simulated)") { Account = (await visit.Customer())?.Id },
            Service
        );
        if (done.Token is { } token)
        {
            if (done.Placed is not null)
                baskets.TellCount([]);
            return Redirect($"/order/{token}");
        }
        Explain(done, shown);
        return await Look() ? Page() : Redirect("/basket");
    }

    private void FindMissing()
    {
        if (Buyer is not { Length: > 0 and <= 120 })
            Missing.Add("buyer");
        if (!TypedEmail.Read(Email).Ok)
            Missing.Add("email");
        if (Address is not { Length: > 0 and <= 600 })
            Missing.Add("address");
    }

    private void Explain(CheckedOut done, ShownTotals shown)
    {
        if (done.BasketChanged)
            Problems.Add("Your basket was changed since this page was opened. Nothing was ordered; look at it once more, then order.");
        if (done.Placed is not { } placed)
            return;
        Problems.AddRange(placed.Faults.Select(f => f.What));
        Problems.AddRange(
            placed.Shortages.Select(s =>
                $"{s.Sku}: {s.Wanted:N0} wanted, {s.Available:N0} left. Nothing was ordered and nothing was charged; change the "
                + "quantity in your basket."
            )
        );
        Problems.AddRange(placed.UsedUp.Select(c => $"{c.Text} Nothing was ordered; take it out of the basket, then order."));
        if (placed.Repriced is not { } now)
            return;
        Before = shown;
        Problems.Add(
            shown.Total is { } total
                ? $"The price has changed: {new Money(total, now.Currency).ForShoppers()} before, {now.Total.ForShoppers()} now. "
                    + "Nothing was ordered yet; order again if that suits you."
                : "Look at the total, then order."
        );
    }

    /// <summary>What delivery costs there, where it is the same for everything.</summary>
    public string DeliveryWords(Destination destination) =>
        destination.Services.FirstOrDefault()?.FlatCharge is { } charge ? $", delivery {charge.ForShoppers()}" : "";

    private async Task<bool> Look()
    {
        var shop = await visit.Shop();
        Destinations = shop.Terms.Destinations;
        var kept = await baskets.Look();
        if (kept.Lines.IsEmpty)
            return false;
        var request = kept.Request(shop.Terms.Find(Destination)?.Code) with { Service = Service };
        var priced = await pricing.Run(request, shop, email: Email ?? "");
        // What is not offered there, or not any more, gives way to what is.
        if (Service is not null && priced.Faults is [{ Where: "#/service" }, ..])
        {
            Service = null;
            priced = await pricing.Run(request with { Service = null }, shop, email: Email ?? "");
        }
        (Basket, Version) = (priced.Result, kept.Version);
        if (priced.Faults is [{ Where: "#/service" } heavy, ..] && shop.Terms.Destinations.Length > 0)
            Problems.Add(heavy.What);
        return priced.Done;
    }
}
