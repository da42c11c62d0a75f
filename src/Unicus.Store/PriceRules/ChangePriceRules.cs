using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Makes, replaces and takes out the shop's price rules and customer groups.</summary>
public sealed class ChangePriceRules(UnicusContext db, TimeProvider clock)
{
    /// <summary>Rules of the shop at most, those kept aside not counted.</summary>
    public const int MostRules = PriceRuleReader.MostRules;

    /// <summary>What is said where somebody else changed a rule meanwhile.</summary>
    public static Fault WasChanged { get; } =
        new("", "Nothing was saved: this rule was changed elsewhere meanwhile. Open it anew, then make your change again.");

    /// <summary>Makes or replaces a rule.</summary>
    /// <param name="version">The version that was seen, 0 where there was no such rule; another one is refused. Null: whichever.</param>
    /// <returns>The rule as it is kept, or the faults; <see cref="WasChanged"/> alone where the version is another one.</returns>
    public async Task<Outcome<StoredRule>> Put(PriceRule rule, Actor by, int? version = null)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        await Locks.PriceRules(db);
        var row = await db.PriceRules.SingleOrDefaultAsync(r => r.Key == rule.Key.Text);
        if (version is { } seen && (row?.Version ?? 0) != seen)
            return new Outcome<StoredRule>(null, [WasChanged]);
        if (row is null && await db.PriceRules.CountAsync(r => !r.Archived) >= MostRules)
            return Outcome<StoredRule>.No("", $"A shop has at most {MostRules:N0} price rules. Archive some first.");
        var faults = await Unknown(rule);
        if (faults.Count > 0)
            return new Outcome<StoredRule>(null, faults);
        if (row is null)
        {
            row = new PriceRuleRow
            {
                Key = rule.Key.Text,
                Name = "",
                Document = "",
            };
            db.PriceRules.Add(row);
        }
        (row.Name, row.Document) = (rule.Name, PriceRuleWriter.Write(rule).ToJsonString());
        (row.Version, row.ChangedAt, row.ChangedBy, row.Archived) = (row.Version + 1, clock.GetUtcNow(), by.Name, false);
        await db.SaveChangesAsync();
        await PriceHistory.Note(db, row.ChangedAt);
        await transaction.CommitAsync();
        return Outcome<StoredRule>.Of(new StoredRule(rule, row.Version, row.Archived));
    }

    /// <summary>Takes a rule out.</summary>
    /// <returns>Whether there was one.</returns>
    public Task<bool> Delete(string key) => Change(() => db.PriceRules.Where(r => r.Key == key).ExecuteDeleteAsync());

    /// <summary>Keeps a rule aside, or brings it back.</summary>
    public Task<bool> Archive(string key, bool archived) =>
        Change(() => db.PriceRules.Where(r => r.Key == key).ExecuteUpdateAsync(u => u.SetProperty(r => r.Archived, archived)));

    /// <summary>Makes or replaces a customer group.</summary>
    /// <param name="code">The word by which shoppers say that they belong to it; null: only by their account.</param>
    public async Task<Outcome> PutGroup(Key key, string label, string? code)
    {
        var word = code?.Trim().ToUpperInvariant();
        await using var transaction = await db.Database.BeginTransactionAsync();
        await Locks.PriceRules(db);
        if (word is { Length: > 0 } && await db.CustomerGroups.AnyAsync(g => g.Code == word && g.Key != key.Text))
            return Outcome.No("#/code", $"Another group has the code {code} already.");
        var row = await db.CustomerGroups.FindAsync(key.Text);
        if (row is null)
            db.CustomerGroups.Add(row = new CustomerGroupRow { Key = key.Text, Label = label });
        (row.Label, row.Code) = (label, word is { Length: > 0 } ? word : null);
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return Outcome.Ok;
    }

    private async Task<bool> Change(Func<Task<int>> change)
    {
        await using var transaction = await db.Database.BeginTransactionAsync();
        await Locks.PriceRules(db);
        var rows = await change();
        await PriceHistory.Note(db, clock.GetUtcNow());
        await transaction.CommitAsync();
        return rows > 0;
    }

    /// <summary>What the rule names and the shop does not have.</summary>
    private async Task<List<Fault>> Unknown(PriceRule rule)
    {
        var faults = new List<Fault>();
        var groups = await db.CustomerGroups.Select(g => g.Key).ToListAsync();
        foreach (var (group, i) in rule.When.CustomerGroups.Index().Select(g => (g.Item, g.Index)))
            if (!groups.Contains(group.Text))
                faults.Add(new Fault($"#/when/customerGroups/{i}", $"There is no customer group {group}."));
        if (rule.When.Coupons is { } list && !await db.CouponCodes.AnyAsync(c => c.List == list.Text))
            faults.Add(new Fault("#/when/coupons", $"There is no list of codes {list}."));
        return faults;
    }
}
