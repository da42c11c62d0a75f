using Microsoft.EntityFrameworkCore;
using Unicus.Core;

namespace Unicus.Web.Workbench;

/// <summary>A price rule that reaches the product, as a line.</summary>
/// <param name="IsOwn">Whether it is the product's own; else it is the shop's.</param>
public sealed record ReachingLine(PriceRule Rule, RulePhase Phase, IReadOnlyList<Phrase> Sentence, string Dates, bool IsOwn);

/// <summary>The chapter Price rules: the product's own and the shop's that reach it.</summary>
public sealed partial class WorkbenchModel
{
    /// <summary>What reaches it: running, then planned, drafts and what is over.</summary>
    public async Task<IReadOnlyList<ReachingLine>> PriceLines()
    {
        var (book, shop, now) = (await visit.Prices(), await visit.Shop(), DateTimeOffset.UtcNow);
        var draft = new Edition(Copy.Row.Id, 0, Copy.Row.ChangedAt, Copy.Whole, Copy.Matrix) { Sets = Copy.Sets };
        var names = await db.Products.AsNoTracking().Select(p => new { p.Code, p.Name }).ToDictionaryAsync(p => p.Code, p => p.Name);
        var words = new PriceRuleWords(shop.TimeZone, names.GetValueOrDefault, book.Groups);
        string Dates(PriceWhen when) =>
            (when.From, when.Until) switch
            {
                (null, null) => "",
                ({ } from, null) => $"from {words.Moment(from)}",
                (null, { } until) => $"until {words.Moment(until)}",
                ({ } from, { } until) => $"{words.Moment(from)} to {words.Moment(until)}",
            };
        return
        [
            .. book.Reaching(draft)
                .Select(r => new ReachingLine(r, r.PhaseAt(now), words.Sentence(r), Dates(r.When), r.Owner is not null))
                .OrderBy(l =>
                    l.Phase switch
                    {
                        RulePhase.Running => 0,
                        RulePhase.Planned => 1,
                        RulePhase.Draft => 2,
                        _ => 3,
                    }
                ),
        ];
    }
}
