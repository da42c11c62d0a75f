using System.Diagnostics;
using System.Globalization;
using System.Text;

namespace Unicus.CoreTests;

/// <summary>Questions and rules as SMT-LIB 2 text for the solver Z3, run as a program of its own; a third reading of domain.md, written
/// without the other two.</summary>
internal sealed class Z3Model
{
    private readonly RuleModel _model;
    private readonly Configuration _given;
    private readonly StringBuilder _text = new();

    /// <param name="given">What is typed is told to the solver; picks are only agreed with.</param>
    public Z3Model(RuleModel model, Configuration given)
    {
        (_model, _given) = (model, given);
        foreach (var q in model.Questions)
            Line($"(declare-const shown-{q.Key} Bool)");
        foreach (var (q, v) in Picks())
            Line($"(declare-const {Name(q.Key, v)} Bool)");
        foreach (var q in model.Questions)
            Line(
                $"(assert (= shown-{q.Key} (and (not {Or(Rules<Effect.Hide>(q.Key))}) "
                    + $"{(Rules<Effect.Show>(q.Key).Any() ? Or(Rules<Effect.Show>(q.Key)) : "true")})))"
            );
        foreach (var q in model.Questions.Where(q => q.IsPicked))
        {
            var names = q.Values.Select(v => Name(q.Key, v.Key)).ToList();
            var (any, sum) = (Or(names), names.Count == 0 ? "0" : $"(+ 0 {string.Join(' ', names.Select(n => $"(ite {n} 1 0)"))})");
            Line($"(assert (=> {any} shown-{q.Key}))");
            if (q.Ask != Ask.Several)
                Line($"(assert (<= {sum} 1))");
            else
                Line($"(assert (=> {any} (and (>= {sum} {Math.Max(1, q.Picks.Min)}) (<= {sum} {q.Picks.Max ?? names.Count}))))");
            if (q.Required || q.Role == OptionRole.Variant)
                Line($"(assert (=> shown-{q.Key} {any}))");
            foreach (var rule in Rules<Effect.Require>(q.Key))
                Line($"(assert (=> (and {rule} shown-{q.Key}) {any}))");
        }
        foreach (var rule in model.Rules.Where(r => !r.Off))
            foreach (var effect in rule.Then)
            {
                if (effect is Effect.Forbid f)
                    Line($"(assert (=> {Of(rule.When)} (not {Or(f.Values.Select(v => Name(f.Question, v)))})))");
                if (effect is Effect.AllowOnly o)
                {
                    var others = model.Questions.First(q => q.Key == o.Question).Values.Where(v => !o.Values.Contains(v.Key));
                    Line($"(assert (=> {Of(rule.When)} (not {Or(others.Select(v => Name(o.Question, v.Key)))})))");
                }
            }
        foreach (var combination in model.NotMade)
            Line($"(assert (not (and true {string.Join(' ', combination.Pairs.Select(p => Name(p.Option, p.Value)))})))");
    }

    /// <summary>For each value of each picked question, whether a configuration has it and agrees with the answers to the other
    /// questions.</summary>
    public List<bool> Possible()
    {
        foreach (var (question, value) in Picks())
        {
            Line("(push)");
            Line($"(assert {Name(question.Key, value)})");
            foreach (var (other, answer) in _given.Given)
                if (other != question.Key && _model.Questions.First(q => q.Key == other) is { IsPicked: true } asked)
                {
                    var keys = answer switch
                    {
                        Answer.Value v => [v.Key],
                        Answer.Ticks t => t.Keys,
                        _ => [],
                    };
                    var ticks = asked.Values.Select(v => keys.Contains(v.Key) ? Name(other, v.Key) : $"(not {Name(other, v.Key)})");
                    Line($"(assert (or (not shown-{other}) (and true {string.Join(' ', ticks)})))");
                }
            Line("(check-sat)");
            Line("(pop)");
        }
        using var z3 = Process.Start(new ProcessStartInfo("z3", "-in") { RedirectStandardInput = true, RedirectStandardOutput = true })
            ?? throw new InvalidOperationException("Z3 does not start.");
        z3.StandardInput.Write(_text);
        z3.StandardInput.Close();
        var said = z3.StandardOutput.ReadToEnd();
        return
        [
            .. said.Split('\n', StringSplitOptions.RemoveEmptyEntries)
                .Select(l =>
                    l.Trim() switch
                    {
                        "sat" => true,
                        "unsat" => false,
                        var other => throw new InvalidOperationException(other),
                    }
                ),
        ];
    }

    public IEnumerable<(Option Question, Key Value)> Picks() =>
        _model.Questions.Where(q => q.IsPicked).SelectMany(q => q.Values.Select(v => (q, v.Key)));

    private IEnumerable<string> Rules<T>(Key question)
        where T : Effect =>
        _model.Rules.Where(r => !r.Off && r.Then.OfType<T>().Any(e => e.Targets.Contains(question))).Select(r => Of(r.When));

    private string Of(Condition condition) =>
        condition switch
        {
            Condition.All all => $"(and true {string.Join(' ', all.Of.Select(Of))})",
            Condition.Any any => Or(any.Of.Select(Of)),
            Condition.Not not => $"(not {Of(not.Of)})",
            Condition.Is i => Or(i.Values.Select(v => Name(i.Question, v))),
            Condition.Answered a when _model.Questions.First(q => q.Key == a.Question) is { IsPicked: true } q => Or(
                q.Values.Select(v => Name(a.Question, v.Key))
            ),
            Condition.Answered a => _given[a.Question] is null or Answer.None ? "false" : $"shown-{a.Question}",
            Condition.AtLeast l => Compared(l.Question, ">=", l.Bound),
            Condition.AtMost m => Compared(m.Question, "<=", m.Bound),
            _ => throw new InvalidOperationException(),
        };

    private string Compared(Key question, string how, decimal bound) =>
        _given[question] is Answer.Number n ? $"(and shown-{question} ({how} {Real(n.Size)} {Real(bound)}))" : "false";

    private static string Real(decimal number) => number.ToString("0.0###", CultureInfo.InvariantCulture);

    private static string Or(IEnumerable<string> of) => $"(or false {string.Join(' ', of)})";

    private static string Name(Key question, Key value) => $"pick-{question}-{value}";

    private void Line(string line) => _text.Append(line).Append('\n');
}
