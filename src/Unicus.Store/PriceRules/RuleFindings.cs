using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>Looks the shop's price rules over: what stands in them, what they reach, and whether they ever win.</summary>
public sealed class RuleFindings(UnicusContext db, Catalogue catalogue, RuleTrial trial, TimeProvider clock)
{
    /// <summary>Where a rule may reach more products than these, it is not said that it does nothing.</summary>
    private const int MostProducts = 200;

    /// <summary>What is doubtful, by the rules in their order.</summary>
    public async Task<IReadOnlyList<PriceRuleCheck>> Look()
    {
        var book = await catalogue.Terms.Prices(db);
        var now = clock.GetUtcNow();
        var found = PriceRuleChecks.Look(book.Rules).ToList();
        var known = new Dictionary<int, Edition>();
        foreach (var rule in book.Rules.Where(r => r.PhaseAt(now) is RulePhase.Running or RulePhase.Planned))
            if (await Unusable(rule, book) is { } why || (why = await Idle(rule, known)) is not null)
                found.Add(new PriceRuleCheck(rule.Id, why));
        return [.. found.OrderBy(f => book.Rules.ToList().FindIndex(r => r.Id == f.Rule))];
    }

    /// <summary>Why nobody can have the rule; null where somebody can.</summary>
    private async Task<string?> Unusable(PriceRule rule, PriceBook book)
    {
        if (rule.When.Coupons is { } list && !await db.CouponCodes.AnyAsync(c => c.List == list.Text && c.OrderNumber == null))
            return $"Nobody can use it: every code of {list} is used.";
        if (
            rule.Limits.InAll is { } most
            && await db.RuleUses.CountAsync(u => u.Rule == rule.Id && !u.GivenBack) is var used
            && used >= most
        )
            return $"Nobody can use it any more: it was used {used:N0} times, as often as it may be.";
        if (rule.When.CustomerGroups.IsEmpty)
            return null;
        var groups = rule.When.CustomerGroups.Select(g => g.Text!).ToArray();
        var isOpen = book.Groups.Any(g => groups.Contains(g.Key.Text) && g.Code is not null);
        return isOpen || await db.Customers.AnyAsync(c => groups.Contains(c.GroupKey))
            ? null
            : "Nobody can have it: its group has no code, and no account is in it.";
    }

    /// <summary>Why the rule does nothing to any price; null where it does, or where that is too much to look at.</summary>
    private async Task<string?> Idle(PriceRule rule, Dictionary<int, Edition> known) =>
        rule.Effect is PriceEffect.ReduceDelivery
            ? null
            : await trial.WorthOf(rule, known, MostProducts) switch
            {
                RuleWorth.HitsNothing => "It hits nothing: no goods on sale are in its scope.",
                RuleWorth.NeverWins => "It never wins: whatever it hits costs less, or no more, without it.",
                _ => null,
            };
}
