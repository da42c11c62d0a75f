namespace Unicus.Core.Rules;

using System.Collections.Immutable;
using Unicus.Core.Options;

/// <summary>Rules, conditions and conflicts as sentences in the product's own words.</summary>
public sealed class RuleWords(RuleBook book)
{
    /// <summary>“When Timber is not Cedar, hide Name plate.”</summary>
    public string Sentence(SelectionRule rule) =>
        rule.When is Condition.All { Of.IsEmpty: true }
            ? $"Always {Effects(rule.Then)}."
            : $"When {Of(rule.When)}, " + $"{Effects(rule.Then)}.";

    /// <summary>A condition in words.</summary>
    public string Of(Condition condition) =>
        condition switch
        {
            Condition.Is i => $"{Label(i.Question)} is {Values(i.Question, i.Values)}",
            Condition.Answered a => $"{Label(a.Question)} is answered",
            Condition.AtLeast l => $"{Label(l.Question)} is at least {Measured(l.Question, l.Bound)}",
            Condition.AtMost m => $"{Label(m.Question)} is at most {Measured(m.Question, m.Bound)}",
            Condition.Not { Of: Condition.Is i } => $"{Label(i.Question)} is not {Values(i.Question, i.Values)}",
            Condition.Not { Of: Condition.Answered a } => $"{Label(a.Question)} is not answered",
            Condition.Not { Of: Condition.Any any } => $"none of these: {Joined(any.Of, "; ")}",
            Condition.Not { Of: Condition.All all } => $"not all of these: {Joined(all.Of, "; ")}",
            Condition.Not n => $"not ({Of(n.Of)})",
            Condition.All { Of.IsEmpty: true } => "anything",
            Condition.Any { Of.IsEmpty: true } => "never",
            Condition.All all => string.Join(" and ", all.Of.Select(Inner)),
            Condition.Any any => string.Join(" or ", any.Of.Select(Inner)),
            _ => throw new InvalidOperationException("A kind of condition without words."),
        };

    /// <summary>Effects in words.</summary>
    public string Effects(ImmutableArray<Effect> effects) => string.Join(" and ", effects.Select(Of));

    /// <summary>An effect in words.</summary>
    public string Of(Effect effect) =>
        effect switch
        {
            Effect.Hide h => $"hide {Labels(h.Questions)}",
            Effect.Show s => $"show {Labels(s.Questions)}",
            Effect.Require r => $"{Labels(r.Questions)} {(r.Questions.Length == 1 ? "needs" : "need")} an answer",
            Effect.Forbid f => $"{Label(f.Question)} cannot be {Values(f.Question, f.Values)}",
            Effect.AllowOnly a => $"{Label(a.Question)} can only be {Values(a.Question, a.Values)}",
            _ => throw new InvalidOperationException("A kind of effect without words."),
        };

    /// <summary>“Depth shallow and Roof gabled cannot stand together: when Depth is not Deep, Roof cannot be Gabled.”</summary>
    public string Conflict(RuleConflict conflict, Configuration given)
    {
        var answers = conflict
            .Answers.Select(k =>
                book.Find(k) is { } q && given[k] is { } a
                    ? a is Answer.None
                        ? $"{q.Label} left without an answer"
                        : $"{q.Label} {Wording.LowerFirst(AnswerText.ForPeople(q, a))}"
                    : k.Text
            )
            .ToList();
        var said = answers.Count switch
        {
            0 => "No answers at all can stand",
            1 => $"{answers[0]} cannot be had",
            _ => $"{string.Join(", ", answers.SkipLast(1))} and {answers[^1]} cannot stand together",
        };
        var why = conflict
            .Rules.Select(k => book.Rules.FirstOrDefault(r => r.Key == k))
            .OfType<SelectionRule>()
            .Select(r => Wording.LowerFirst(Sentence(r)).TrimEnd('.'))
            .Concat(conflict.NotMade ? ["it is not made"] : [])
            .ToList();
        return why.Count == 0 ? $"{said}." : $"{said}: {string.Join("; ", why)}.";
    }

    /// <summary>Conditions of two or more kinds in each other are told apart without brackets: the inner one is read after “either” or
    /// “both”.</summary>
    private string Inner(Condition condition) =>
        condition switch
        {
            Condition.Any { Of.Length: > 1 } any => $"either {string.Join(" or ", any.Of.Select(Inner))}",
            Condition.All { Of.Length: > 1 } all => $"both {string.Join(" and ", all.Of.Select(Inner))}",
            _ => Of(condition),
        };

    private string Joined(ImmutableArray<Condition> conditions, string by) => string.Join(by, conditions.Select(Of));

    private string Label(Key question) => book.Find(question)?.Label ?? question.Text;

    private string Labels(ImmutableArray<Key> questions) => List([.. questions.Select(Label)], "and");

    private string Values(Key question, ImmutableArray<Key> values) =>
        List(
            [
                .. values.Select(v =>
                    book.Find(question) is not { } q ? v.Text
                    : q.Ask == Ask.YesNo ? "yes"
                    : q.Find(v)?.Label ?? v.Text
                ),
            ],
            "or"
        );

    private string Measured(Key question, decimal bound) => book.Find(question)?.Number.Unit is { } unit ? $"{bound} {unit}" : $"{bound}";

    private static string List(List<string> words, string with) =>
        words.Count < 2 ? string.Concat(words) : $"{string.Join(", ", words.SkipLast(1))} {with} {words[^1]}";
}
