using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>An account that a customer may keep: beginning one, signing in, a new password, name and address, own orders.</summary>
[EnableRateLimiting(Strangers.SignIn)]
[ResponseCache(NoStore = true, Location = ResponseCacheLocation.None)]
public sealed class AccountModel(CustomerAccounts accounts, OrderReading reading, Baskets baskets, Visit visit) : PageModel
{
    private const int MostOrders = 50;

    public Customer? Customer { get; private set; }
    public IReadOnlyList<Order> Orders { get; private set; } = [];
    public IReadOnlyList<Fault> Faults { get; private set; } = [];
    public string? Said { get; private set; }
    public string? Email { get; private set; }
    public string? Name { get; private set; }

    /// <summary>The token of a link to a new password; null where none was followed.</summary>
    public string? Token { get; private set; }

    /// <summary>Where it goes on after signing in; null: it stays here.</summary>
    public string? Back { get; private set; }

    public async Task OnGet(string? token, string? back)
    {
        (Token, Back) = (token, back);
        await Look();
    }

    public async Task<IActionResult> OnPost(string? email, string? password, string? back)
    {
        (Email, Back) = (TypedText.Line(email), back);
        var outcome = await accounts.SignIn(Email, password ?? "", visit.Caller, Request.Cookies[Entering.DeviceCookie]);
        return outcome.Result is { } customer ? await Enter(customer) : await Refused(outcome.Faults);
    }

    public async Task<IActionResult> OnPostSignUp(string? email, string? name, string? back)
    {
        (Email, Name, Back) = (TypedText.Line(email), TypedText.Line(name), back);
        var outcome = await accounts.SignUp(Email, Name, token => $"{LinkFor(token)}{(Back == "checkout" ? "&back=checkout" : "")}");
        if (!outcome.Done)
            return await Refused(outcome.Faults);
        Said = $"A message is on its way to {Email}. Its link leads to a password; it works for two hours.";
        await Look();
        return Page();
    }

    public async Task<IActionResult> OnPostRecover(string? email)
    {
        Email = TypedText.Line(email);
        await accounts.Recover(Email, LinkFor);
        Said = $"If there is an account with {Email}, a link to a new password is on its way. It works for two hours.";
        await Look();
        return Page();
    }

    public async Task<IActionResult> OnPostReset(string? token, string? password, string? back)
    {
        Back = back;
        var outcome = await accounts.Reset(token ?? "", password ?? "");
        if (outcome.Result is { } customer)
            return await Enter(customer);
        Token = outcome.Faults[0].Where == "password" ? token : null;
        return await Refused(outcome.Faults);
    }

    public async Task<IActionResult> OnPostDetails(string? name, string? address)
    {
        if (await visit.Customer() is not { } customer)
            return Redirect("/account");
        var outcome = await accounts.Change(customer.Id, new CustomerDetails(TypedText.Line(name), TypedText.Lines(address)));
        return outcome.Done ? Redirect("/account") : await Refused(outcome.Faults);
    }

    public async Task<IActionResult> OnPostOut(string? everywhere)
    {
        if (everywhere is not null && await visit.Customer() is { } customer)
            await accounts.SignOutEverywhere(customer.Id);
        await HttpContext.SignOutAsync(CustomerAccounts.Scheme);
        return Redirect("/");
    }

    /// <summary>Puts what an order was of into the basket again.</summary>
    public async Task<IActionResult> OnPostAgain(int number)
    {
        if (await visit.Customer() is not { } customer)
            return Redirect("/account");
        var orders = await reading.OfCustomer(customer.Id, MostOrders);
        if (orders.FirstOrDefault(o => o.Number == number) is not { } order)
            return NotFound();
        var wanted = order.Lines.Select(Again).ToList();
        await baskets.Change(lines => wanted.Aggregate(lines, (now, line) => line.PutInto(now) ?? now));
        return Redirect("/basket");
    }

    private string LinkFor(string token) => $"{Request.Scheme}://{Request.Host}/account?token={token}";

    private static LineRequest Again(OrderLine line) =>
        line.Asked is { } asked
            ? new LineRequest(line.ProductCode, null, JsonNode.Parse(asked)!.AsObject(), line.Quantity, line.Through)
            {
                Parts = line.AskedParts is { } parts ? JsonNode.Parse(parts)!.AsObject() : null,
            }
            : new LineRequest(null, line.Sku, [], line.Quantity, line.Through);

    private async Task<IActionResult> Enter(Customer customer)
    {
        await HttpContext.LetIn(customer, accounts.DeviceOf(customer));
        return Redirect(Back == "checkout" ? "/checkout" : "/account");
    }

    private async Task<PageResult> Refused(IReadOnlyList<Fault> faults)
    {
        Faults = faults;
        await Look();
        return Page();
    }

    private async Task Look()
    {
        Customer = await visit.Customer();
        if (Customer is not null)
            Orders = await reading.OfCustomer(Customer.Id, MostOrders);
    }
}
