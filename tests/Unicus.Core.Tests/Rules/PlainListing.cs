using System.Collections.Immutable;

namespace Unicus.CoreTests;

/// <summary>The meaning of domain.md section 4 word for word, by listing every configuration out; slow and plain, to compare
/// with.</summary>
internal sealed class PlainListing(RuleModel model, Configuration given)
{
    private readonly MadeSet _made = model.Made;

    /// <summary>Every valid complete configuration; the typed answers are those given.</summary>
    public List<Dictionary<Key, Answer>> Valid() => [.. Everything(0, []).Where(IsValid)];

    /// <summary>Whether a configuration gives an answer or hides its question.</summary>
    public bool Agrees(Dictionary<Key, Answer> whole, Key question, Answer answer) =>
        whole[question] == answer || !IsShown(question, whole);

    public bool AgreesWithAll(Dictionary<Key, Answer> whole, Key? but = null) =>
        given.Given.All(g => g.Question == but || !whole.ContainsKey(g.Question) || Agrees(whole, g.Question, g.Answer));

    /// <summary>Whether some of the answers and rules can stand together with the lists, picks and required marks, and what is shown under
    /// the full rules.</summary>
    public bool CanStand(IReadOnlySet<Key> answers, IReadOnlySet<Key> rules, bool notMade) =>
        new PlainListing(model, new Configuration([.. given.Given.Where(g => answers.Contains(g.Question))])).CanStand(rules, notMade);

    private bool CanStand(IReadOnlySet<Key> rules, bool notMade) =>
        Everything(0, [])
            .Any(whole =>
                AgreesWithAll(whole)
                && model.Questions.Where(q => q.IsPicked).All(q => whole[q.Key] is not Answer.None || !q.Required || !IsShown(q.Key, whole))
                && (!notMade || IsMade(whole))
                && model
                    .Questions.Where(q => q.IsPicked && whole[q.Key] is not Answer.None)
                    .All(q =>
                        Rules<Effect.Show>().Where(r => r.Effect.Questions.Contains(q.Key)).ToList() is var shows
                        && (shows.Count == 0 || !rules.Contains(shows[0].Rule.Key) || shows.Exists(r => Holds(r.Rule.When, whole)))
                    )
                && model
                    .Rules.Where(r => !r.Off && rules.Contains(r.Key) && Holds(r.When, whole))
                    .SelectMany(r => r.Then)
                    .All(e => Stands(e, whole))
            );

    private bool Stands(Effect effect, Dictionary<Key, Answer> whole) =>
        effect switch
        {
            Effect.Hide h => h.Questions.All(q => !whole.TryGetValue(q, out var a) || a is Answer.None),
            Effect.Require r => r.Questions.All(q => !whole.TryGetValue(q, out var a) || a is not Answer.None || !IsShown(q, whole)),
            Effect.Forbid f => !Keys(whole[f.Question]).Any(f.Values.Contains),
            Effect.AllowOnly o => Keys(whole[o.Question]).All(o.Values.Contains),
            _ => true,
        };

    private bool IsMade(Dictionary<Key, Answer> whole) =>
        _made.NumberOf(Combination.Of(_made.Options.Select(o => (o.Key, ((Answer.Value)whole[o.Key]).Key)))) is { } n && _made.IsMade(n);

    private IEnumerable<Dictionary<Key, Answer>> Everything(int at, Dictionary<Key, Answer> soFar)
    {
        var picked = model.Questions.Where(q => q.IsPicked).ToList();
        if (at == picked.Count)
            return [new(soFar)];
        return Answers(picked[at]).SelectMany(a => Everything(at + 1, new(soFar) { [picked[at].Key] = a }));
    }

    private static IEnumerable<Answer> Answers(Option question)
    {
        if (question.Ask != Ask.Several)
        {
            var values = question.Values.Select(v => (Answer)new Answer.Value(v.Key));
            return question.Role == OptionRole.Variant ? values : values.Append(new Answer.None());
        }
        return Enumerable
            .Range(0, 1 << question.Values.Length)
            .Select(bits => question.Values.Where((_, i) => (bits >> i & 1) == 1).Select(v => v.Key).ToImmutableArray())
            .Where(t =>
                t.Length == 0 || (t.Length >= Math.Max(1, question.Picks.Min) && t.Length <= (question.Picks.Max ?? question.Values.Length))
            )
            .Select(t => t.Length == 0 ? (Answer)new Answer.None() : new Answer.Ticks(t));
    }

    private bool IsValid(Dictionary<Key, Answer> whole)
    {
        foreach (var question in model.Questions.Where(q => q.IsPicked))
        {
            var shown = IsShown(question.Key, whole);
            var answer = whole[question.Key];
            if (!shown && answer is not Answer.None)
                return false;
            if (
                shown
                && answer is Answer.None
                && (
                    question.Required
                    || question.Role == OptionRole.Variant
                    || Rules<Effect.Require>().Any(r => r.Effect.Questions.Contains(question.Key) && Holds(r.Rule.When, whole))
                )
            )
                return false;
            foreach (var (rule, effect) in Rules<Effect.Forbid>())
                if (effect.Question == question.Key && Holds(rule.When, whole) && Keys(answer).Any(effect.Values.Contains))
                    return false;
            foreach (var (rule, effect) in Rules<Effect.AllowOnly>())
                if (effect.Question == question.Key && Holds(rule.When, whole) && !Keys(answer).All(effect.Values.Contains))
                    return false;
        }
        return IsMade(whole);
    }

    public bool IsShown(Key question, IReadOnlyDictionary<Key, Answer> whole) =>
        !Rules<Effect.Hide>().Any(r => r.Effect.Questions.Contains(question) && Holds(r.Rule.When, whole))
        && (
            !Rules<Effect.Show>().Any(r => r.Effect.Questions.Contains(question))
            || Rules<Effect.Show>().Any(r => r.Effect.Questions.Contains(question) && Holds(r.Rule.When, whole))
        );

    public bool Holds(Condition condition, IReadOnlyDictionary<Key, Answer> whole)
    {
        Answer? To(Key question) =>
            (whole.TryGetValue(question, out var a) ? a : given[question]) is { } answer
            && answer is not Answer.None
            && IsShown(question, whole)
                ? answer
                : null;
        return condition switch
        {
            Condition.All all => all.Of.All(c => Holds(c, whole)),
            Condition.Any any => any.Of.Any(c => Holds(c, whole)),
            Condition.Not not => !Holds(not.Of, whole),
            Condition.Is i => To(i.Question) is { } a && Keys(a).Any(i.Values.Contains),
            Condition.Answered a => To(a.Question) is not null,
            Condition.AtLeast l => To(l.Question) is Answer.Number n && n.Size >= l.Bound,
            Condition.AtMost m => To(m.Question) is Answer.Number n && n.Size <= m.Bound,
            _ => throw new InvalidOperationException(),
        };
    }

    private static ImmutableArray<Key> Keys(Answer answer) =>
        answer switch
        {
            Answer.Value v => [v.Key],
            Answer.Ticks t => t.Keys,
            _ => [],
        };

    private IEnumerable<(SelectionRule Rule, TEffect Effect)> Rules<TEffect>()
        where TEffect : Effect => model.Rules.Where(r => !r.Off).SelectMany(r => r.Then.OfType<TEffect>().Select(e => (r, e)));
}
