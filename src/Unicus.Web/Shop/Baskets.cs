using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Web.Shop;

/// <summary>The shopper's basket: in the database, found by a cookie.</summary>
public sealed class Baskets(UnicusContext db, IHttpContextAccessor http, TimeProvider clock)
{
    private const string CookieName = "unicus-basket";

    public async Task<ImmutableArray<LineRequest>> Lines() => await Row() is { } row ? JsonSerializer.Deserialize<ImmutableArray<LineRequest>>(row.Lines) : [];

    public async Task Save(ImmutableArray<LineRequest> lines)
    {
        var row = await Row();
        if (row is null)
        {
            row = new BasketRow { Id = Guid.NewGuid() };
            db.Baskets.Add(row);
            Cookie(CookieName, row.Id.ToString("N"));
        }
        row.Lines = JsonSerializer.Serialize(lines);
        row.ChangedAt = clock.GetUtcNow();
        await db.SaveChangesAsync();
        Cookie("unicus-basket-count", lines.Sum(l => l.Quantity).ToString());
    }

    private async Task<BasketRow?> Row() => Guid.TryParse(http.HttpContext!.Request.Cookies[CookieName], out var id) ? await db.Baskets.FirstOrDefaultAsync(b => b.Id == id) : null;

    private void Cookie(string name, string value) => http.HttpContext!.Response.Cookies.Append(name, value,
        new CookieOptions { HttpOnly = true, SameSite = SameSiteMode.Lax, Secure = http.HttpContext.Request.IsHttps, MaxAge = TimeSpan.FromDays(60), IsEssential = true });
}
