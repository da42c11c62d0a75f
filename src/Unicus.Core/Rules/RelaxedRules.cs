namespace Unicus.Core.Rules;

using System.Collections.Immutable;
using Unicus.Core.Options;

/// <summary>The rules as members that can each be left out, over a network in which a hidden question may still have a value.</summary>
/// <remarks>Made when a conflict is first asked for and kept for the next; made anew when questions have let its diagram grow. One
/// question at a time.</remarks>
internal sealed class RelaxedRules(CompiledRules rules)
{
    /// <summary>So many nodes more than at first are kept at most.</summary>
    private const int MostSpareNodes = 300_000;

    private readonly Lock _lock = new();
    private readonly KeptAnswers<int, Prepared> _kept = new(p => p.Network.Diagram.Bytes + 2L * MostSpareNodes);

    /// <param name="Network">The rules and what they are about.</param>
    /// <param name="Background">How many rules lie behind all questions.</param>
    /// <param name="Members">What can be left out besides the answers: rules, and what is not made.</param>
    /// <param name="Nodes">How many nodes these took.</param>
    private sealed record Prepared(RuleNetwork Network, int Background, ImmutableArray<(object Member, int Node)> Members, int Nodes);

    /// <summary>A subset-minimal conflict of answers that cannot be completed.</summary>
    /// <exception cref="DiagramTooLargeException">The rules are too interwoven to be told apart.</exception>
    public RuleConflict Smallest(Configuration given)
    {
        lock (_lock)
        {
            var prepared = _kept.GetOrMake(0, _ => Prepare());
            if (prepared.Network.Diagram.Count <= prepared.Nodes + MostSpareNodes)
            {
                try
                {
                    return new Filter(prepared, rules.Book, given).Smallest();
                }
                catch (DiagramTooLargeException)
                {
                    // Former questions took the room; a new diagram may do.
                }
            }
            _kept.Clear();
            return new Filter(_kept.GetOrMake(0, _ => Prepare()), rules.Book, given).Smallest();
        }
    }

    private Prepared Prepare()
    {
        var network = new RuleNetwork(rules.Book, rules.Made, rules.Offered, CompiledRules.MostNodes, relaxed: true);
        var constraints = network.Constraints().Select(c => (c.Source, Node: c.Node())).ToList();
        var background = CompiledRules.Conjunction(network.Diagram, constraints.Where(c => c.Source.IsBackground).Select(c => c.Node));
        ImmutableArray<(object, int)> members =
        [
            .. constraints
                .Where(c => !c.Source.IsBackground)
                .GroupBy(c => c.Source)
                .Select(g => ((object)g.Key, CompiledRules.Conjunction(network.Diagram, g.Select(c => c.Node)))),
        ];
        return new Prepared(network, background, members, network.Diagram.Count);
    }

    private sealed class Filter
    {
        private readonly RuleNetwork _network;
        private readonly DecisionDiagram _diagram;
        private readonly Configuration _given;
        private readonly List<(object Member, int Node)> _members;
        private readonly int _background;

        public Filter(Prepared rules, RuleBook book, Configuration given)
        {
            (_network, _diagram, _given, _background) = (rules.Network, rules.Network.Diagram, given, rules.Background);
            _members =
            [
                .. rules.Members,
                .. given
                    .Given.Where(g => book.Find(g.Question) is { IsPicked: true })
                    .Select(g => ((object)g.Question, AnswerNode(g.Question, g.Answer))),
                .. given
                    .Given.Where(g => _network.Inputs.Keys.Any(i => i.Questions.First() == g.Question))
                    .Select(g => ((object)g.Question, DecisionDiagram.True)),
            ];
        }

        public RuleConflict Smallest()
        {
            for (var before = -1; before != _members.Count;)
            {
                before = _members.Count;
                OnePass();
            }
            var sources = _members.Select(m => m.Member).OfType<ConstraintSource>().ToList();
            return new RuleConflict(
                [.. _members.Select(m => m.Member).OfType<Key>()],
                [.. sources.SelectMany(Named).Distinct()],
                sources.Contains(ConstraintSource.Made)
            );
        }

        private void OnePass()
        {
            // What comes after each member, together; so a member is judged with two conjunctions.
            var after = new int[_members.Count + 1];
            after[^1] = DecisionDiagram.True;
            for (var i = _members.Count - 1; i >= 0; i--)
                after[i] = _diagram.And(_members[i].Node, after[i + 1]);
            var (kept, dropped, left) = (_background, new HashSet<object>(), new List<(object, int)>());
            for (var i = 0; i < _members.Count; i++)
            {
                dropped.Add(_members[i].Member);
                if (_diagram.And(_diagram.And(kept, Typed(dropped)), after[i + 1]) == DecisionDiagram.False)
                    continue;
                dropped.Remove(_members[i].Member);
                kept = _diagram.And(kept, _members[i].Node);
                left.Add(_members[i]);
            }
            _members.Clear();
            _members.AddRange(left);
        }

        private int AnswerNode(Key question, Answer answer)
        {
            var place = _network.PlaceOf(question)!;
            var node = DecisionDiagram.True;
            for (var i = place.Levels - 1; i >= 0; i--)
                node = _diagram.And(
                    _diagram.Of(
                        place.First + i,
                        CompiledRules.Agrees(place, i, answer)
                            ?? throw new ArgumentException($"{question} has no such answer.", nameof(answer))
                    ),
                    node
                );
            return node;
        }

        /// <summary>What is typed, without the answers that are left out or were left out in a former pass.</summary>
        private int Typed(HashSet<object> dropped)
        {
            var there = _members.Select(m => m.Member).OfType<Key>().Where(k => !dropped.Contains(k)).ToHashSet();
            return _network.Inputs.Aggregate(DecisionDiagram.True, (node, input) =>
            {
                var question = input.Key.Questions.First();
                var holds = CompiledRules.Typed(input.Key, there.Contains(question) ? _given[question] : null);
                return _diagram.And(node, _diagram.Of(input.Value, v => v == 1 == holds));
            });
        }

        private IEnumerable<Key> Named(ConstraintSource source) =>
            source.Rule is { } rule ? [rule]
            : source.Shows is { } question ? _network.ShowingRules(question)
            : [];
    }
}
