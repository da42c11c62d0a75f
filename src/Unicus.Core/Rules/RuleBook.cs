namespace Unicus.Core.Rules;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;

/// <summary>The questions of a product and its rules, checked against each other.</summary>
/// <remarks>A rule that names what is not there, or is switched off, is kept by the product but takes no part; <see cref="Broken"/> says
/// why.</remarks>
public sealed class RuleBook
{
    private readonly Dictionary<Key, Option> _byKey;
    private readonly ILookup<Key, SelectionRule> _hiding;
    private readonly ILookup<Key, SelectionRule> _showing;
    private readonly ILookup<Key, SelectionRule> _requiring;
    private readonly Dictionary<Key, Condition> _shownWhen = [];

    /// <summary>Sorts rules by the questions that they are about.</summary>
    public RuleBook(IReadOnlyList<Option> questions, IReadOnlyList<SelectionRule> rules)
    {
        (Questions, Rules) = (questions, rules);
        _byKey = questions.ToDictionary(q => q.Key);
        Broken = [.. rules.SelectMany(r => Problems(r).Take(1).Select(p => new Fault(r.Key.Text, p)))];
        var broken = Broken.Select(f => f.Where).ToHashSet();
        Acting = [.. rules.Where(r => !r.Off && (r.IsNotMade || !broken.Contains(r.Key.Text)))];
        _hiding = Targets<Effect.Hide>();
        _showing = Targets<Effect.Show>();
        _requiring = Targets<Effect.Require>();
        foreach (var question in questions.Where(q => IsConditional(q.Key)))
            _shownWhen[question.Key] = WhenShown(question.Key);
        Loops = [.. FindLoops()];
    }

    /// <summary>The questions, in order.</summary>
    public IReadOnlyList<Option> Questions { get; }

    /// <summary>All rules, those that are switched off too.</summary>
    public IReadOnlyList<SelectionRule> Rules { get; }

    /// <summary>The rules that take part.</summary>
    public ImmutableArray<SelectionRule> Acting { get; }

    /// <summary>Rules that name missing questions or values, or ask what a question cannot answer; <see cref="Fault.Where"/> is the rule's
    /// key.</summary>
    public ImmutableArray<Fault> Broken { get; }

    /// <summary>Loops of visibility, each with the rules that make it, in order.</summary>
    public ImmutableArray<ImmutableArray<Key>> Loops { get; }

    /// <summary>The question of a key; null where there is none.</summary>
    public Option? Find(Key question) => _byKey.GetValueOrDefault(question);

    /// <summary>The rules that hide a question.</summary>
    public IEnumerable<SelectionRule> Hiding(Key question) => _hiding[question];

    /// <summary>The rules that show a question.</summary>
    public IEnumerable<SelectionRule> Showing(Key question) => _showing[question];

    /// <summary>The rules by which a question needs an answer.</summary>
    public IEnumerable<SelectionRule> Requiring(Key question) => _requiring.Count == 0 ? [] : _requiring[question];

    /// <summary>Whether any rule can hide the question.</summary>
    public bool IsConditional(Key question) => HasConditional && (_hiding.Contains(question) || _showing.Contains(question));

    /// <summary>Whether any rule can hide any question.</summary>
    public bool HasConditional => _hiding.Count > 0 || _showing.Count > 0;

    /// <summary>When the question is shown: no rule that hides it holds, and, if there are rules that show it, one of those
    /// does.</summary>
    public Condition ShownWhen(Key question) => _shownWhen.GetValueOrDefault(question) ?? Condition.Always;

    private Condition WhenShown(Key question)
    {
        var notHidden = new Condition.Not(new Condition.Any([.. Hiding(question).Select(r => r.When)]));
        return _showing.Contains(question)
            ? new Condition.All([notHidden, new Condition.Any([.. Showing(question).Select(r => r.When)])])
            : notHidden;
    }

    private ILookup<Key, SelectionRule> Targets<TEffect>()
        where TEffect : Effect =>
        Acting
            .SelectMany(r => r.Then.OfType<TEffect>().SelectMany(e => e.Targets).Distinct().Select(q => (q, r)))
            .ToLookup(x => x.q, x => x.r);

    private IEnumerable<string> Problems(SelectionRule rule)
    {
        foreach (var problem in ProblemsOf(rule.When))
            yield return problem;
        foreach (var effect in rule.Then)
            foreach (var target in effect.Targets)
            {
                if (Find(target) is not { } question)
                    yield return $"There is no question {target}.";
                else if (effect is Effect.Hide or Effect.Show or Effect.Require && question.Role == OptionRole.Variant)
                    yield return $"{question.Label} splits variants: it is always shown and always needs an answer.";
                else if (effect is Effect.Forbid or Effect.AllowOnly && !question.IsPicked)
                    yield return $"{question.Label} has no values to forbid or allow.";
                else if (effect is Effect.Forbid f && f.Values.FirstOrDefault(v => question.Find(v) is null) is { Text: not null } missing)
                    yield return $"{question.Label} has no value {missing}.";
                else if (effect is Effect.AllowOnly o && o.Values.FirstOrDefault(v => question.Find(v) is null) is { Text: not null } gone)
                    yield return $"{question.Label} has no value {gone}.";
            }
    }

    private IEnumerable<string> ProblemsOf(Condition condition)
    {
        switch (condition)
        {
            case Condition.All all:
                return all.Of.SelectMany(ProblemsOf);
            case Condition.Any any:
                return any.Of.SelectMany(ProblemsOf);
            case Condition.Not not:
                return ProblemsOf(not.Of);
        }
        if (Find(condition.Questions.First()) is not { } question)
            return [$"There is no question {condition.Questions.First()}."];
        return condition switch
        {
            Condition.Is when !question.IsPicked => [$"{question.Label} is not picked from a list."],
            Condition.Is i when i.Values.FirstOrDefault(v => question.Find(v) is null) is { Text: not null } missing =>
            [
                $"{question.Label} has no value {missing}.",
            ],
            Condition.AtLeast or Condition.AtMost when question.Ask != Ask.Number => [$"{question.Label} is not a number."],
            _ => [],
        };
    }

    private IEnumerable<ImmutableArray<Key>> FindLoops()
    {
        var done = new HashSet<Key>();
        var path = new List<(Key Question, Key Rule)>();
        IEnumerable<ImmutableArray<Key>> Walk(Key question)
        {
            if (path.FindIndex(p => p.Question == question) is >= 0 and var at)
            {
                yield return [.. path.Skip(at).Select(p => p.Rule).Distinct()];
                yield break;
            }
            if (!done.Add(question))
                yield break;
            foreach (var rule in Hiding(question).Concat(Showing(question)))
                foreach (var other in rule.When.Questions)
                {
                    path.Add((question, rule.Key));
                    foreach (var loop in Walk(other))
                        yield return loop;
                    path.RemoveAt(path.Count - 1);
                }
        }
        return [.. Questions.SelectMany(q => Walk(q.Key))];
    }
}

/// <summary>What is shown and needed with the answers given, open questions counting as unanswered; in the order of
/// dependency.</summary>
public sealed class Visibility(RuleBook book, Configuration given)
{
    private readonly Dictionary<Key, bool> _shown = [];

    /// <summary>Whether a question is shown with these answers.</summary>
    public bool IsShown(Key question)
    {
        if (!book.HasConditional)
            return true;
        if (_shown.TryGetValue(question, out var known))
            return known;
        return _shown[question] = !book.IsConditional(question) || Holds(book.ShownWhen(question));
    }

    /// <summary>Whether an answer is needed: by the question itself or by a rule that holds, and only while it is shown.</summary>
    public bool IsRequired(Key question) =>
        IsShown(question)
        && (book.Find(question) is { Role: OptionRole.Variant } or { Required: true } || book.Requiring(question).Any(r => Holds(r.When)));

    /// <summary>Whether a condition holds with these answers; on a hidden question nothing does.</summary>
    public bool Holds(Condition condition) =>
        condition switch
        {
            Condition.All all => all.Of.All(Holds),
            Condition.Any any => any.Of.Any(Holds),
            Condition.Not not => !Holds(not.Of),
            Condition.Is i => AnswerTo(i.Question) switch
            {
                Answer.Value v => i.Values.Contains(v.Key),
                Answer.Ticks t => t.Keys.Any(i.Values.Contains),
                _ => false,
            },
            Condition.Answered a => AnswerTo(a.Question) is not (null or Answer.None),
            Condition.AtLeast l => AnswerTo(l.Question) is Answer.Number n && n.Size >= l.Bound,
            Condition.AtMost m => AnswerTo(m.Question) is Answer.Number n && n.Size <= m.Bound,
            _ => throw new InvalidOperationException("A kind of condition that is not looked at."),
        };

    /// <summary>The answer that counts: that of a hidden question does not.</summary>
    private Answer? AnswerTo(Key question) => given[question] is { } answer && IsShown(question) ? answer : null;
}
