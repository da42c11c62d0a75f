using Google.OrTools.Sat;

namespace Unicus.CoreTests;

/// <summary>Questions and rules in the terms of a general constraint solver (Google OR-Tools, CP-SAT), to compare with.</summary>
internal sealed class CpSatModel
{
    private readonly RuleModel _model;
    private readonly Configuration _given;
    private readonly CpModel _cp = new();
    private readonly Dictionary<Key, BoolVar[]> _picks = [];
    private readonly Dictionary<Key, ILiteral> _shown = [];
    private readonly Dictionary<Key, BoolVar[]> _typed = [];
    private readonly BoolVar _true;
    private readonly bool _isRelaxed;

    /// <param name="given">Only what is typed counts; null: what is typed may be any of <see cref="Seen.Samples"/>.</param>
    /// <param name="subset">Only these rules and, or not, what is not made, in the relaxed sense of conflicts: what is shown under the
    /// full rules is background, but a hidden question may have a value.</param>
    public CpSatModel(RuleModel model, Configuration? given, (IReadOnlySet<Key> Rules, bool NotMade)? subset = null)
    {
        (_model, _given, _isRelaxed) = (model, given ?? Configuration.Empty, subset is not null);
        _true = _cp.NewBoolVar("true");
        _cp.AddBoolAnd([_true]);
        if (given is null)
            foreach (var q in model.Questions.Where(q => !q.IsPicked))
                _cp.AddExactlyOne(_typed[q.Key] = [.. Seen.Samples(q).Select((_, i) => _cp.NewBoolVar($"{q.Key}~{i}"))]);
        foreach (var q in model.Questions.Where(q => q.IsPicked))
            _picks[q.Key] = [.. q.Values.Select(v => _cp.NewBoolVar($"{q.Key}={v.Key}"))];
        foreach (var q in model.Questions.Where(q => q.IsPicked))
            Question(q);
        foreach (var rule in model.Rules.Where(r => !r.Off && subset?.Rules.Contains(r.Key) != false))
            Rule(rule);
        if (subset is { } some)
            foreach (var (key, picks) in _picks)
                if (Showing(key).FirstOrDefault() is { } first && some.Rules.Contains(first.Key))
                    _cp.AddImplication(Any([.. picks]), Any([.. Showing(key).Select(r => Holds(r.When))]));
        foreach (var combination in subset?.NotMade == false ? [] : model.NotMade)
            _cp.AddBoolOr(combination.Pairs.Select(p => Pick(p.Option, p.Value).Not()));
    }

    /// <summary>Every solution, as the values picked for each question.</summary>
    public List<Dictionary<Key, List<Key>>> Solutions()
    {
        var found = new Collector(this);
        new CpSolver { StringParameters = "enumerate_all_solutions:true" }.Solve(_cp, found);
        return found.Solutions;
    }

    /// <summary>Every solution with all that is seen of it.</summary>
    public List<Seen> AllSeen()
    {
        // Made before solving, so that each has its literal.
        var shown = _model.Questions.Select(q => (q.Key, Literal: Shown(q.Key))).ToList();
        var holding = _model.Rules.Where(r => !r.Off).Select(r => (r.Key, Literal: Holds(r.When))).ToList();
        var seen = new Watcher(this, shown, holding);
        new CpSolver { StringParameters = "enumerate_all_solutions:true" }.Solve(_cp, seen);
        return seen.Found;
    }

    /// <summary>Whether there is a solution that agrees with these answers.</summary>
    public bool CanStand(Configuration answers)
    {
        _cp.ClearAssumptions();
        _cp.AddAssumptions([.. answers.Given.Where(g => _picks.ContainsKey(g.Question)).Select(g => Agrees(g.Question, g.Answer))]);
        return new CpSolver { StringParameters = "num_workers:1" }.Solve(_cp) is CpSolverStatus.Optimal or CpSolverStatus.Feasible;
    }

    /// <summary>The values of a question that some solution has which agrees with the answers to all other questions; each is asked for by
    /// itself.</summary>
    public IEnumerable<bool> Possible(Configuration given, Key question)
    {
        var others = given
            .Given.Where(g => g.Question != question && _picks.ContainsKey(g.Question))
            .Select(g => Agrees(g.Question, g.Answer))
            .ToList();
        foreach (var pick in _picks[question])
        {
            _cp.ClearAssumptions();
            _cp.AddAssumptions([pick, .. others]);
            yield return new CpSolver { StringParameters = "num_workers:1" }.Solve(_cp)
                is CpSolverStatus.Optimal
                    or CpSolverStatus.Feasible;
        }
    }

    /// <summary>The least sum of weights over all solutions with some values picked; null where there is none. Not to be asked again: the
    /// values stay picked.</summary>
    public long? Least(IEnumerable<(Key Question, Key Value)> picked, Func<Key, Key, long> weight)
    {
        foreach (var (question, value) in picked)
            _cp.AddBoolAnd([Pick(question, value)]);
        var terms = _picks
            .SelectMany(p =>
                _model.Questions.First(q => q.Key == p.Key).Values.Select((v, i) => (Literal: p.Value[i], Weight: weight(p.Key, v.Key)))
            )
            .ToList();
        _cp.Minimize(LinearExpr.WeightedSum(terms.Select(t => t.Literal), terms.Select(t => t.Weight)));
        var solver = new CpSolver { StringParameters = "num_workers:1" };
        return solver.Solve(_cp) == CpSolverStatus.Optimal ? (long)Math.Round(solver.ObjectiveValue) : null;
    }

    private ILiteral Agrees(Key question, Answer answer)
    {
        var keys = answer switch
        {
            Answer.Value v => [v.Key],
            Answer.Ticks t => t.Keys,
            _ => [],
        };
        var values = _model.Questions.First(q => q.Key == question).Values;
        return Any([
            Shown(question).Not(),
            All([.. values.Select((v, i) => keys.Contains(v.Key) ? (ILiteral)_picks[question][i] : _picks[question][i].Not())]),
        ]);
    }

    private void Question(Option question)
    {
        var picks = _picks[question.Key];
        var answered = Any([.. picks]);
        if (question.Role == OptionRole.Variant)
            _cp.AddExactlyOne(picks);
        else if (question.Ask != Ask.Several)
            _cp.AddAtMostOne(picks);
        else
        {
            var sum = LinearExpr.Sum(picks);
            _cp.Add(sum >= Math.Max(1, question.Picks.Min)).OnlyEnforceIf(answered);
            _cp.Add(sum <= (question.Picks.Max ?? picks.Length)).OnlyEnforceIf(answered);
        }
        if (!_isRelaxed)
            _cp.AddImplication(Shown(question.Key).Not(), answered.Not());
        if (question.Required)
            _cp.AddImplication(Shown(question.Key), answered);
    }

    private void Rule(SelectionRule rule)
    {
        var holds = Holds(rule.When);
        foreach (var effect in rule.Then)
        {
            if (_isRelaxed && effect is Effect.Hide hide)
                foreach (var q in hide.Questions.Where(_picks.ContainsKey))
                    _cp.AddImplication(holds, Any([.. _picks[q]]).Not());
            if (effect is Effect.Require require)
                foreach (var q in require.Questions.Where(_picks.ContainsKey))
                    _cp.AddBoolOr([holds.Not(), Shown(q).Not(), Any([.. _picks[q]])]);
            if (effect is Effect.Forbid forbid)
                foreach (var v in forbid.Values)
                    _cp.AddImplication(holds, Pick(forbid.Question, v).Not());
            if (effect is Effect.AllowOnly only)
                foreach (var v in _model.Questions.First(q => q.Key == only.Question).Values.Where(v => !only.Values.Contains(v.Key)))
                    _cp.AddImplication(holds, Pick(only.Question, v.Key).Not());
        }
    }

    private ILiteral Shown(Key question)
    {
        if (_shown.TryGetValue(question, out var known))
            return known;
        var shows = Showing(question).Select(r => Holds(r.When)).ToList();
        var notHidden = With<Effect.Hide>(question).Select(r => Holds(r.When).Not());
        return _shown[question] = All([.. notHidden, .. shows.Count == 0 ? Array.Empty<ILiteral>() : [Any([.. shows])]]);
    }

    private IEnumerable<SelectionRule> Showing(Key question) => With<Effect.Show>(question);

    private IEnumerable<SelectionRule> With<T>(Key question)
        where T : Effect => _model.Rules.Where(r => !r.Off && r.Then.OfType<T>().Any(e => e.Targets.Contains(question)));

    private ILiteral Holds(Condition condition) =>
        condition switch
        {
            Condition.All all => All([.. all.Of.Select(Holds)]),
            Condition.Any any => Any([.. any.Of.Select(Holds)]),
            Condition.Not not => Holds(not.Of).Not(),
            Condition.Is i => WhereShown(i.Question, Any([.. i.Values.Select(v => (ILiteral)Pick(i.Question, v))])),
            Condition.Answered a when _picks.TryGetValue(a.Question, out var picks) => WhereShown(a.Question, Any([.. picks])),
            _ when _typed.TryGetValue(condition.Questions.First(), out var samples) => All([
                Shown(condition.Questions.First()),
                Any([
                    .. Seen.Samples(_model.Questions.First(q => q.Key == condition.Questions.First()))
                        .Select((a, i) => (a, i))
                        .Where(s => Typed(condition, s.a))
                        .Select(s => (ILiteral)samples[s.i]),
                ]),
            ]),
            _ => Typed(condition, _given[condition.Questions.First()]) ? Shown(condition.Questions.First()) : _true.Not(),
        };

    /// <summary>Without the relaxation a hidden question has no value anyway.</summary>
    private ILiteral WhereShown(Key question, ILiteral holds) => _isRelaxed ? All([Shown(question), holds]) : holds;

    private static bool Typed(Condition condition, Answer? answer) =>
        (condition, answer) switch
        {
            (Condition.Answered, not (null or Answer.None)) => true,
            (Condition.AtLeast l, Answer.Number n) => n.Size >= l.Bound,
            (Condition.AtMost m, Answer.Number n) => n.Size <= m.Bound,
            _ => false,
        };

    private BoolVar Pick(Key question, Key value) => _picks[question][_model.Questions.First(q => q.Key == question).PlaceOf(value)];

    private ILiteral Any(ILiteral[] of) => All([.. of.Select(l => l.Not())]).Not();

    private ILiteral All(ILiteral[] of)
    {
        if (of.Length == 0)
            return _true;
        if (of.Length == 1)
            return of[0];
        var all = _cp.NewBoolVar("all");
        foreach (var one in of)
            _cp.AddImplication(all, one);
        _cp.AddBoolOr([all, .. of.Select(l => l.Not())]);
        return all;
    }

    private sealed class Watcher(CpSatModel model, List<(Key, ILiteral)> shown, List<(Key, ILiteral)> holding) : CpSolverSolutionCallback
    {
        public List<Seen> Found { get; } = [];

        public override void OnSolutionCallback()
        {
            HashSet<Key> True(IEnumerable<(Key Key, ILiteral Literal)> of) =>
                [.. of.Where(x => BooleanValue(x.Literal)).Select(x => x.Key)];
            Found.Add(
                new Seen(
                    string.Join(' ', model._typed.OrderBy(t => t.Key).Select(t => $"{t.Key}~{Array.FindIndex(t.Value, BooleanValue)}")),
                    [
                        .. model._picks.SelectMany(p =>
                            model
                                ._model.Questions.First(q => q.Key == p.Key)
                                .Values.Where((_, i) => BooleanValue(p.Value[i]))
                                .Select(v => (p.Key, v.Key))
                        ),
                    ],
                    True(shown),
                    True(holding)
                )
            );
        }
    }

    private sealed class Collector(CpSatModel model) : CpSolverSolutionCallback
    {
        public List<Dictionary<Key, List<Key>>> Solutions { get; } = [];

        public override void OnSolutionCallback() =>
            Solutions.Add(
                model._picks.ToDictionary(
                    p => p.Key,
                    p =>
                        model
                            ._model.Questions.First(q => q.Key == p.Key)
                            .Values.Where((_, i) => BooleanValue(p.Value[i]))
                            .Select(v => v.Key)
                            .ToList()
                )
            );
    }
}
