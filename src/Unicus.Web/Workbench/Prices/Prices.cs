using Unicus.Core;
using Unicus.Store;

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
        var buying = (await visit.PublicTerms()).Buying;
        var draft = new Edition(Copy.Row.Id, 0, Copy.Row.ChangedAt, Copy.Whole, Copy.Matrix) { Sets = Copy.Sets };
        var reaching = buying.Book.Reaching(draft).ToList();
        var names = await PriceBooks.Names(db, reaching);
        var words = new PriceRuleWords(buying.Zone, names.GetValueOrDefault, buying.Book.Groups);
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
            .. reaching
                .Select(r => new ReachingLine(r, r.PhaseAt(buying.At), words.Sentence(r), Dates(r.When), r.Owner is not null))
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
