namespace Unicus.Core.Rules;

using System.Collections.Immutable;
using Unicus.Core.Options;

/// <summary>What a constraint comes from, so that conflicts can leave it out.</summary>
/// <param name="Rule">The rule; null for the lists, picks and required marks, and for what is not made.</param>
/// <param name="Shows">The question, where all rules that show it count as one.</param>
/// <param name="NotMade">Whether it is what is not made.</param>
internal sealed record ConstraintSource(Key? Rule, Key? Shows, bool NotMade)
{
    public static ConstraintSource Background { get; } = new(null, null, false);
    public static ConstraintSource Made { get; } = new(null, null, true);
    public bool IsBackground => this == Background;
}

/// <summary>Where a question lies in the diagram.</summary>
/// <param name="Question">What is asked.</param>
/// <param name="First">Its first level; several of a list take one level a value, other questions one level.</param>
/// <param name="Levels">How many levels of the diagram it takes.</param>
/// <param name="Conditional">Whether it is asked only after another.</param>
internal sealed record QuestionPlace(Option Question, int First, int Levels, bool Conditional)
{
    public bool IsSeveral => Question.Ask == Ask.Several;
    public int Last => First + Levels - 1;

    /// <summary>The state “deliberately none” of a question with one level.</summary>
    public int NoneState => Question.Values.Length;

    /// <summary>The state “hidden” of a question with one level; states behind it are values that a hidden question would
    /// have.</summary>
    public int HiddenState => Question.Values.Length + 1;
}

/// <summary>Questions, rules and what is made as constraints over the levels of a diagram.</summary>
/// <remarks>
/// A question of one level has a state for each value, then “none” and, if a rule can hide it, “hidden”. A tick of several of a list has
/// the states off, on and, if the question can be hidden, off while hidden. So an answer agrees with a configuration exactly where each of
/// its levels has one of two states. A relaxed network has states for values of hidden questions too: with rules left out, a question may
/// be hidden by all rules together and still be answered.
/// </remarks>
internal sealed class RuleNetwork
{
    public const int Off = 0;
    public const int On = 1;
    public const int HiddenOff = 2;
    private const int HiddenOn = 3;

    private readonly RuleBook _book;
    private readonly MadeSet _made;
    private readonly Func<int, bool> _offered;
    private readonly bool _relaxed;
    private readonly Dictionary<Key, QuestionPlace> _places = [];
    private readonly Dictionary<Condition, int> _inputs = [];
    private readonly Dictionary<Key, int> _charged = [];

    public RuleNetwork(RuleBook book, MadeSet made, Func<int, bool> offered, int mostNodes, bool relaxed = false)
    {
        (_book, _made, _offered, _relaxed) = (book, made, offered, relaxed);
        var items = book
            .Questions.Where(q => q.IsPicked)
            .Select(q => (object)q.Key)
            .Concat(book.Acting.SelectMany(r => InputLeaves(r.When)).Distinct())
            .Concat(book.Questions.Where(ChargedByChance).Select(q => (object)new ChargedQuestion(q)))
            .ToList();
        var index = items.Index().ToDictionary(x => x.Item, x => x.Index);
        var sizes = new List<int>();
        foreach (var item in QuestionOrder.Of(items.Count, Ties(index)))
        {
            if (items[item] is Condition input)
            {
                _inputs[input] = sizes.Count;
                sizes.Add(2);
                continue;
            }
            if (items[item] is ChargedQuestion charged)
            {
                _charged[charged.Question.Key] = sizes.Count;
                sizes.Add(2);
                continue;
            }
            var question = book.Find((Key)items[item])!;
            var conditional = book.IsConditional(question.Key);
            var place = new QuestionPlace(question, sizes.Count, question.Ask == Ask.Several ? question.Values.Length : 1, conditional);
            _places[question.Key] = place;
            var size =
                place.IsSeveral
                    ? (
                        conditional
                            ? relaxed
                                ? 4
                                : 3
                            : 2
                    )
                : question.Role == OptionRole.Variant ? question.Values.Length
                : question.Values.Length
                    + (
                        conditional
                            ? relaxed
                                ? question.Values.Length + 2
                                : 2
                            : 1
                    );
            for (var i = 0; i < place.Levels; i++)
                sizes.Add(size);
        }
        Diagram = new DecisionDiagram([.. sizes], mostNodes);
    }

    public DecisionDiagram Diagram { get; }
    public IEnumerable<QuestionPlace> Places => _places.Values;

    /// <summary>The levels that stand for what is typed: whether a text is there, whether a number is at least so much.</summary>
    public IReadOnlyDictionary<Condition, int> Inputs => _inputs;

    /// <summary>For typed questions with a surcharge that may be hidden: the level that says whether it is charged.</summary>
    public IReadOnlyDictionary<Key, int> Charged => _charged;

    public QuestionPlace? PlaceOf(Key question) => _places.GetValueOrDefault(question);

    /// <summary>Every constraint with its source, as a node; made when it is asked for.</summary>
    public IEnumerable<(ConstraintSource Source, Func<int> Node)> Constraints() => Constraints(_book);

    /// <summary>The constraints with some of the rules left out, over the same levels.</summary>
    public IEnumerable<(ConstraintSource Source, Func<int> Node)> Constraints(RuleBook book)
    {
        foreach (var place in _places.Values)
        {
            var p = place;
            if (p.Levels == 0)
                continue;
            if (p.IsSeveral)
                yield return (ConstraintSource.Background, () => Ticks(p));
            if (p.Conditional)
                yield return (ConstraintSource.Background, () => Same(Hidden(p), Diagram.Not(Shown(book, p.Question.Key))));
            if (p.Question is { Required: true, Role: OptionRole.Extra })
                yield return (ConstraintSource.Background, () => Diagram.Not(NoneShown(p)));
            if (book.Showing(p.Question.Key).Any())
                yield return (new ConstraintSource(null, p.Question.Key, false), () =>
                    Diagram.Or(Holds(book, new Condition.Any([.. book.Showing(p.Question.Key).Select(r => r.When)])), Unanswered(p))
                );
        }
        foreach (var rule in book.Acting)
            foreach (var effect in rule.Then)
                foreach (var target in effect.Targets.Distinct())
                    if (effect is not Effect.Show && PlaceOf(target) is { Levels: > 0 } place)
                        yield return (rule.IsNotMade ? ConstraintSource.Made : new ConstraintSource(rule.Key, null, false), () =>
                            Diagram.Or(Diagram.Not(Holds(book, rule.When)), Done(effect, place))
                        );
        foreach (var typed in _inputs.GroupBy(i => i.Key.Questions.First()))
            yield return (ConstraintSource.Background, () => Typed([.. typed]));
        foreach (var (question, level) in _charged)
            yield return (ConstraintSource.Background, () =>
                Same(
                    Diagram.Of(level, v => v == 1),
                    Charges(book.Find(question)!).Aggregate(DecisionDiagram.True, (n, q) => Diagram.And(n, Shown(book, q)))
                )
            );
        if (_made.Options.Count > 0)
            yield return (ConstraintSource.Made, Offered);
    }

    public IEnumerable<Key> ShowingRules(Key question) => _book.Showing(question).Select(r => r.Key);

    public int Holds(Condition condition) => Holds(_book, condition);

    /// <summary>Where a question is shown.</summary>
    public int Shown(Key question) => Shown(_book, question);

    private int Holds(RuleBook book, Condition condition) =>
        condition switch
        {
            Condition.All all => all.Of.Aggregate(DecisionDiagram.True, (n, c) => Diagram.And(n, Holds(book, c))),
            Condition.Any any => any.Of.Aggregate(DecisionDiagram.False, (n, c) => Diagram.Or(n, Holds(book, c))),
            Condition.Not not => Diagram.Not(Holds(book, not.Of)),
            Condition.Is i => Picked(_places[i.Question], i.Values.Contains),
            Condition.Answered a when PlaceOf(a.Question) is { } place => Picked(place, _ => true),
            _ => Diagram.And(Diagram.Of(_inputs[condition], v => v == 1), Shown(book, condition.Questions.First())),
        };

    internal int Shown(RuleBook book, Key question) =>
        book.IsConditional(question) ? Holds(book, book.ShownWhen(question)) : DecisionDiagram.True;

    /// <summary>One of the values is picked while the question is shown.</summary>
    private int Picked(QuestionPlace place, Func<Key, bool> wanted) =>
        place.IsSeveral
            ? place
                .Question.Values.Index()
                .Where(v => wanted(v.Item.Key))
                .Aggregate(DecisionDiagram.False, (n, v) => Diagram.Or(n, Diagram.Of(place.First + v.Index, s => s == On)))
            : Diagram.Of(place.First, s => s < place.NoneState && wanted(place.Question.Values[s].Key));

    private int Hidden(QuestionPlace place) =>
        place.IsSeveral
            ? place.Levels == 0
                ? DecisionDiagram.False
                : Diagram.Of(place.First, s => s >= HiddenOff)
            : Diagram.Of(place.First, s => s >= place.HiddenState);

    private int NoneShown(QuestionPlace place) =>
        place.IsSeveral ? All(place, s => s == Off) : Diagram.Of(place.First, s => s == place.NoneState);

    private int Unanswered(QuestionPlace place) =>
        place.IsSeveral
            ? All(place, s => s is Off or HiddenOff)
            : Diagram.Of(place.First, s => s == place.NoneState || s == place.HiddenState);

    private int Done(Effect effect, QuestionPlace place)
    {
        var values = place.Question.Values;
        return effect switch
        {
            Effect.Hide => Unanswered(place),
            Effect.Require => place.Question.Role == OptionRole.Variant ? DecisionDiagram.True : Diagram.Not(NoneShown(place)),
            Effect.Forbid f => Without(place, f.Values.Contains),
            Effect.AllowOnly a => Without(place, v => !a.Values.Contains(v)),
            _ => throw new InvalidOperationException("An effect that is no constraint of its own."),
        };
    }

    /// <summary>None of these values is the answer, shown or not.</summary>
    private int Without(QuestionPlace place, Func<Key, bool> unwanted)
    {
        var values = place.Question.Values;
        return place.IsSeveral
            ? values
                .Index()
                .Where(v => unwanted(v.Item.Key))
                .Aggregate(DecisionDiagram.True, (n, v) => Diagram.And(n, Diagram.Of(place.First + v.Index, s => s is Off or HiddenOff)))
            : Diagram.Of(place.First, s =>
                !(s < values.Length && unwanted(values[s].Key))
                && !(s > place.HiddenState && unwanted(values[s - place.HiddenState - 1].Key))
            );
    }

    /// <summary>Ticks of one question are hidden together, and none or an allowed number of them is on.</summary>
    private int Ticks(QuestionPlace place)
    {
        var least = Math.Max(1, place.Question.Picks.Min);
        var most = Math.Min(place.Question.Picks.Max ?? place.Levels, place.Levels);
        int Count(int level, int on, bool hidden)
        {
            if (level == place.Levels)
                return on == 0 || (on >= least && on <= most) ? DecisionDiagram.True : DecisionDiagram.False;
            Span<int> children = stackalloc int[Diagram.SizeOf(place.First + level)];
            for (var s = 0; s < children.Length; s++)
                children[s] =
                    hidden != s >= HiddenOff ? DecisionDiagram.False : Count(level + 1, on + (s is On or HiddenOn ? 1 : 0), hidden);
            return Diagram.Make(place.First + level, children);
        }
        return place.Levels == 0
            ? DecisionDiagram.True
            : Diagram.Or(Count(0, 0, false), place.Conditional ? Count(0, 0, true) : DecisionDiagram.False);
    }

    /// <summary>Conditions on one typed question hold together as some answer, or none, makes them hold.</summary>
    private int Typed(List<KeyValuePair<Condition, int>> conditions)
    {
        var bounds = conditions
            .Select(c => c.Key)
            .Select(c =>
                c is Condition.AtLeast l ? l.Bound
                : c is Condition.AtMost m ? m.Bound
                : 0
            )
            .Distinct()
            .Order()
            .ToList();
        var answers = bounds
            .Concat(bounds.Zip(bounds.Skip(1), (a, b) => (a + b) / 2))
            .Append(bounds[0] - 1)
            .Append(bounds[^1] + 1)
            .Select(n => (Answer?)new Answer.Number(n))
            .Append(null);
        return answers.Aggregate(DecisionDiagram.False, (node, answer) =>
            Diagram.Or(
                node,
                conditions.Aggregate(DecisionDiagram.True, (n, c) =>
                    Diagram.And(n, Diagram.Of(c.Value, v => v == 1 == CompiledRules.Typed(c.Key, answer)))
                )
            )
        );
    }

    private int All(QuestionPlace place, Func<int, bool> state)
    {
        var node = DecisionDiagram.True;
        for (var level = place.Last; level >= place.First; level--)
            node = Diagram.And(Diagram.Of(level, state), node);
        return node;
    }

    private int Same(int a, int b) => Diagram.Or(Diagram.And(a, b), Diagram.And(Diagram.Not(a), Diagram.Not(b)));

    /// <summary>The combinations of values that are made and offered, whatever order their levels stand in.</summary>
    private int Offered()
    {
        var byLevel = _made
            .Options.Select((o, i) => (Place: _places[o.Key], Stride: _made.StrideOf(i)))
            .OrderBy(x => x.Place.First)
            .ToArray();
        int Build(int at, int number)
        {
            if (at == byLevel.Length)
                return _made.IsMade(number) && _offered(number) ? DecisionDiagram.True : DecisionDiagram.False;
            var (place, stride) = byLevel[at];
            Span<int> children = stackalloc int[place.Question.Values.Length];
            for (var v = 0; v < children.Length; v++)
                children[v] = Build(at + 1, number + v * stride);
            return Diagram.Make(place.First, children);
        }
        return Build(0, 0);
    }

    private IEnumerable<Condition> InputLeaves(Condition condition) =>
        condition switch
        {
            Condition.All all => all.Of.SelectMany(InputLeaves),
            Condition.Any any => any.Of.SelectMany(InputLeaves),
            Condition.Not not => InputLeaves(not.Of),
            _ => _book.Find(condition.Questions.First()) is { IsPicked: false } ? [condition] : [],
        };

    /// <summary>The questions that have to be shown so that a typed one is charged: itself, and the one that its table looks
    /// at.</summary>
    private static IEnumerable<Key> Charges(Option question) =>
        question.Surcharge is Surcharge.Table { By: { } by } ? [question.Key, by] : [question.Key];

    private bool ChargedByChance(Option question) =>
        question is { IsPicked: false, Surcharge: not null } && Charges(question).Any(_book.IsConditional);

    private sealed record ChargedQuestion(Option Question);

    private List<int[]> Ties(Dictionary<object, int> index)
    {
        var ties = _book
            .Acting.Select(r =>
                r.When.Questions.Concat(r.Then.SelectMany(e => e.Targets))
                    .Where(q => index.ContainsKey(q))
                    .Select(q => index[q])
                    .Concat(InputLeaves(r.When).Select(c => index[c]))
                    .Distinct()
                    .ToArray()
            )
            .Where(t => t.Length > 1)
            .ToList();
        foreach (var (item, at) in index)
            if (item is ChargedQuestion c)
                ties.Add([
                    at,
                    .. Charges(c.Question)
                        .SelectMany(q => _book.ShownWhen(q).Questions)
                        .Where(q => index.ContainsKey(q))
                        .Select(q => index[q])
                        .Distinct(),
                ]);
        if (_made.Options.Count > 1)
            ties.Add([.. _made.Options.Select(o => index[o.Key])]);
        return ties;
    }
}
