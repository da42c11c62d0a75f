using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>Asks for the password of a page, as seldom for an address as signing in.</summary>
[EnableRateLimiting(Strangers.SignIn)]
public sealed class PasswordModel(ShopReading reading, PageLock pageLock) : PageModel
{
    public Product Product { get; private set; } = null!;

    /// <summary>Whether a password was typed that is not the right one.</summary>
    public bool IsWrong { get; private set; }

    public async Task<IActionResult> OnGet(string address) =>
        !await Look(address) ? NotFound()
        : pageLock.IsClosed(Product) ? Page()
        : Redirect($"/p/{address}");

    public async Task<IActionResult> OnPost(string address, string? password)
    {
        if (!await Look(address))
            return NotFound();
        if (pageLock.Opens(Product, password))
            return Redirect($"/p/{address}");
        IsWrong = true;
        return Page();
    }

    private async Task<bool> Look(string address)
    {
        Response.Headers.CacheControl = "no-store";
        if (await reading.AtAddress(address) is not { Product.Shelf.Alone: true } edition)
            return false;
        Product = edition.Product;
        return true;
    }
}
