using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>What became of a shopper's press on “Order and pay”.</summary>
/// <param name="Token">The address piece of the order: of this press or of the one before it; null where nothing was ordered.</param>
/// <param name="BasketChanged">Whether the basket is another one than was shown.</param>
/// <param name="Placed">What stood in the way otherwise.</param>
public sealed record CheckedOut(string? Token, bool BasketChanged, Placed? Placed);

/// <summary>Makes an order of a kept basket, once: however often and from wherever it is pressed, one basket as it was shown becomes
/// one
/// order.</summary>
/// <remarks>The basket's row is locked, so that presses at the same time come one after the other; it remembers what it
/// became.</remarks>
public sealed class CheckOut(UnicusContext db, Catalogue catalogue, PlaceOrder place, TimeProvider clock)
{
    /// <param name="shown">The version of the basket that was shown.</param>
    /// <param name="expected">The total that was shown.</param>
    /// <param name="service">The key of the way of delivery; null: the first that takes the goods.</param>
    public async Task<CheckedOut> Run(Guid basket, int shown, decimal expected, string? destination, Buyer buyer, string? service = null)
    {
        using var turn = await OrderTurn.Take(await GoodsOf(basket));
        await using var transaction = await db.Database.BeginTransactionAsync();
        var row = await db.Baskets.FromSql($"select * from baskets where id = {basket} for update").SingleOrDefaultAsync();
        if (row is null)
            return new CheckedOut(null, true, null);
        await db.Entry(row).ReloadAsync();
        if (row.OrderedVersion == shown)
            return new CheckedOut(row.OrderToken, false, null);
        if (row.Version != shown)
            return new CheckedOut(null, true, null);
        var lines = JsonSerializer.Deserialize<ImmutableArray<LineRequest>>(row.Lines);
        if (lines.IsEmpty)
            return new CheckedOut(null, true, null);
        var words = BasketWords.Of(row);
        var group = await db.Customers.Where(c => c.Id == buyer.Account).Select(c => c.GroupKey).FirstOrDefaultAsync();
        var request = new BasketRequest(lines, destination)
        {
            Groups = group is null ? [] : [Key.Of(group)],
            Coupons = words.Coupons,
            CustomerGroup = words.GroupCode,
            Service = service,
        };
        var placed = await place.Run(request, buyer, Actor.Shopper, expected);
        if (placed.Order is not { } order)
            return new CheckedOut(null, false, placed);
        (row.OrderedVersion, row.OrderToken) = (shown, order.Token);
        (row.Lines, row.Version, row.ChangedAt) = ("[]", row.Version + 1, clock.GetUtcNow());
        (words with { Coupons = [] }).Write(row);
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return new CheckedOut(order.Token, false, placed);
    }

    /// <summary>What lies in a basket as it is now; only a hint at what will be ordered.</summary>
    private async Task<IReadOnlyCollection<string>> GoodsOf(Guid basket)
    {
        var lines = await db.Baskets.AsNoTracking().Where(b => b.Id == basket).Select(b => b.Lines).FirstOrDefaultAsync();
        return lines is null ? [] : await OrderTurn.GoodsOf(db, catalogue, JsonSerializer.Deserialize<ImmutableArray<LineRequest>>(lines));
    }
}
