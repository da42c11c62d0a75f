using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Reads orders for pages, documents and whoever changes them.</summary>
public sealed class OrderReading(UnicusContext db)
{
    /// <summary>An order by its number; null where there is none.</summary>
    public Task<Order?> Find(int number) => One(Whole(db.Orders.Where(o => o.Number == number)));

    /// <summary>An order by the unguessable piece of its address; null where there is none.</summary>
    public Task<Order?> ByToken(string token) => One(Whole(db.Orders.Where(o => o.Token == token)));

    /// <summary>An order, held till the end of the transaction; what it has is read only after it is held.</summary>
    internal async Task<Order?> Locked(int number)
    {
        await db.Database.ExecuteSqlAsync($"select 1 from orders where number = {number} for update");
        return await Find(number);
    }

    /// <summary>Whether there is such an order.</summary>
    public Task<bool> Exists(int number) => db.Orders.AnyAsync(o => o.Number == number);

    /// <summary>How many there are.</summary>
    public Task<int> Count() => db.Orders.CountAsync();

    /// <summary>How many are still to be sent.</summary>
    public Task<int> CountOpen() => db.Orders.CountAsync(o => o.State == OrderState.Placed);

    /// <summary>Orders from the newest number down.</summary>
    public Task<IReadOnlyList<Order>> ByNumber(int skip, int take) =>
        Many(db.Orders.OrderByDescending(o => o.Number).Skip(skip).Take(take));

    /// <summary>Orders from the last placed back, for a list.</summary>
    /// <param name="state">Only those in it; null for all.</param>
    /// <param name="search">Words of the buyer, the beginning of a SKU or a number; empty for all.</param>
    public async Task<IReadOnlyList<Order>> Newest(OrderState? state, string search, int skip, int take)
    {
        var orders = db.Orders.AsQueryable();
        if (state is { } only)
            orders = orders.Where(o => o.State == only);
        if (search.Length > 0)
        {
            var number = int.TryParse(search, out var n) ? n : -1;
            int[] found = [.. await Found(search)];
            orders = orders.Where(o => o.Number == number || found.Contains(o.Number));
        }
        return await Many(orders.OrderByDescending(o => o.PlacedAt).ThenByDescending(o => o.Number).Skip(skip).Take(take));
    }

    /// <summary>The last orders of an account and those without one under its address, which is proven; the newest first.</summary>
    public async Task<IReadOnlyList<Order>> OfCustomer(int id, int most)
    {
        var key = await db.Customers.Where(c => c.Id == id).Select(c => c.EmailKey).SingleAsync();
        return await Many(
            db.Orders.Where(o => o.CustomerId == id || (o.CustomerId == null && o.Email.ToLower() == key))
                .OrderByDescending(o => o.Number)
                .Take(most)
        );
    }

    /// <summary>The orders of goods through a page that were not cancelled, with all their lines, by their numbers.</summary>
    /// <param name="page">The code of a product.</param>
    public Task<IReadOnlyList<Order>> Through(string page, DateTimeOffset since) =>
        Many(
            db.Orders.Where(o => o.State != OrderState.Cancelled && o.PlacedAt >= since)
                .Where(o => o.Lines.Any(l => l.Through == page && l.Sku != ""))
                .OrderBy(o => o.Number)
        );

    /// <summary>The leaves of some stock that are still to be sent, with the numbers of their orders, by number.</summary>
    /// <param name="skus">The numbers of the stock.</param>
    public async Task<IReadOnlyList<(int Order, OrderLeaf Leaf)>> Open(IReadOnlyCollection<int> skus)
    {
        var orders = await Many(
            db.Orders.Where(o => o.State == OrderState.Placed && o.Lines.Any(l => l.Leaves.Any(f => skus.Contains(f.SkuId))))
                .OrderBy(o => o.Number)
        );
        return [.. orders.SelectMany(o => o.Leaves.Where(l => l.Open > 0 && skus.Contains(l.SkuId)).Select(l => (o.Number, l)))];
    }

    /// <summary>Numbers and buyers for the find-or-do box, the newest first.</summary>
    /// <param name="number">Of the order; null where it is looked for by its buyer.</param>
    /// <param name="buyer">A piece of the name.</param>
    public async Task<IReadOnlyList<(int Number, string Buyer)>> Named(int? number, string buyer, int most)
    {
        var pattern = $"%{Like.Escaped(buyer)}%";
        var found = await db
            .Orders.Where(o => number == null ? EF.Functions.ILike(o.Buyer, pattern) : o.Number == number)
            .OrderByDescending(o => o.Number)
            .Take(most)
            .Select(o => new { o.Number, o.Buyer })
            .ToListAsync();
        return [.. found.Select(o => (o.Number, o.Buyer))];
    }

    /// <summary>The newest orders whose buyer has every word in name or address, or that take a SKU that begins like this.</summary>
    private async Task<IReadOnlyList<int>> Found(string search)
    {
        var words = search.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(w => $"%{Like.Escaped(w)}%").ToArray();
        var begins = Like.Escaped(search.ToUpperInvariant()) + "%";
        return await db
            .Database.SqlQuery<int>(
                $"""
                (select number as "Value" from orders where (buyer || ' ' || email) ilike all ({words}) order by number desc limit 2000)
                union
                (select l.order_number from order_leaves f join order_lines l on l.id = f.order_line_id
                  where upper(f.sku) like {begins} order by 1 desc limit 2000)
                """
            )
            .ToListAsync();
    }

    private static IQueryable<OrderRow> Whole(IQueryable<OrderRow> orders) =>
        orders.AsNoTracking().Include(o => o.Lines).ThenInclude(l => l.Leaves).Include(o => o.Events).AsSplitQuery();

    private static async Task<Order?> One(IQueryable<OrderRow> orders) =>
        await orders.SingleOrDefaultAsync() is { } row ? OrderRecord.Read(row) : null;

    private static async Task<IReadOnlyList<Order>> Many(IQueryable<OrderRow> orders) =>
        [.. (await Whole(orders).ToListAsync()).Select(OrderRecord.Read)];
}
