using System.Collections.Immutable;
using System.Globalization;

namespace Unicus.Web.Workbench;

/// <summary>A condition as the sentence builder shows it: a comparison, or a group of conditions.</summary>
/// <param name="Kind">One of <see cref="Comparisons"/> or <see cref="Groups"/>.</param>
public sealed record WhenNode(string Kind, Key Question, ImmutableArray<Key> Values, string Bound, ImmutableArray<WhenNode> Children)
{
    public static IReadOnlyList<(string Kind, string Words)> Comparisons { get; } =
    [
        ("is", "is"),
        ("not", "is not"),
        ("answered", "is answered"),
        ("open", "is not answered"),
        ("least", "is at least"),
        ("most", "is at most"),
    ];

    public static IReadOnlyList<(string Kind, string Words)> Groups { get; } =
    [("all", "all of these"), ("any", "any of these"), ("none", "none of these"), ("notall", "not all of these")];

    public bool IsGroup => Groups.Any(g => g.Kind == Kind);

    /// <summary>A first comparison with a question that can always be meant.</summary>
    public static WhenNode First(Option question) =>
        new(
            question.IsPicked ? "is"
                : question.Ask == Ask.Number ? "least"
                : "answered",
            question.Key,
            [.. question.Values.Take(1).Select(v => v.Key)],
            "1",
            []
        );

    public static WhenNode Group(string kind, params ImmutableArray<WhenNode> children) => new(kind, default, [], "", children);

    public static WhenNode From(Condition condition)
    {
        static string Plain(decimal bound) => bound.ToString(CultureInfo.InvariantCulture);
        return condition switch
        {
            Condition.Is i => new("is", i.Question, i.Values, "", []),
            Condition.Not { Of: Condition.Is i } => new("not", i.Question, i.Values, "", []),
            Condition.Answered a => new("answered", a.Question, [], "", []),
            Condition.Not { Of: Condition.Answered a } => new("open", a.Question, [], "", []),
            Condition.AtLeast l => new("least", l.Question, [], Plain(l.Bound), []),
            Condition.AtMost m => new("most", m.Question, [], Plain(m.Bound), []),
            Condition.All all => Group("all", [.. all.Of.Select(From)]),
            Condition.Any any => Group("any", [.. any.Of.Select(From)]),
            Condition.Not { Of: Condition.Any any } => Group("none", [.. any.Of.Select(From)]),
            Condition.Not { Of: Condition.All all } => Group("notall", [.. all.Of.Select(From)]),
            Condition.Not n => Group("none", From(n.Of)),
            _ => throw new InvalidOperationException("A kind of condition without a form."),
        };
    }

    /// <summary>The condition; a group of one that says nothing more than its member is that member.</summary>
    public Condition ToCondition()
    {
        ImmutableArray<Condition> of = [.. Children.Select(c => c.ToCondition())];
        return Kind switch
        {
            "is" => new Condition.Is(Question, Values),
            "not" => new Condition.Not(new Condition.Is(Question, Values)),
            "answered" => new Condition.Answered(Question),
            "open" => new Condition.Not(new Condition.Answered(Question)),
            "least" or "most" => TypedNumbers.Number(Bound, 3) is { Ok: true } read
                ? Kind == "least"
                    ? new Condition.AtLeast(Question, read.Value)
                    : new Condition.AtMost(Question, read.Value)
                : throw new FormatException($"“{Bound}” is not a number. Type it like 12 or 12.5."),
            "all" or "any" when of.Length == 1 => of[0],
            "all" => new Condition.All(of),
            "any" => new Condition.Any(of),
            "notall" => new Condition.Not(new Condition.All(of)),
            _ => new Condition.Not(of.Length == 1 ? of[0] : new Condition.Any(of)),
        };
    }

    /// <summary>The same with an act done at a path: a comparison or a group added, or taken out.</summary>
    public WhenNode Done(string act, ReadOnlySpan<int> path, Option first)
    {
        if (path.IsEmpty)
            return act switch
            {
                "add" => this with { Children = Children.Add(First(first)) },
                "group" => this with { Children = Children.Add(Group("any", First(first))) },
                _ => this,
            };
        if (path[0] < 0 || path[0] >= Children.Length)
            return this;
        return act == "drop" && path.Length == 1
            ? this with
            {
                Children = Children.RemoveAt(path[0]),
            }
            : this with
            {
                Children = Children.SetItem(path[0], Children[path[0]].Done(act, path[1..], first)),
            };
    }
}

/// <summary>An effect as the builder shows it.</summary>
public sealed record ThenRow(string Kind, Key Question, ImmutableArray<Key> Values)
{
    public static IReadOnlyList<(string Kind, string Words)> Kinds { get; } =
    [("hide", "hide"), ("show", "show"), ("require", "needs an answer"), ("forbid", "cannot be"), ("allow", "can only be")];

    public static IEnumerable<ThenRow> From(Effect effect) =>
        effect switch
        {
            Effect.Hide h => h.Questions.Select(q => new ThenRow("hide", q, [])),
            Effect.Show s => s.Questions.Select(q => new ThenRow("show", q, [])),
            Effect.Require r => r.Questions.Select(q => new ThenRow("require", q, [])),
            Effect.Forbid f => [new ThenRow("forbid", f.Question, f.Values)],
            Effect.AllowOnly a => [new ThenRow("allow", a.Question, a.Values)],
            _ => [],
        };

    public static ImmutableArray<Effect> ToEffects(IReadOnlyList<ThenRow> rows)
    {
        ImmutableArray<Key> Of(string kind) => [.. rows.Where(r => r.Kind == kind).Select(r => r.Question).Distinct()];
        foreach (var twice in rows.Where(r => r.Kind is "forbid" or "allow").GroupBy(r => (r.Kind, r.Question)).Where(g => g.Count() > 1))
            throw new FormatException($"{twice.Key.Question} stands in two effects of one kind: tick its values in one.");
        var effects = ImmutableArray.CreateBuilder<Effect>();
        if (Of("hide") is { IsEmpty: false } hidden)
            effects.Add(new Effect.Hide(hidden));
        if (Of("show") is { IsEmpty: false } shown)
            effects.Add(new Effect.Show(shown));
        if (Of("require") is { IsEmpty: false } needed)
            effects.Add(new Effect.Require(needed));
        effects.AddRange(
            rows.Where(r => r.Kind is "forbid" or "allow")
                .Select(r =>
                    r.Kind == "forbid" ? (Effect)new Effect.Forbid(r.Question, r.Values) : new Effect.AllowOnly(r.Question, r.Values)
                )
        );
        return effects.ToImmutable();
    }
}

/// <summary>A rule in the sentence builder.</summary>
/// <param name="Key">Empty for one that is not kept yet.</param>
public sealed record RuleView(
    string Here,
    string Key,
    WhenNode When,
    ImmutableArray<ThenRow> Then,
    IReadOnlyList<Option> Questions,
    string Sentence,
    string? Problem = null
)
{
    public Option? Find(Key question) => Questions.FirstOrDefault(q => q.Key == question);
}

/// <summary>Rules as the builder's form sends them.</summary>
public static class RuleForm
{
    private const int Deepest = 6;

    public static RuleView Of(string here, SelectionRule rule, IReadOnlyList<Option> questions, RuleWords words)
    {
        var when = WhenNode.From(rule.When);
        return new RuleView(
            here,
            rule.Key.Text,
            when.IsGroup ? when : WhenNode.Group("all", when),
            [.. rule.Then.SelectMany(ThenRow.From)],
            questions,
            words.Sentence(rule)
        );
    }

    /// <summary>A draft to begin with.</summary>
    public static RuleView New(string here, IReadOnlyList<Option> questions)
    {
        var asked = questions.FirstOrDefault(q => q.IsPicked && q.Values.Length > 0) ?? questions[0];
        var target = questions.LastOrDefault(q => q.Role == OptionRole.Extra && q.Key != asked.Key) ?? questions[^1];
        var then = Fitting(new ThenRow("hide", target.Key, []), questions);
        return Worded(new RuleView(here, "", WhenNode.Group("all", WhenNode.First(asked)), [then], questions, ""));
    }

    /// <summary>Reads the form, does its <c>act</c>, and fits what no longer fits its question.</summary>
    public static RuleView Read(string here, IFormCollection form, IReadOnlyList<Option> questions)
    {
        var when = Node(form, "c", questions, 0);
        var count = int.TryParse(form["e.n"], out var n) ? Math.Clamp(n, 0, 40) : 0;
        var then = Enumerable
            .Range(0, count)
            .Select(i => new ThenRow(
                form[$"e.{i}.kind"].ToString(),
                KeyOf(form[$"e.{i}.q"], questions),
                [
                    .. form[$"e.{i}.v"]
                        .OfType<string>()
                        .Where(v => Unicus.Core.Options.Key.TryParse(v, out _))
                        .Select(Unicus.Core.Options.Key.Of),
                ]
            ))
            .ToImmutableArray();
        var act = form["act"].ToString().Split(':');
        var first = questions.FirstOrDefault(q => q.IsPicked && q.Values.Length > 0) ?? questions[0];
        if (act[0] is "add" or "group" or "drop")
            when = when.Done(
                act[0],
                act is [_, { Length: > 0 } path] ? [.. path.Split('.').Select(p => int.TryParse(p, out var at) ? at : 0)] : [],
                first
            );
        if (act[0] == "effect")
            then = then.Add(
                new ThenRow(
                    "forbid",
                    (questions.LastOrDefault(q => q.IsPicked && then.All(t => t.Question != q.Key)) ?? questions[^1]).Key,
                    []
                )
            );
        if (
            act[0] == "effectout"
            && act is [_, var row]
            && int.TryParse(row, out var gone)
            && gone >= 0
            && gone < then.Length
            && then.Length > 1
        )
            then = then.RemoveAt(gone);
        return Worded(
            new RuleView(
                here,
                form["rule"].ToString(),
                when.IsGroup ? when : WhenNode.Group("all", when),
                [.. then.Select(t => Fitting(t, questions))],
                questions,
                ""
            )
        );
    }

    /// <summary>The rule that the builder shows; a fault is thrown as <see cref="FormatException"/>.</summary>
    public static SelectionRule ToRule(RuleView view, Key key, bool off = false) =>
        new(key, view.When.ToCondition(), ThenRow.ToEffects(view.Then)) { Off = off };

    /// <summary>A key for a new rule, from its sentence.</summary>
    public static Key NewKey(RuleView view, IEnumerable<SelectionRule> others)
    {
        var effect = view.Then[0];
        return Unicus.Core.Options.Key.From(
            $"{effect.Kind} {effect.Question} when {view.When.Children.FirstOrDefault()?.Question.Text}",
            others.Select(r => r.Key).ToHashSet(),
            "rule"
        );
    }

    private static RuleView Worded(RuleView view)
    {
        if (view.Then.IsEmpty)
            return view with { Problem = "A rule needs something that it does." };
        try
        {
            var book = new RuleBook(view.Questions, []);
            return view with { Sentence = new RuleWords(book).Sentence(ToRule(view, Unicus.Core.Options.Key.Of("draft"))) };
        }
        catch (FormatException fault)
        {
            return view with { Problem = fault.Message };
        }
    }

    private static WhenNode Node(IFormCollection form, string path, IReadOnlyList<Option> questions, int depth)
    {
        var kind = form[$"{path}.kind"].ToString();
        if (WhenNode.Groups.Any(g => g.Kind == kind))
        {
            var count = depth < Deepest && int.TryParse(form[$"{path}.n"], out var n) ? Math.Clamp(n, 0, 40) : 0;
            return WhenNode.Group(kind, [.. Enumerable.Range(0, count).Select(i => Node(form, $"{path}.{i}", questions, depth + 1))]);
        }
        var key = KeyOf(form[$"{path}.q"], questions);
        var question = questions.First(q => q.Key == key);
        var fits = kind switch
        {
            "is" or "not" => question.IsPicked,
            "least" or "most" => question.Ask == Ask.Number,
            "answered" or "open" => true,
            _ => false,
        };
        if (!fits)
            return WhenNode.First(question);
        ImmutableArray<Key> values =
        [
            .. form[$"{path}.v"]
                .OfType<string>()
                .Where(v => Unicus.Core.Options.Key.TryParse(v, out var k) && question.Find(k) is not null)
                .Select(Unicus.Core.Options.Key.Of),
        ];
        var bound = form[$"{path}.b"].ToString().Trim();
        return new WhenNode(
            kind,
            key,
            values.IsEmpty && kind is "is" or "not" ? [.. question.Values.Take(1).Select(v => v.Key)] : values,
            bound.Length == 0 ? "1" : bound,
            []
        );
    }

    /// <summary>An effect that its question can have: variant options are always shown, what is typed has no values.</summary>
    private static ThenRow Fitting(ThenRow row, IReadOnlyList<Option> questions)
    {
        var question = questions.First(q => q.Key == row.Question);
        var kind = row.Kind is "forbid" or "allow"
            ? question.IsPicked
                ? row.Kind
                : "hide"
            : question.Role == OptionRole.Variant
                ? "forbid"
                : ThenRow.Kinds.Any(k => k.Kind == row.Kind)
                    ? row.Kind
                    : "hide";
        if (kind is not ("forbid" or "allow"))
            return new ThenRow(kind, row.Question, []);
        ImmutableArray<Key> values = [.. row.Values.Where(v => question.Find(v) is not null)];
        return new ThenRow(kind, row.Question, values.IsEmpty ? [.. question.Values.TakeLast(1).Select(v => v.Key)] : values);
    }

    private static Key KeyOf(string? text, IReadOnlyList<Option> questions) =>
        Unicus.Core.Options.Key.TryParse(text ?? "", out var key) && questions.Any(q => q.Key == key) ? key : questions[0].Key;
}
