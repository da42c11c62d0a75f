using System.Collections.Immutable;
using System.Globalization;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>A shopper's basket as it is kept.</summary>
/// <param name="Version">Counts up with every change; 0 for none.</param>
public sealed record KeptBasket(Guid Id, int Version, ImmutableArray<LineRequest> Lines)
{
    public static KeptBasket None { get; } = new(Guid.Empty, 0, []);

    /// <summary>Where it goes, as the shopper said; null while they have not.</summary>
    public string? Destination { get; init; }

    /// <summary>The words that the shopper typed for better prices.</summary>
    public BasketWords Words { get; init; } = BasketWords.None;

    /// <summary>The groups that the shopper is in by their account.</summary>
    public ImmutableArray<Key> Groups { get; init; } = [];

    /// <summary>What is to be priced.</summary>
    /// <param name="destination">A code; null for the one that the shopper said, else the shop's first.</param>
    public BasketRequest Request(string? destination) =>
        new(Lines, destination ?? Destination)
        {
            Coupons = Words.Coupons,
            CustomerGroup = Words.GroupCode,
            Groups = Groups,
        };
}

/// <summary>The shopper's basket: in the database, found by a cookie.</summary>
public sealed class Baskets(BasketKeeping keeping, IHttpContextAccessor http, Visit visit)
{
    private const string CookieName = "unicus-basket";

    public async Task<KeptBasket> Look() =>
        Id is { } id && await keeping.Find(id) is { } basket
            ? new KeptBasket(id, basket.Version, basket.Lines)
            {
                Destination =
                    (await visit.Shop()).Terms.Find(basket.Destination)?.Code is { } known && known == basket.Destination ? known : null,
                Words = basket.Words,
                Groups = await visit.CustomerGroups(),
            }
            : KeptBasket.None;

    /// <summary>Changes the lines; of several changes at the same time none is lost.</summary>
    public Task Change(Func<ImmutableArray<LineRequest>, ImmutableArray<LineRequest>> change) =>
        Change(basket => basket with { Lines = change(basket.Lines) });

    /// <summary>Keeps where it goes.</summary>
    public Task SendTo(string destination) => Change(basket => basket with { Destination = destination });

    /// <summary>Changes the words for better prices.</summary>
    public async Task ChangeWords(Func<BasketWords, BasketWords> change)
    {
        var words = BasketWords.None;
        await Change(basket => basket with { Words = words = change(basket.Words) });
        if (words.GroupCode is { } code)
            Cookie(Visit.GroupCookie, code);
        else
            http.HttpContext!.Response.Cookies.Delete(Visit.GroupCookie);
    }

    private async Task Change(Func<StoredBasket, StoredBasket> change)
    {
        if (await keeping.Change(Id, change) is not { } now)
            return;
        if (now.Id != Id)
            Cookie(CookieName, now.Id.ToString("N"));
        TellCount(now.Lines);
    }

    /// <summary>Says in a cookie how many units are in the basket, for the head of every page.</summary>
    public void TellCount(ImmutableArray<LineRequest> lines) =>
        Cookie("unicus-basket-count", lines.Sum(l => (long)l.Quantity).ToString(CultureInfo.InvariantCulture));

    private Guid? Id => Guid.TryParse(http.HttpContext!.Request.Cookies[CookieName], out var id) ? id : null;

    private void Cookie(string name, string value)
    {
        var secure = http.HttpContext!.Request.IsHttps;
        var options = new CookieOptions
        {
            HttpOnly = true,
            SameSite = SameSiteMode.Lax,
            Secure = secure,
            MaxAge = TakeOutOld.BasketsKept,
            IsEssential = true,
        };
        http.HttpContext.Response.Cookies.Append(name, value, options);
    }
}
