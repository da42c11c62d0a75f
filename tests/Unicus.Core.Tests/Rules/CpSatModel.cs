using Google.OrTools.Sat;

namespace Unicus.Core.Tests;

/// <summary>Questions and rules in the terms of a general constraint solver (Google OR-Tools, CP-SAT), to compare with.</summary>
internal sealed class CpSatModel
{
    private readonly RuleModel _model;
    private readonly Configuration _given;
    private readonly CpModel _cp = new();
    private readonly Dictionary<Key, BoolVar[]> _picks = [];
    private readonly Dictionary<Key, ILiteral> _shown = [];
    private readonly BoolVar _true;

    /// <param name="given">Only what is typed counts.</param>
    public CpSatModel(RuleModel model, Configuration given)
    {
        (_model, _given) = (model, given);
        _true = _cp.NewBoolVar("true");
        _cp.AddBoolAnd([_true]);
        foreach (var q in model.Questions.Where(q => q.IsPicked)) _picks[q.Key] = [.. q.Values.Select(v => _cp.NewBoolVar($"{q.Key}={v.Key}"))];
        foreach (var q in model.Questions.Where(q => q.IsPicked)) Question(q);
        foreach (var rule in model.Rules.Where(r => !r.Off)) Rule(rule);
        foreach (var combination in model.NotMade) _cp.AddBoolOr(combination.Pairs.Select(p => Pick(p.Option, p.Value).Not()));
    }

    /// <summary>Every solution, as the values picked for each question.</summary>
    public List<Dictionary<Key, List<Key>>> Solutions()
    {
        var found = new Collector(this);
        new CpSolver { StringParameters = "enumerate_all_solutions:true" }.Solve(_cp, found);
        return found.Solutions;
    }

    /// <summary>The values of a question that some solution has which agrees with the answers to all other questions; each is asked for by itself.</summary>
    public IEnumerable<bool> Possible(Configuration given, Key question)
    {
        var others = given.Given.Where(g => g.Question != question && _picks.ContainsKey(g.Question)).Select(g => Agrees(g.Question, g.Answer)).ToList();
        foreach (var pick in _picks[question])
        {
            _cp.ClearAssumptions();
            _cp.AddAssumptions([pick, .. others]);
            yield return new CpSolver { StringParameters = "num_workers:1" }.Solve(_cp) is CpSolverStatus.Optimal or CpSolverStatus.Feasible;
        }
    }

    private ILiteral Agrees(Key question, Answer answer)
    {
        var keys = answer switch { Answer.Value v => [v.Key], Answer.Ticks t => t.Keys, _ => [] };
        var values = _model.Questions.First(q => q.Key == question).Values;
        return Any([Shown(question).Not(), All([.. values.Select((v, i) => keys.Contains(v.Key) ? (ILiteral)_picks[question][i] : _picks[question][i].Not())])]);
    }

    private void Question(Option question)
    {
        var picks = _picks[question.Key];
        var answered = Any([.. picks]);
        if (question.Role == OptionRole.Variant) _cp.AddExactlyOne(picks);
        else if (question.Ask != Ask.Several) _cp.AddAtMostOne(picks);
        else
        {
            var sum = LinearExpr.Sum(picks);
            _cp.Add(sum >= Math.Max(1, question.Picks.Min)).OnlyEnforceIf(answered);
            _cp.Add(sum <= (question.Picks.Max ?? picks.Length)).OnlyEnforceIf(answered);
        }
        _cp.AddImplication(Shown(question.Key).Not(), answered.Not());
        if (question.Required) _cp.AddImplication(Shown(question.Key), answered);
    }

    private void Rule(SelectionRule rule)
    {
        var holds = Holds(rule.When);
        foreach (var effect in rule.Then)
        {
            if (effect is Effect.Require require)
                foreach (var q in require.Questions.Where(_picks.ContainsKey)) _cp.AddBoolOr([holds.Not(), Shown(q).Not(), Any([.. _picks[q]])]);
            if (effect is Effect.Forbid forbid)
                foreach (var v in forbid.Values) _cp.AddImplication(holds, Pick(forbid.Question, v).Not());
            if (effect is Effect.AllowOnly only)
                foreach (var v in _model.Questions.First(q => q.Key == only.Question).Values.Where(v => !only.Values.Contains(v.Key))) _cp.AddImplication(holds, Pick(only.Question, v.Key).Not());
        }
    }

    private ILiteral Shown(Key question)
    {
        if (_shown.TryGetValue(question, out var known)) return known;
        IEnumerable<SelectionRule> With<T>() where T : Effect => _model.Rules.Where(r => !r.Off && r.Then.OfType<T>().Any(e => e.Targets.Contains(question)));
        var shows = With<Effect.Show>().Select(r => Holds(r.When)).ToList();
        var notHidden = With<Effect.Hide>().Select(r => Holds(r.When).Not());
        return _shown[question] = All([.. notHidden, .. shows.Count == 0 ? Array.Empty<ILiteral>() : [Any([.. shows])]]);
    }

    private ILiteral Holds(Condition condition) => condition switch
    {
        Condition.All all => All([.. all.Of.Select(Holds)]),
        Condition.Any any => Any([.. any.Of.Select(Holds)]),
        Condition.Not not => Holds(not.Of).Not(),
        Condition.Is i => Any([.. i.Values.Select(v => (ILiteral)Pick(i.Question, v))]),
        Condition.Answered a when _picks.TryGetValue(a.Question, out var picks) => Any([.. picks]),
        _ => Typed(condition) ? Shown(condition.Questions.First()) : _true.Not(),
    };

    private bool Typed(Condition condition) => (condition, _given[condition.Questions.First()]) switch
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
        if (of.Length == 0) return _true;
        if (of.Length == 1) return of[0];
        var all = _cp.NewBoolVar("all");
        foreach (var one in of) _cp.AddImplication(all, one);
        _cp.AddBoolOr([all, .. of.Select(l => l.Not())]);
        return all;
    }

    private sealed class Collector(CpSatModel model) : CpSolverSolutionCallback
    {
        public List<Dictionary<Key, List<Key>>> Solutions { get; } = [];

        public override void OnSolutionCallback() => Solutions.Add(model._picks.ToDictionary(p => p.Key, p => model._model.Questions.First(q => q.Key == p.Key).Values.Where((_, i) => BooleanValue(p.Value[i])).Select(v => v.Key).ToList()));
    }
}
