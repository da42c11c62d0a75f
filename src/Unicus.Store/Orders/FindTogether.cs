using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Finds anew what was bought together and keeps it; of several processes one does it.</summary>
public sealed class FindTogether(UnicusContext db, TimeProvider clock)
{
    /// <summary>Orders that hold both at least.</summary>
    public const int LeastOrders = 3;

    private const int Most = 12;

    /// <summary>Orders of so long ago are not looked at any more.</summary>
    private static readonly TimeSpan History = TimeSpan.FromDays(3 * 365);

    /// <summary>“TOGE”, so that only one process does it at a time.</summary>
    private const long Lock = 0x544F4745;

    /// <returns>How many pairs there are; 0 where another process is at it.</returns>
    public async Task<int> Run(CancellationToken stop = default)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (!await db.Database.SqlQuery<bool>($"select pg_try_advisory_xact_lock({Lock}) as \"Value\"").SingleAsync(stop))
            return 0;
        var since = clock.GetUtcNow() - History;
        var orders = await db
            .Database.SqlQuery<int[]>(
                $"""
                select array_agg(distinct l.product_id) as "Value" from order_lines l join orders o on o.number = l.order_number
                where o.placed_at >= {since} and o.state <> {(int)OrderState.Cancelled} and l.sku <> '' group by l.order_number
                """
            )
            .ToListAsync(stop);
        var found = await Task.Run(() => BoughtTogether.Find(orders, LeastOrders, Most), stop);
        int[] products = [.. found.Select(t => t.Product)];
        int[] others = [.. found.Select(t => t.Other)];
        int[] counts = [.. found.Select(t => t.Orders)];
        double[] lifts = [.. found.Select(t => t.Lift)];
        await db.BoughtTogether.ExecuteDeleteAsync(stop);
        await db.Database.ExecuteSqlAsync(
            $"""
            insert into bought_together (product_id, other_id, orders, lift)
            select * from unnest({products}, {others}, {counts}, {lifts})
            """,
            stop
        );
        await transaction.CommitAsync(stop);
        return found.Count;
    }
}
