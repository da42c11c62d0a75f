using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Erases who bought something; what was bought, paid and moved stays, and adds up as before.</summary>
/// <remarks>Names, emails and addresses of orders, the customer's account with its stays, messages to them, replies kept for programs,
/// and their name beside the coupons that they used.</remarks>
public sealed class EraseBuyers(UnicusContext db, EventLog log, TimeProvider clock)
{
    /// <summary>What stands where the name was.</summary>
    public const string Erased = "erased";

    /// <summary>Erases everything about whoever has this email.</summary>
    /// <returns>How many orders are without a name now; a fault where an order of theirs is still to be sent.</returns>
    public async Task<Outcome<int>> Of(string email, Actor by)
    {
        var key = email.Trim().ToLowerInvariant();
        if (key.Length == 0)
            return Outcome<int>.No("email", "Type the email address that they ordered with.");
        await using var transaction = await db.Database.BeginTransactionAsync();
        var numbers = await db
            .Orders.FromSql($"select * from orders where lower(email) = {key} for update")
            .Select(o => new { o.Number, o.State })
            .ToListAsync();
        if (numbers.FirstOrDefault(o => o.State == OrderState.Placed) is { } open)
            return Outcome<int>.No("email", $"Order {open.Number} is still to be sent. Dispatch or cancel it first.");
        var customer = await db.Customers.SingleOrDefaultAsync(c => c.EmailKey == key);
        if (numbers.Count == 0 && customer is null && !await db.Outbox.AnyAsync(m => m.To.ToLower() == key))
            return Outcome<int>.No("email", "Nothing stands here under that address.");
        await Orders([.. numbers.Select(n => n.Number)]);
        if (customer is not null)
        {
            await db.Orders.Where(o => o.CustomerId == customer.Id).ExecuteUpdateAsync(u => u.SetProperty(o => o.CustomerId, (int?)null));
            var owner = customer.Id.ToString(System.Globalization.CultureInfo.InvariantCulture);
            await db.Sessions.Where(s => s.Scheme == CustomerAccounts.Scheme && s.Owner == owner).ExecuteDeleteAsync();
            db.Customers.Remove(customer);
        }
        await db.Outbox.Where(m => m.To.ToLower() == key).ExecuteDeleteAsync();
        await db.RuleUses.Where(u => u.Buyer == key).ExecuteUpdateAsync(u => u.SetProperty(r => r.Buyer, ""));
        await db.Events.Where(e => e.Subject == $"customer {key}").ExecuteDeleteAsync();
        await db.KeptReplies.Where(r => EF.Functions.ILike(r.Body, $"%{Like.Escaped(key)}%", "\\")).ExecuteDeleteAsync();
        log.Note(EventKind.Erased, by.Name, "", $"Erased a buyer with {numbers.Count} {(numbers.Count == 1 ? "order" : "orders")}");
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return Outcome<int>.Of(numbers.Count);
    }

    /// <summary>Erases whoever placed an order, with everything else under their email.</summary>
    public async Task<Outcome<int>> OfOrder(int number, Actor by)
    {
        var order = await db.Orders.AsNoTracking().SingleOrDefaultAsync(o => o.Number == number);
        if (order is null || order.ErasedAt is not null)
            return Outcome<int>.No("", "That order has no buyer any more.");
        if (order.Email.Trim().Length > 0)
            return await Of(order.Email, by);
        if (order.State == OrderState.Placed)
            return Outcome<int>.No("", $"Order {number} is still to be sent. Dispatch or cancel it first.");
        log.Note(EventKind.Erased, by.Name, $"order {number}", "Erased the buyer of an order without an email");
        await Orders([number]);
        await db.SaveChangesAsync();
        return Outcome<int>.Of(1);
    }

    /// <summary>Erases the buyers of orders that ended so many months ago, where the shop says so.</summary>
    /// <returns>How many orders.</returns>
    public async Task<int> Old(CancellationToken stop = default)
    {
        if (await db.Shops.Select(s => s.BuyersKeptMonths).SingleAsync(stop) is not { } months)
            return 0;
        var before = clock.GetUtcNow().AddMonths(-months);
        var numbers = await db
            .Orders.Where(o => o.State != OrderState.Placed && o.ErasedAt == null && o.PlacedAt < before)
            .Where(o => o.EndedAt < before)
            .OrderBy(o => o.Number)
            .Select(o => o.Number)
            .Take(10_000)
            .ToListAsync(stop);
        await Orders(numbers);
        return numbers.Count;
    }

    private Task<int> Orders(IReadOnlyList<int> numbers)
    {
        var now = clock.GetUtcNow();
        return db
            .Orders.Where(o => numbers.Contains(o.Number) && o.ErasedAt == null)
            .ExecuteUpdateAsync(u =>
                u.SetProperty(o => o.Buyer, Erased)
                    .SetProperty(o => o.Email, "")
                    .SetProperty(o => o.PostalAddress, "")
                    .SetProperty(o => o.ErasedAt, now)
            );
    }
}
