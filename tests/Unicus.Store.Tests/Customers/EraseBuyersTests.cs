using Microsoft.EntityFrameworkCore;

namespace Unicus.Store.Tests;

/// <summary>Who bought something can be erased; what was bought stays.</summary>
public sealed class EraseBuyersTests(Database db) : IClassFixture<Database>
{
    private const string Email = "Orla.Byrne@example.org";

    private async Task<int> Order(string sku, Buyer buyer)
    {
        var request = new BasketRequest([new LineRequest(null, sku, [], 1, null)], null);
        var placed = await db.Use<PlaceOrder, Placed>(p => p.Run(request, buyer, Actor.Shopper));
        return placed.Order!.Number;
    }

    [Fact]
    public async Task A_buyer_is_erased_everywhere_and_orders_and_ledger_stay()
    {
        await db.PublishPlain("ERA1", 10);
        var buyer = new Buyer("Orla Byrne", Email, "1 Lane\nCork", null);
        var (first, second) = (await Order("ERA1", buyer), await Order("ERA1", buyer with { Email = Email.ToLowerInvariant() }));
        await db.Use<CustomerAccounts, Outcome>(a => a.SignUp(Email, "Orla Byrne", t => $"/to/{t}"));
        await db.Use<EndOrder, Outcome>(e => e.Dispatch(first, Database.Tester));
        var open = await db.Use<EraseBuyers, Outcome<int>>(e => e.Of(Email, Database.Tester));
        Assert.Contains($"Order {second}", open.Faults[0].What);
        await db.Use<EndOrder, Outcome>(e => e.Cancel(second, "not wanted", Database.Tester));
        var (total, moved) = (await Totals(), await Moved());
        var outcome = await db.Use<EraseBuyers, Outcome<int>>(e => e.OfOrder(first, Database.Tester));
        Assert.Equal((true, 2), (outcome.Done, outcome.Result));
        Assert.Equal((total, moved), (await Totals(), await Moved()));
        var left = await db.Use<UnicusContext, long>(c => Mentions(c, "orla"));
        Assert.Equal(0, left);
        Assert.False((await db.Use<EraseBuyers, Outcome<int>>(e => e.Of(Email, Database.Tester))).Done);
        Assert.False((await db.Use<EndOrder, Outcome>(e => e.Reinstate(second, Database.Tester))).Done);

        Task<decimal> Totals() =>
            db.Use<UnicusContext, decimal>(c => c.Orders.Where(o => o.Number == first || o.Number == second).SumAsync(o => o.Total));
        Task<int> Moved() => db.Use<UnicusContext, int>(c => c.Movements.CountAsync());
    }

    [Fact]
    public async Task Buyers_of_orders_that_ended_long_ago_are_erased_by_themselves_where_the_shop_says_so()
    {
        await db.PublishPlain("ERA2", 10);
        var (old, open, recent) = (
            await Order("ERA2", Named("old")),
            await Order("ERA2", Named("open")),
            await Order("ERA2", Named("new"))
        );
        foreach (var number in new[] { old, recent })
            await db.Use<EndOrder, Outcome>(e => e.Dispatch(number, Database.Tester));
        await db.Use<UnicusContext, int>(c =>
            c.Database.ExecuteSqlAsync(
                $"""
                update orders set placed_at = placed_at - interval '5 months', ended_at = ended_at - interval '5 months'
                where number in ({old}, {open})
                """
            )
        );
        await Keep(null);
        Assert.Equal(0, await db.Use<EraseBuyers, int>(e => e.Old()));
        await Keep(4);
        await db.Use<EraseBuyers, int>(e => e.Old());
        await Keep(null);
        var names = await db.Use<UnicusContext, Dictionary<int, string>>(c => c.Orders.ToDictionaryAsync(o => o.Number, o => o.Buyer));
        Assert.Equal((EraseBuyers.Erased, "open", "new"), (names[old], names[open], names[recent]));

        static Buyer Named(string name) => new(name, $"{name}@example.org", "", null);
        Task<int> Keep(int? months) =>
            db.Use<UnicusContext, int>(c => c.Shops.ExecuteUpdateAsync(u => u.SetProperty(s => s.BuyersKeptMonths, months)));
    }

    private const string Counting = "select count(*) as \"Value\" from \"TABLE\" t where t::text ilike {0}";

    /// <summary>In how many rows of the whole database a word stands.</summary>
    private static async Task<long> Mentions(UnicusContext c, string word)
    {
        var tables = await c
            .Database.SqlQuery<string>($"select tablename::text as \"Value\" from pg_tables where schemaname = 'public'")
            .ToListAsync();
        var count = 0L;
        foreach (var table in tables)
            count += await c.Database.SqlQueryRaw<long>(Counting.Replace("TABLE", table), $"%{word}%").SingleAsync();
        return count;
    }
}
