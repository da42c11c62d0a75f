using System.Collections.Immutable;

namespace Unicus.Core;

/// <summary>Answers and rules that cannot stand together; without any one of them they can.</summary>
/// <param name="NotMade">Whether what is not made takes part.</param>
public sealed record RuleConflict(ImmutableArray<Key> Answers, ImmutableArray<Key> Rules, bool NotMade);

/// <summary>Finds a subset-minimal conflict by leaving out one member after the other.</summary>
/// <remarks>
/// A deletion filter: what can be left out while the rest still cannot stand is left out. First the answers, those given first before those given last, so that the answers given last remain as
/// the ones to change; that needs the finished diagram only. Then the rules, with the few answers left. What is shown under the full rules is background, as are lists, picks and required
/// marks. A typed answer that is left out is open, which can make conditions false; so the filter runs again until nothing more can go.
/// </remarks>
public static class ConflictFinder
{
    /// <returns>The conflict, or null if the answers can be completed.</returns>
    public static RuleConflict? Find(CompiledRules rules, Configuration given)
    {
        if (rules.IsValid(given)) return null;
        given = Needed(rules, given);
        var network = new RuleNetwork(rules.Book, rules.Made, rules.Offered, CompiledRules.MostNodes, relaxed: true);
        return new Filter(network, rules.Book, given).Smallest();
    }

    /// <summary>The answers without those that can be left out while all rules stand, the ones given first left out first.</summary>
    private static Configuration Needed(CompiledRules rules, Configuration given)
    {
        for (var before = -1; before != given.Given.Length;)
        {
            before = given.Given.Length;
            foreach (var (question, _) in given.Given)
                if (given.Without(question) is var fewer && !rules.IsValid(fewer)) given = fewer;
        }
        return given;
    }

    /// <summary>Why a value is not possible beside the answers to the other questions; null if it is.</summary>
    public static RuleConflict? Why(CompiledRules rules, Configuration given, Key question, Key value)
    {
        if (rules.Book.Find(question) is not { } option || option.Find(value) is null) throw new ArgumentException($"{question} has no value {value}.", nameof(value));
        // A value that is wanted is picked, not merely ticked beside what was ticked before.
        return Find(rules, given.With(question, option.Ask == Ask.Several ? new Answer.Ticks([value]) : new Answer.Value(value)));
    }

    private sealed class Filter
    {
        private readonly RuleNetwork _network;
        private readonly DecisionDiagram _diagram;
        private readonly Configuration _given;
        private readonly List<(object Member, int Node)> _members;
        private readonly int _background;

        public Filter(RuleNetwork network, RuleBook book, Configuration given)
        {
            (_network, _diagram, _given) = (network, network.Diagram, given);
            var constraints = network.Constraints().Select(c => (c.Source, Node: c.Node())).ToList();
            _background = CompiledRules.Conjunction(_diagram, constraints.Where(c => c.Source.IsBackground).Select(c => c.Node));
            _members = [.. constraints.Where(c => !c.Source.IsBackground).GroupBy(c => c.Source).Select(g => ((object)g.Key, CompiledRules.Conjunction(_diagram, g.Select(c => c.Node)))),
                .. given.Given.Where(g => book.Find(g.Question) is { IsPicked: true }).Select(g => ((object)g.Question, AnswerNode(g.Question, g.Answer))),
                .. given.Given.Where(g => network.Inputs.Keys.Any(i => i.Questions.First() == g.Question)).Select(g => ((object)g.Question, DecisionDiagram.True))];
        }

        public RuleConflict Smallest()
        {
            for (var before = -1; before != _members.Count;)
            {
                before = _members.Count;
                OnePass();
            }
            var sources = _members.Select(m => m.Member).OfType<ConstraintSource>().ToList();
            return new RuleConflict([.. _members.Select(m => m.Member).OfType<Key>()], [.. sources.SelectMany(Named).Distinct()], sources.Contains(ConstraintSource.Made));
        }

        private void OnePass()
        {
            // What comes after each member, together; so a member is judged with two conjunctions.
            var after = new int[_members.Count + 1];
            after[^1] = DecisionDiagram.True;
            for (var i = _members.Count - 1; i >= 0; i--) after[i] = _diagram.And(_members[i].Node, after[i + 1]);
            var (kept, dropped, left) = (_background, new HashSet<object>(), new List<(object, int)>());
            for (var i = 0; i < _members.Count; i++)
            {
                dropped.Add(_members[i].Member);
                if (_diagram.And(_diagram.And(kept, Typed(dropped)), after[i + 1]) == DecisionDiagram.False) continue;
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
                node = _diagram.And(_diagram.Of(place.First + i, CompiledRules.Agrees(place, i, answer) ?? throw new ArgumentException($"{question} has no such answer.", nameof(answer))), node);
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

        private IEnumerable<Key> Named(ConstraintSource source) => source.Rule is { } rule ? [rule] : source.Shows is { } question ? _network.ShowingRules(question) : [];
    }
}
