using System.Collections.Immutable;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>What became of a shopper's press on “Order and pay”.</summary>
/// <param name="Token">The address piece of the order: of this press or of the one before it; null where nothing was ordered.</param>
/// <param name="BasketChanged">Whether the basket is another one than was shown.</param>
/// <param name="Placed">What stood in the way otherwise.</param>
public sealed record CheckedOut(string? Token, bool BasketChanged, Placed? Placed);

/// <summary>Makes an order of a kept basket, once: however often and from wherever it is pressed, one basket as it was shown becomes one
/// order.</summary>
/// <remarks>The basket's row is locked, so that presses at the same time come one after the other; it remembers what it
/// became.</remarks>
public sealed class CheckOut(UnicusContext db, PlaceOrder place, TimeProvider clock)
{
    /// <param name="shown">The version of the basket that was shown.</param>
    /// <param name="expected">The total that was shown.</param>
    /// <param name="service">The key of the way of delivery; null: the first that takes the goods.</param>
    public async Task<CheckedOut> Run(Guid basket, int shown, decimal expected, string? destination, Buyer buyer, string? service = null)
    {
        // Null: it is another basket than was shown.
        string? earlier = null;
        var placed = await place.InTurn(await LinesOf(basket), async () =>
        {
            var row = await db.Baskets.FromSql($"select * from baskets where id = {basket} for update").SingleOrDefaultAsync();
            if (row is null)
                return null;
            await db.Entry(row).ReloadAsync();
            if (row.OrderedVersion == shown)
                earlier = row.OrderToken;
            if (earlier is not null || row.Version != shown || StoredBasket.ReadLines(row.Lines) is not { IsEmpty: false } lines)
                return null;
            var request = await RequestOf(row, lines, buyer) with { Destination = destination, Service = service };
            var made = await place.Place(request, buyer, Actor.Shopper, expected);
            if (made.Order is { } order)
                await Empty(row, shown, order);
            return made;
        });
        return placed is null ? new CheckedOut(earlier, earlier is null, null) : new CheckedOut(placed.Order?.Token, false, placed);
    }

    private async Task<BasketRequest> RequestOf(BasketRow row, ImmutableArray<LineRequest> lines, Buyer buyer)
    {
        var words = BasketWords.Of(row);
        var group = await db.Customers.Where(c => c.Id == buyer.Account).Select(c => c.GroupKey).FirstOrDefaultAsync();
        return new BasketRequest(lines, null)
        {
            Groups = group is null ? [] : [Key.Of(group)],
            Coupons = words.Coupons,
            CustomerGroup = words.GroupCode,
        };
    }

    /// <summary>Empties a basket that became an order, and lets it remember which.</summary>
    private async Task Empty(BasketRow row, int shown, Order order)
    {
        (row.OrderedVersion, row.OrderToken) = (shown, order.Token);
        (row.Lines, row.Version, row.ChangedAt) = ("[]", row.Version + 1, clock.GetUtcNow());
        (BasketWords.Of(row) with { Coupons = [] }).Write(row);
        await db.SaveChangesAsync();
    }

    /// <summary>What lies in a basket as it is now; only a hint at what will be ordered.</summary>
    private async Task<ImmutableArray<LineRequest>> LinesOf(Guid basket)
    {
        var lines = await db.Baskets.AsNoTracking().Where(b => b.Id == basket).Select(b => b.Lines).FirstOrDefaultAsync();
        return lines is null ? [] : StoredBasket.ReadLines(lines);
    }
}
