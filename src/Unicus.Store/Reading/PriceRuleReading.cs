using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>A price rule of the shop as it is stored.</summary>
/// <param name="Version">Counts up with every change.</param>
/// <param name="IsArchived">Whether it is kept aside.</param>
public sealed record StoredRule(PriceRule Rule, int Version, bool IsArchived);

/// <summary>A code of a list.</summary>
/// <param name="Order">The order that used it; null while it is free.</param>
public sealed record ListedCode(string Code, int? Order);

/// <summary>Reads price rules, customer groups and lists of codes for pages and documents.</summary>
public sealed class PriceRuleReading(UnicusContext db, Catalogue catalogue, TimeProvider clock)
{
    /// <summary>The price rules by their keys, those kept aside among them.</summary>
    public async Task<IReadOnlyList<StoredRule>> All() => await PriceBooks.Stored(db, (await catalogue.Terms.Settings(db)).Currency);

    /// <summary>The same as they are kept in memory, for what is asked with every key that is pressed.</summary>
    public Task<IReadOnlyList<StoredRule>> InMemory() => catalogue.Terms.StoredRules(db);

    /// <summary>One rule that is not kept aside; null where there is none.</summary>
    public async Task<StoredRule?> Find(string key) =>
        await db.PriceRules.AsNoTracking().SingleOrDefaultAsync(r => r.Key == key && !r.Archived) is { } row
            ? new StoredRule(PriceBooks.Read(row.Document, (await catalogue.Terms.Settings(db)).Currency), row.Version, false)
            : null;

    /// <summary>The names of the products that rules name, by their codes; those that are gone are missing.</summary>
    public Task<Dictionary<string, string>> Names(IEnumerable<PriceRule> rules) => PriceBooks.Names(db, rules);

    /// <summary>What rules took off in orders that stand, by their keys, in the shop's currency.</summary>
    /// <param name="days">In the last so many days.</param>
    public Task<Dictionary<string, decimal>> Given(int days)
    {
        var since = clock.GetUtcNow().AddDays(-days);
        return db
            .RuleUses.Where(u => !u.GivenBack && u.At >= since)
            .GroupBy(u => u.Rule)
            .Select(g => new { g.Key, Sum = g.Sum(u => u.Amount) })
            .ToDictionaryAsync(x => x.Key, x => x.Sum);
    }

    /// <summary>The customer groups by name.</summary>
    public async Task<IReadOnlyList<CustomerGroup>> Groups() =>
        [
            .. (await db.CustomerGroups.AsNoTracking().OrderBy(g => g.Label).ToListAsync()).Select(g => new CustomerGroup(
                Key.Of(g.Key),
                g.Label,
                g.Code
            )),
        ];

    /// <summary>The lists of codes by their keys.</summary>
    public async Task<IReadOnlyList<CouponList>> Lists() =>
        await db
            .CouponCodes.GroupBy(c => c.List)
            .OrderBy(g => g.Key)
            .Select(g => new CouponList(g.Key, g.Count(), g.Count(c => c.OrderNumber != null)))
            .ToListAsync();

    /// <summary>The first codes of a list, the used ones first.</summary>
    public async Task<IReadOnlyList<ListedCode>> Codes(string list, int most) =>
        await db
            .CouponCodes.Where(c => c.List == list)
            .OrderByDescending(c => c.OrderNumber != null)
            .ThenBy(c => c.Code)
            .Take(most)
            .Select(c => new ListedCode(c.Code, c.OrderNumber))
            .ToListAsync();
}
