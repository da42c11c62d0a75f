namespace Unicus.Core.Rules;

using System.Collections.Immutable;
using System.Numerics;
using Unicus.Core.Money;
using Unicus.Core.Options;

// Together with RuleNetwork, RelaxedRules, ConflictFinder and SmallestChange: what explains an answer asks the rules again, with some
// of them left out or some answers changed, and is asked for through the rules.
/// <summary>Questions and rules compiled into a decision diagram, once per edition; every answer is read from it in one pass up and one
/// down.</summary>
public sealed class CompiledRules
{
    /// <summary>The most nodes that a diagram may have while it is made.</summary>
    public const int MostNodes = 1_500_000;

    private readonly RuleNetwork _network;

    /// <summary>For each level and node of that level the node of the next level by value, −1 where nothing is valid.</summary>
    private readonly int[][] _edges;
    private readonly int[] _sizes;
    private Answered? _last;
    private readonly int[] _nodes;
    private readonly bool[][] _all;
    private readonly bool _fitsWord;
    private readonly Lazy<RelaxedRules> _relaxed;

    private CompiledRules(RuleBook book, MadeSet made, Func<int, bool> offered, RuleNetwork network, int root)
    {
        (Book, Made, Offered, _network, Root) = (book, made, offered, network, root);
        _sizes = [.. Enumerable.Range(0, network.Diagram.Levels).Select(network.Diagram.SizeOf)];
        (_edges, _nodes) = DiagramLayers.Of(network.Diagram, root, _sizes);
        IsEmpty = root == DecisionDiagram.False;
        network.Diagram.Rest();
        _relaxed = new Lazy<RelaxedRules>(() => new RelaxedRules(this));
        _all = [.. _sizes.Select(s => Enumerable.Repeat(true, s).ToArray())];
        // Being hidden is no choice of its own, so it makes no more configurations.
        _fitsWord =
            network.Places.Sum(p =>
                p.IsSeveral ? p.Levels : Math.Log2(p.Question.Values.Length + (p.Question.Role == OptionRole.Variant ? 0 : 1))
            ) < 127.5;
    }

    /// <summary>The rules by what they are about.</summary>
    public RuleBook Book { get; }

    /// <summary>Whether nothing at all is valid.</summary>
    public bool IsEmpty { get; }

    /// <summary>How many nodes the finished diagram has.</summary>
    public int Nodes => _nodes.Sum();

    /// <summary>About how much memory they take, in bytes.</summary>
    public long Bytes => _network.Diagram.Bytes + sizeof(int) * _edges.Sum(e => (long)e.Length) + 4_000;

    /// <summary>How many levels the diagram has, and for each the number of its states.</summary>
    internal IReadOnlyList<int> Sizes => _sizes;

    /// <summary>For each level and node the next node by state, −1 where nothing is valid.</summary>
    internal IReadOnlyList<int[]> EdgesByLevel => _edges;

    internal MadeSet Made { get; }
    internal Func<int, bool> Offered { get; }
    internal RuleNetwork Network => _network;

    /// <summary>The same rules, to be left out one by one.</summary>
    internal RelaxedRules Relaxed => _relaxed.Value;

    internal int Root { get; }

    /// <summary>Compiles the rules over what is made.</summary>
    /// <param name="book">The rules.</param>
    /// <param name="made">Of the variant options among the questions.</param>
    /// <param name="offered">Whether the made combination with this number is on offer; null: all are.</param>
    /// <param name="mostNodes">So large a diagram may grow.</param>
    /// <returns>The compiled rules, or the faults: a loop of visibility with its rules named, or more nodes than allowed.</returns>
    public static (CompiledRules? Rules, ImmutableArray<Fault> Faults) Compile(
        RuleBook book,
        MadeSet made,
        Func<int, bool>? offered = null,
        int mostNodes = MostNodes
    )
    {
        if (!book.Loops.IsEmpty)
            return (null, [.. book.Loops.Select(l => new Fault(l[0].Text, LoopInWords(l)))]);
        offered ??= _ => true;
        try
        {
            var network = new RuleNetwork(book, made, offered, mostNodes);
            var root = Conjunction(network.Diagram, network.Constraints().Select(c => c.Node()));
            return (new CompiledRules(book, made, offered, network, root), []);
        }
        catch (DiagramTooLargeException e)
        {
            return (
                null,
                [
                    new Fault(
                        "",
                        $"These rules are too interwoven to be worked out exactly: over {e.MostNodes:N0} steps. Tie fewer questions "
                            + "together, or use fewer values."
                    ),
                ]
            );
        }
    }

    /// <summary>A loop of visibility in a sentence that names its rules.</summary>
    public static string LoopInWords(ImmutableArray<Key> loop) =>
        loop.Length == 1
            ? $"The rule {loop[0]} makes a question depend on itself."
            : $"The rules {string.Join(" and ", loop)} make questions depend on each other in a circle.";

    /// <summary>All of them together; those that lie deepest first, so that what is in between stays small.</summary>
    internal static int Conjunction(DecisionDiagram diagram, IEnumerable<int> nodes) =>
        nodes.OrderByDescending(diagram.LevelOf).Aggregate(DecisionDiagram.True, diagram.And);

    /// <summary>Says what is possible with these answers.</summary>
    /// <exception cref="ArgumentException">An answer names a question or value that there is not, or is of another kind than the
    /// question.</exception>
    public RulesReply Answer(Configuration given)
    {
        // The same answers are asked about again on the way to a price.
        if (_last is { } last && ReferenceEquals(last.Given, given))
            return last.Reply;
        var reply = Find(given);
        _last = new Answered(given, reply);
        return reply;
    }

    private RulesReply Find(Configuration given)
    {
        var masks = Masks(given);
        var up = Up(masks);
        var down = Down(masks);
        var count = up.Total;
        var visibility = new Visibility(Book, given);
        var questions = ImmutableArray.CreateBuilder<QuestionReply>(Book.Questions.Count);
        var complete = count > 0;
        foreach (var question in Book.Questions)
        {
            var (shown, required, answer) = (visibility.IsShown(question.Key), visibility.IsRequired(question.Key), given[question.Key]);
            if (shown)
                complete &= question.IsPicked ? answer is not null : !required || answer is not (null or Rules.Answer.None);
            var (possible, none) = question.IsPicked ? Possible(_network.PlaceOf(question.Key)!, up, down) : ([], false);
            questions.Add(new QuestionReply(question, shown, required, answer, possible, none));
        }
        return new RulesReply(questions.ToImmutable(), count, complete);
    }

    private sealed record Answered(Configuration Given, RulesReply Reply);

    /// <summary>Whether some valid complete configuration agrees with these answers.</summary>
    public bool IsValid(Configuration given) => Up(Masks(given)).Total > 0;

    /// <summary>Whether some valid complete configuration really has these answers, none of their questions hidden. Typed answers only as
    /// far as conditions look at them.</summary>
    public bool IsPicked(Configuration given)
    {
        var masks = Masks(given);
        foreach (var (question, _) in given.Given)
            if (_network.PlaceOf(question) is { } place)
                for (var level = place.First; level <= place.Last; level++)
                    for (var state = 0; state < masks[level].Length; state++)
                        masks[level][state] &= place.IsSeveral ? state <= RuleNetwork.On : state < place.HiddenState;
        return Up(masks).Total > 0;
    }

    /// <summary>A smallest set of answers to other questions that have to change so that a value becomes possible, with what they can
    /// become; null if no change of answers makes it possible.</summary>
    /// <remarks>Typed answers stay as they are. A shortest way through the diagram, where every question that leaves its answer costs
    /// one.</remarks>
    public ImmutableArray<(Key Question, Answer Becomes)>? WhatToChange(Configuration given, Key question, Key value)
    {
        var place = _network.PlaceOf(question) ?? throw new ArgumentException($"{question} has no values.", nameof(question));
        var wanted = place.Question.PlaceOf(value);
        if (wanted < 0)
            throw new ArgumentException($"{question} has no value {value}.", nameof(value));
        return new SmallestChange(
            _edges,
            _sizes,
            _nodes,
            _network,
            Masks(given.Without(question)),
            given.Without(question),
            place,
            wanted
        ).Find();
    }

    /// <summary>The states that each level may have.</summary>
    internal bool[][] Masks(Configuration given)
    {
        var masks = new bool[_sizes.Length][];
        foreach (var (question, answer) in given.Given)
        {
            if (Book.Find(question) is null)
                throw new ArgumentException($"There is no question {question}.", nameof(given));
            if (_network.PlaceOf(question) is not { } place)
                continue;
            for (var i = 0; i < place.Levels; i++)
            {
                var agrees = Agrees(place, i, answer) ?? throw new ArgumentException($"{question} has no such answer.", nameof(given));
                var mask = masks[place.First + i] = new bool[_sizes[place.First + i]];
                for (var state = 0; state < mask.Length; state++)
                    mask[state] = agrees(state);
            }
        }
        foreach (var (input, level) in _network.Inputs)
        {
            var holds = Typed(input, given[input.Questions.First()]);
            masks[level] = [!holds, holds];
        }
        for (var i = 0; i < masks.Length; i++)
            masks[i] ??= _all[i];
        return masks;
    }

    /// <summary>Whether a condition on what is typed holds of the answer, were its question shown.</summary>
    internal static bool Typed(Condition condition, Answer? answer) =>
        condition switch
        {
            Condition.Answered => answer is not (null or Rules.Answer.None),
            Condition.AtLeast l => answer is Rules.Answer.Number n && n.Size >= l.Bound,
            Condition.AtMost m => answer is Rules.Answer.Number n && n.Size <= m.Bound,
            _ => throw new InvalidOperationException("A condition on what is picked."),
        };

    /// <summary>The states of a level that agree with an answer: the one it says, and hidden.</summary>
    internal static Func<int, bool>? Agrees(QuestionPlace place, int level, Answer answer)
    {
        var values = place.Question.Values;
        if (place.IsSeveral)
        {
            if (
                answer is not (Rules.Answer.None or Rules.Answer.Ticks)
                || (answer is Rules.Answer.Ticks t && t.Keys.Any(k => place.Question.Find(k) is null))
            )
                return null;
            var on = answer is Rules.Answer.Ticks ticks && ticks.Keys.Contains(values[level].Key);
            return s => s == (on ? RuleNetwork.On : RuleNetwork.Off) || s >= RuleNetwork.HiddenOff;
        }
        var state = answer switch
        {
            Rules.Answer.None => place.NoneState,
            Rules.Answer.Value v => place.Question.PlaceOf(v.Key),
            _ => -1,
        };
        return state < 0 ? null : s => s == state || s >= place.HiddenState;
    }

    private (ImmutableArray<bool>, bool) Possible(QuestionPlace place, Counts up, bool[][] down)
    {
        if (!place.IsSeveral)
        {
            var (seen, edges, size, reached) = (new bool[_sizes[place.First]], _edges[place.First], _sizes[place.First], down[place.First]);
            for (var node = 0; node < reached.Length; node++)
                for (var state = 0; reached[node] && state < size; state++)
                    if (!seen[state] && edges[node * size + state] is >= 0 and var next)
                        seen[state] = up.Reaches(place.First + 1, next);
            return (ImmutableArray.Create(seen, 0, place.Question.Values.Length), place.NoneState < seen.Length && seen[place.NoneState]);
        }
        // The ticks of one question are judged together: within its levels nothing is held to the answer given.
        var from = new bool[place.Levels + 1][];
        var none = (bool[])down[place.First].Clone();
        from[0] = down[place.First];
        for (var i = 0; i < place.Levels; i++)
        {
            var (next, nextNone) = (from[i + 1] = new bool[_nodes[place.First + i + 1]], new bool[_nodes[place.First + i + 1]]);
            Edges(place.First + i, (node, state, to) =>
            {
                next[to] |= from[i][node];
                nextNone[to] |= none[node] && state == RuleNetwork.Off;
            });
            none = nextNone;
        }
        var rest = new bool[_nodes[place.Last + 1]];
        for (var n = 0; n < rest.Length; n++)
            rest[n] = up.Reaches(place.Last + 1, n);
        var nonePossible = none.Index().Any(n => n.Item && rest[n.Index]);
        var possible = new bool[place.Levels];
        for (var i = place.Levels - 1; i >= 0; i--)
        {
            var here = new bool[_nodes[place.First + i]];
            Edges(place.First + i, (node, state, to) =>
            {
                if (!rest[to])
                    return;
                here[node] = true;
                possible[i] |= state == RuleNetwork.On && from[i][node];
            });
            rest = here;
        }
        return ([.. possible], nonePossible);
    }

    private void Edges(int level, Action<int, int, int> visit)
    {
        var (edges, size) = (_edges[level], _sizes[level]);
        for (var e = 0; e < edges.Length; e++)
            if (edges[e] >= 0)
                visit(e / size, e % size, edges[e]);
    }

    /// <summary>How many ways lead from each node to the end, and so whether any does.</summary>
    private Counts Up(bool[][] masks) =>
        _fitsWord ? Counts.Of(Up<UInt128>(masks), n => (BigInteger)n) : Counts.Of(Up<BigInteger>(masks), n => n);

    private T[][] Up<T>(bool[][] masks)
        where T : INumber<T>
    {
        var counts = new T[_sizes.Length + 1][];
        counts[^1] = new T[_nodes[^1]];
        Array.Fill(counts[^1], T.One);
        Span<int> room = stackalloc int[_sizes.Append(0).Max()];
        for (var level = _sizes.Length - 1; level >= 0; level--)
        {
            var (edges, size, below) = (_edges[level], _sizes[level], counts[level + 1]);
            var allowed = Allowed(masks[level], room);
            var here = counts[level] = new T[_nodes[level]];
            for (var node = 0; node < here.Length; node++)
            {
                var sum = T.Zero;
                foreach (var state in allowed)
                    if (edges[node * size + state] is >= 0 and var to)
                        sum += below[to];
                here[node] = sum;
            }
        }
        return counts;
    }

    /// <summary>The states that a level may have; of a question that is answered they are few.</summary>
    private static ReadOnlySpan<int> Allowed(bool[] mask, Span<int> room)
    {
        var count = 0;
        for (var state = 0; state < mask.Length; state++)
            if (mask[state])
                room[count++] = state;
        return room[..count];
    }

    /// <summary>The nodes that the answers lead to.</summary>
    private bool[][] Down(bool[][] masks)
    {
        var reached = new bool[_sizes.Length + 1][];
        for (var level = 0; level <= _sizes.Length; level++)
            reached[level] = new bool[_nodes[level]];
        if (_nodes[0] > 0)
            reached[0][0] = true;
        Span<int> room = stackalloc int[_sizes.Append(0).Max()];
        for (var level = 0; level < _sizes.Length; level++)
        {
            var (edges, size, here, below) = (_edges[level], _sizes[level], reached[level], reached[level + 1]);
            var allowed = Allowed(masks[level], room);
            for (var node = 0; node < here.Length; node++)
            {
                if (!here[node])
                    continue;
                foreach (var state in allowed)
                    if (edges[node * size + state] is >= 0 and var to)
                        below[to] = true;
            }
        }
        return reached;
    }

    /// <summary>Counts of ways, of whichever width they need.</summary>
    private sealed record Counts(BigInteger Total, Func<int, int, bool> Reaches)
    {
        public static Counts Of<T>(T[][] counts, Func<T, BigInteger> whole)
            where T : INumber<T> =>
            new(counts[0].Length == 0 ? BigInteger.Zero : whole(counts[0][0]), (level, node) => !T.IsZero(counts[level][node]));
    }
}
