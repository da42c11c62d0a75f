using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.DataProtection;

namespace Unicus.Web.Shop;

/// <summary>Pages that open by a password. Who typed it is remembered by a cookie that holds only for this password.</summary>
public sealed class PageLock(IHttpContextAccessor http, IDataProtectionProvider protection)
{
    private static readonly TimeSpan Kept = TimeSpan.FromDays(30);

    private ITimeLimitedDataProtector Protector => protection.CreateProtector("page password").ToTimeLimitedDataProtector();

    /// <summary>Whether the page of a product stays closed to this shopper.</summary>
    public bool IsClosed(Product product)
    {
        if (product.Shelf.Password is not { } password)
            return false;
        if (http.HttpContext!.Request.Cookies[CookieOf(product)] is not { } cookie)
            return true;
        try
        {
            return Protector.Unprotect(cookie) != Mark(product, password);
        }
        catch (CryptographicException)
        {
            return true;
        }
    }

    /// <summary>Opens the page where the password is right.</summary>
    public bool Opens(Product product, string? typed)
    {
        if (product.Shelf.Password is not { } password || !IsSame(password, typed ?? ""))
            return false;
        var context = http.HttpContext!;
        var options = new CookieOptions
        {
            HttpOnly = true,
            SameSite = SameSiteMode.Lax,
            Secure = context.Request.IsHttps,
            MaxAge = Kept,
            IsEssential = true,
        };
        context.Response.Cookies.Append(CookieOf(product), Protector.Protect(Mark(product, password), Kept), options);
        return true;
    }

    private static string CookieOf(Product product) => $"unicus-page-{product.Code.Text.ToLowerInvariant()}";

    private static string Mark(Product product, string password) =>
        Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes($"{product.Code}\n{password}")));

    /// <summary>Takes as long whatever was typed.</summary>
    private static bool IsSame(string password, string typed) =>
        CryptographicOperations.FixedTimeEquals(
            SHA256.HashData(Encoding.UTF8.GetBytes(password)),
            SHA256.HashData(Encoding.UTF8.GetBytes(typed.Trim()))
        );
}
