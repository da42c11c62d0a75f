using System.Collections.Immutable;
using Unicus.Store;
using Unicus.Web.Shop;

namespace Unicus.Web.Workbench;

/// <summary>One rule as a line: its sentence and what is wrong with it.</summary>
public sealed record RuleLine(SelectionRule Rule, string Sentence, string? Trouble, bool Stops, bool Holds);

/// <summary>An arc of the map, from a question that a rule looks at to one that it acts on.</summary>
/// <param name="Kind">hide, show, require, forbid or allow.</param>
public sealed record MapArc(Key From, Key To, string Kind, RuleLine Line);

/// <summary>One cell of the table of combinations.</summary>
/// <param name="Why">Why it cannot be, or null.</param>
public sealed record CombinationCell(ImmutableArray<(Key Question, Key Value)> Pairs, string? Why, Key? Rule);

/// <summary>The questions of a table of combinations.</summary>
/// <param name="Band">One more, down; null for none.</param>
public sealed record CombinationTable(Option Down, Option Across, Option? Band);

/// <summary>A row of such a table.</summary>
public sealed record CombinationRow(OptionValue? Band, OptionValue Down, ImmutableArray<CombinationCell> Cells);

/// <summary>All that the chapter Rules shows.</summary>
public sealed class RulesView(string here, WorkingCopy copy, Configuration given, IQueryCollection query)
{
    private const int MostCells = 600;
    private const int MostReasons = 60;

    private ImmutableArray<RuleLine>? _lines;
    private RulesReply? _reply;

    public string Here => here;
    public Configurator Configurator => copy.Configurator;
    public IReadOnlyList<Option> Questions => Configurator.Questions;
    public Configuration Given => given;
    public RulesReply Reply => _reply ??= Configurator.Answer(given);
    public bool IsWorkable => Configurator.Faults.IsEmpty;

    public ImmutableArray<RuleLine> Lines => _lines ??= [.. Configurator.Book.Rules.Select(Line)];

    public RuleView Builder(SelectionRule rule) => RuleForm.Of(here, rule, Questions, Configurator.Words);

    /// <summary>“1,240 ways to configure it”.</summary>
    public string CountWords =>
        !IsWorkable ? ""
        : Configurator.Rules.IsEmpty ? "nothing can be configured"
        : Configurator.Answer(Configuration.Empty).Count is var count && count == 1 ? "1 way to configure it"
        : $"{count:N0} ways to configure it";

    /// <summary>What the rules leave of the questions, over all that may be answered.</summary>
    public IEnumerable<RuleFinding> Findings() =>
        Configurator.Faults is [var fault, ..] ? [new RuleFinding(fault.What, true)] : Configurator.Health.Findings(Configurator.Book);

    /// <summary>Arcs by rule; of a rule that always acts there is one from the question to itself.</summary>
    public IEnumerable<MapArc> Arcs =>
        Lines
            .Where(l => !l.Rule.Off)
            .SelectMany(l =>
                l.Rule.Then.SelectMany(e =>
                    e.Targets.Where(t => Configurator.Book.Find(t) is not null)
                        .Distinct()
                        .SelectMany(t =>
                            l.Rule.When.Questions.Where(q => Configurator.Book.Find(q) is not null)
                                .DefaultIfEmpty(t)
                                .Select(q => new MapArc(q, t, KindOf(e), l))
                        )
                )
            );

    /// <summary>The question of the map whose values are all shown.</summary>
    public string Open => query["open"].ToString();

    /// <summary>A query of answers with the open question of the map.</summary>
    public string Address(string answers, string open) =>
        (answers.Length == 0 ? "?" : answers + "&") + (open.Length == 0 ? "" : $"open={Uri.EscapeDataString(open)}");

    /// <summary>The address with one more answer, or one less.</summary>
    public string Pick(Option question, OptionValue value)
    {
        var answer = given[question.Key];
        var next = answer switch
        {
            Answer.Value v when v.Key == value.Key => given.Without(question.Key),
            Answer.Ticks t when t.Keys.Contains(value.Key) => t.Keys.Length == 1
                ? given.Without(question.Key)
                : given.With(question.Key, new Answer.Ticks(t.Keys.Remove(value.Key))),
            Answer.Ticks t => given.With(question.Key, new Answer.Ticks(t.Keys.Add(value.Key))),
            _ => given.With(question.Key, question.Ask == Ask.Several ? new Answer.Ticks([value.Key]) : new Answer.Value(value.Key)),
        };
        return BuyForm.Query(next);
    }

    /// <summary>The questions of the table, one or two down and one across; null where none are chosen.</summary>
    public CombinationTable? Table
    {
        get
        {
            Option? Of(string name) =>
                Questions.FirstOrDefault(q => q.IsPicked && q.Values.Length > 0 && q.Key.Text == query[name].ToString());
            return Of("down") is { } down && Of("across") is { } across && down != across
                ? new CombinationTable(down, across, Of("band") is { } band && band != down && band != across ? band : null)
                : null;
        }
    }

    /// <summary>The cells of a row of the table.</summary>
    public IEnumerable<CombinationRow> Rows()
    {
        if (Table is not { } t || !IsWorkable)
            yield break;
        var (cells, reasons) = (0, 0);
        foreach (var band in t.Band is { } b ? b.Values.Select(v => (OptionValue?)v) : [null])
            foreach (var down in t.Down.Values)
            {
                if (cells > MostCells)
                    yield break;
                var row = ImmutableArray.CreateBuilder<CombinationCell>();
                foreach (var across in t.Across.Values)
                {
                    ImmutableArray<(Key, Key)> pairs =
                    [
                        .. t.Band is { } q ? new[] { (q.Key, band!.Key) } : [],
                    (t.Down.Key, down.Key),
                    (t.Across.Key, across.Key),
                ];
                    cells++;
                    row.Add(Cell(pairs, ref reasons));
                }
                yield return new CombinationRow(band, down, row.ToImmutable());
            }
    }

    private CombinationCell Cell(ImmutableArray<(Key Question, Key Value)> pairs, ref int reasons)
    {
        var asked = pairs.Aggregate(Configuration.Empty, (g, p) =>
            g.With(
                p.Question,
                Configurator.Book.Find(p.Question)!.Ask == Ask.Several ? new Answer.Ticks([p.Value]) : new Answer.Value(p.Value)
            )
        );
        // A question that is hidden agrees with any answer; here it is asked whether it is really picked.
        if (Configurator.Rules.IsPicked(asked))
            return new CombinationCell(pairs, null, null);
        if (reasons++ >= MostReasons)
            return new CombinationCell(pairs, "not possible", null);
        if (Configurator.Conflict(asked) is not { } conflict)
            return new CombinationCell(pairs, "hidden then", null);
        var rule = conflict.Conflict.Rules.Length == 1 ? conflict.Conflict.Rules[0] : (Key?)null;
        return new CombinationCell(
            pairs,
            conflict.Conflict.NotMade && conflict.Conflict.Rules.IsEmpty
                ? "not made"
                : string.Join(
                    " ",
                    conflict.Conflict.Rules.Select(r => Configurator.Words.Sentence(Configurator.Book.Rules.First(x => x.Key == r)))
                ),
            rule
        );
    }

    private static string KindOf(Effect effect) =>
        effect switch
        {
            Effect.Hide => "hide",
            Effect.Show => "show",
            Effect.Require => "require",
            Effect.Forbid => "forbid",
            _ => "allow",
        };

    private RuleLine Line(SelectionRule rule)
    {
        var book = Configurator.Book;
        var sentence = Configurator.Words.Sentence(rule);
        if (book.Broken.FirstOrDefault(b => b.Where == rule.Key.Text) is { } broken)
            return new RuleLine(rule, sentence, $"Broken: {broken.What}", !rule.Off, false);
        if (rule.Off)
            return new RuleLine(rule, sentence, null, false, false);
        if (book.Loops.Any(l => l.Contains(rule.Key)))
            return new RuleLine(rule, sentence, "Part of a circle: what it shows depends on itself.", true, false);
        var trouble =
            !IsWorkable || Configurator.Health.Impossible ? null
            : Configurator.Health.NeverHolds.Contains(rule.Key) ? "Never holds."
            : Configurator.Health.ChangesNothing.Contains(rule.Key) ? "Changes nothing."
            : null;
        return new RuleLine(rule, sentence, trouble, false, new Visibility(book, given).Holds(rule.When));
    }
}
