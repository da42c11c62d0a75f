namespace Unicus.Core.Rules;

using System.Collections.Immutable;
using Unicus.Core.Options;

/// <summary>What the rules leave of the questions, in words.</summary>
/// <param name="Text">What people read.</param>
/// <param name="Stops">Whether nothing can be sold while it is so.</param>
public readonly record struct RuleFinding(string Text, bool Stops);

/// <summary>What is wrong with a set of rules, over all that may ever be answered.</summary>
/// <param name="Impossible">No configuration at all is valid.</param>
/// <param name="NeverPossible">Values that no valid configuration has.</param>
/// <param name="NeverHolds">Rules whose condition holds in none.</param>
/// <param name="ChangesNothing">Rules without which the same configurations are valid and the same is shown.</param>
/// <param name="NeverShown">Questions that no valid configuration shows.</param>
public sealed record RuleHealth(
    bool Impossible,
    ImmutableArray<(Key Question, Key Value)> NeverPossible,
    ImmutableArray<Key> NeverHolds,
    ImmutableArray<Key> ChangesNothing,
    ImmutableArray<Key> NeverShown
)
{
    /// <summary>What is said of rules that are too interwoven to be looked through: nothing.</summary>
    public static RuleHealth Unknown { get; } = new(false, [], [], [], []) { IsKnown = false };

    /// <summary>Whether the rules could be looked through at all.</summary>
    public bool IsKnown { get; private init; } = true;

    /// <summary>Whether nothing is wrong.</summary>
    public bool IsGood =>
        IsKnown && !Impossible && NeverPossible.IsEmpty && NeverHolds.IsEmpty && ChangesNothing.IsEmpty && NeverShown.IsEmpty;

    /// <summary>What is said of the questions; what is wrong with single rules stands beside those.</summary>
    /// <param name="book">The rules that were looked at.</param>
    public IEnumerable<RuleFinding> Findings(RuleBook book)
    {
        if (!IsKnown)
            yield return new("The rules work, but are too interwoven to be looked through for values that are never possible.", false);
        if (Impossible && book.Questions.All(q => q.Role != OptionRole.Variant || !q.Values.IsEmpty))
            yield return new("No configuration is valid: nothing could ever be bought.", true);
        foreach (var of in NeverPossible.GroupBy(v => v.Question))
        {
            var question = book.Find(of.Key)!;
            yield return new(
                $"{question.Label}: {string.Join(", ", of.Select(v => question.Find(v.Value)!.Label))} can never be picked.",
                false
            );
        }
        foreach (var question in NeverShown)
            yield return new($"{book.Find(question)!.Label} is never shown.", false);
    }

    /// <summary>Looks at compiled rules. What is typed may be anything.</summary>
    /// <returns><see cref="Unknown"/> where the diagram that would tell grows too large, though the rules themselves can be worked
    /// out.</returns>
    public static RuleHealth Of(CompiledRules rules)
    {
        try
        {
            return Look(rules);
        }
        catch (DiagramTooLargeException)
        {
            return Unknown;
        }
    }

    private static RuleHealth Look(CompiledRules rules)
    {
        var (network, diagram, root) = (rules.Network, rules.Network.Diagram, rules.Root);
        if (rules.IsEmpty)
            return new RuleHealth(true, [], [], [], []);
        // What is possible while nothing is typed is found at once; only the rest is asked for whatever may be typed.
        var possible = rules.Answer(Configuration.Empty).Questions.ToDictionary(q => q.Question.Key, q => q.Possible);
        var neverPossible = network
            .Places.OrderBy(p => p.First)
            .SelectMany(p =>
                p.Question.Values.Where(
                        (v, i) =>
                            !possible[p.Question.Key][i]
                            && diagram.And(root, network.Holds(new Condition.Is(p.Question.Key, [v.Key]))) == DecisionDiagram.False
                    )
                    .Select(v => (p.Question.Key, v.Key))
            );
        var neverHolds = rules
            .Book.Acting.Where(r => !r.IsNotMade && diagram.And(root, network.Holds(r.When)) == DecisionDiagram.False)
            .Select(r => r.Key)
            .ToImmutableArray();
        var neverShown = rules
            .Book.Questions.Where(q => rules.Book.IsConditional(q.Key) && diagram.And(root, network.Shown(q.Key)) == DecisionDiagram.False)
            .Select(q => q.Key);
        var implied = Implied(rules);
        var changesNothing = rules.Book.Acting.Where(r =>
            !r.IsNotMade && !neverHolds.Contains(r.Key) && (!IsConstraint(r) || implied.Contains(r.Key)) && ChangesNothingAt(rules, r)
        );
        return new RuleHealth(false, [.. neverPossible], neverHolds, [.. changesNothing.Select(r => r.Key)], [.. neverShown]);
    }

    /// <summary>Whether the rule is a constraint by itself: it neither shows nor hides, so the others mean the same without
    /// it.</summary>
    private static bool IsConstraint(SelectionRule rule) => rule.Then.All(e => e is not (Effect.Show or Effect.Hide));

    /// <summary>The constraints without which the same configurations are valid. Leaving each out by itself takes the square of their
    /// number; here halves are left out, and their halves.</summary>
    private static HashSet<Key> Implied(CompiledRules rules)
    {
        var diagram = rules.Network.Diagram;
        var plain = rules.Book.Acting.Where(r => !r.IsNotMade && IsConstraint(r)).Select(r => r.Key).ToHashSet();
        var parts = rules.Network.Constraints().ToLookup(c => c.Source.Rule is { } rule && plain.Contains(rule));
        var each = parts[true]
            .GroupBy(c => c.Source.Rule!.Value)
            .Select(g => (Rule: g.Key, Root: CompiledRules.Conjunction(diagram, g.Select(c => c.Node()))))
            .OrderByDescending(x => diagram.LevelOf(x.Root))
            .ToList();
        var implied = plain.Except(each.Select(x => x.Rule)).ToHashSet();
        if (each.Count > 0)
            Look(0, each.Count, CompiledRules.Conjunction(diagram, parts[false].Select(c => c.Node())));
        return implied;

        // All outside of the range are in the node already.
        void Look(int from, int to, int outside)
        {
            if (outside == rules.Root)
                implied.UnionWith(each[from..to].Select(x => x.Rule));
            else if (to - from > 1)
            {
                var middle = (from + to) / 2;
                Look(from, middle, diagram.And(outside, CompiledRules.Conjunction(diagram, each[middle..to].Select(x => x.Root))));
                Look(middle, to, diagram.And(outside, CompiledRules.Conjunction(diagram, each[from..middle].Select(x => x.Root))));
            }
        }
    }

    private static bool ChangesNothingAt(CompiledRules rules, SelectionRule rule)
    {
        var (network, diagram, book) = (rules.Network, rules.Network.Diagram, rules.Book);
        // What must be typed is no matter of valid configurations, but it is asked for where the rule holds.
        var typed = rule.Then.SelectMany(e => e.Targets).Where(q => book.Find(q) is { IsPicked: false }).ToList();
        if (rule.Then.OfType<Effect.Require>().SelectMany(e => e.Questions).Any(q => typed.Contains(q) && AloneRequires(rules, rule, q)))
            return false;
        var without = new RuleBook(book.Questions, [.. book.Acting.Where(r => r.Key != rule.Key)]);
        if (CompiledRules.Conjunction(diagram, network.Constraints(without).Select(c => c.Node())) != rules.Root)
            return false;
        return typed.TrueForAll(q => diagram.And(rules.Root, network.Shown(q)) == diagram.And(rules.Root, network.Shown(without, q)));
    }

    /// <summary>Whether a typed question must be answered somewhere by this rule and by nothing else.</summary>
    private static bool AloneRequires(CompiledRules rules, SelectionRule rule, Key question)
    {
        if (rules.Book.Find(question)!.Required)
            return false;
        var (network, diagram) = (rules.Network, rules.Network.Diagram);
        var others = rules
            .Book.Acting.Where(r => r.Key != rule.Key && r.Then.OfType<Effect.Require>().Any(e => e.Questions.Contains(question)))
            .Select(r => network.Holds(r.When));
        var here = others.Aggregate(diagram.And(network.Holds(rule.When), network.Shown(question)), (n, o) =>
            diagram.And(n, diagram.Not(o))
        );
        return diagram.And(rules.Root, here) != DecisionDiagram.False;
    }
}
