namespace Unicus.Core.Rules;

using System.Collections.Immutable;
using Unicus.Core.Options;

/// <summary>Finds the configuration with a wanted value that leaves the fewest of the answers given.</summary>
internal sealed class SmallestChange(
    int[][] edges,
    int[] sizes,
    int[] nodes,
    RuleNetwork network,
    bool[][] masks,
    Configuration given,
    QuestionPlace wanted,
    int value
)
{
    private const int Never = int.MaxValue / 2;

    /// <summary>The cost from a node to the end where its question was left already on an earlier level, and where it was
    /// not.</summary>
    private readonly int[][] _left = new int[sizes.Length + 1][];
    private readonly int[][] _kept = new int[sizes.Length + 1][];
    private readonly QuestionPlace?[] _at = Places(sizes.Length, network);

    public ImmutableArray<(Key Question, Answer Becomes)>? Find()
    {
        _left[^1] = _kept[^1] = new int[nodes[^1]];
        for (var level = sizes.Length - 1; level >= 0; level--)
        {
            (_left[level], _kept[level]) = (new int[nodes[level]], new int[nodes[level]]);
            for (var node = 0; node < nodes[level]; node++)
                (_left[level][node], _kept[level][node]) = (
                    Cheapest(level, node, left: true).Cost,
                    Cheapest(level, node, left: false).Cost
                );
        }
        return nodes[0] == 0 || _kept[0][0] >= Never ? null : [.. Way()];
    }

    private (int Cost, int State) Cheapest(int level, int node, bool left)
    {
        var best = (Cost: Never, State: -1);
        var ends = _at[level]?.Last != level;
        for (var state = 0; state < sizes[level]; state++)
        {
            if (edges[level][node * sizes[level] + state] is not (>= 0 and var to) || !MayBe(level, state))
                continue;
            var leaves = Leaves(level, state);
            var cost = (leaves && !left ? 1 : 0) + (ends && (leaves || left) ? _left : _kept)[level + 1][to];
            if (cost < best.Cost)
                best = (cost, state);
        }
        return best;
    }

    /// <summary>The wanted value is picked, and what is typed stays.</summary>
    private bool MayBe(int level, int state) =>
        _at[level] is not { } place
            ? masks[level][state]
            : place != wanted
                || (
                    place.IsSeveral ? state <= RuleNetwork.On && (level - place.First != value || state == RuleNetwork.On) : state == value
                );

    private bool Leaves(int level, int state) =>
        _at[level] is { } place && place != wanted && given[place.Question.Key] is not null && !masks[level][state];

    private IEnumerable<(Key, Answer)> Way()
    {
        var (node, left) = (0, false);
        var changed = new List<QuestionPlace>();
        var states = new int[sizes.Length];
        for (var level = 0; level < sizes.Length; level++)
        {
            var state = states[level] = Cheapest(level, node, left).State;
            if (Leaves(level, state) && !left)
                changed.Add(_at[level]!);
            left = _at[level]?.Last != level && (left || Leaves(level, state));
            node = edges[level][node * sizes[level] + state];
        }
        foreach (var place in changed)
            yield return (place.Question.Key, AnswerOf(place, states));
    }

    private static Answer AnswerOf(QuestionPlace place, int[] states)
    {
        if (!place.IsSeveral)
            return states[place.First] < place.NoneState
                ? new Answer.Value(place.Question.Values[states[place.First]].Key)
                : new Answer.None();
        var ticks = place.Question.Values.Where((_, i) => states[place.First + i] == RuleNetwork.On).Select(v => v.Key).ToImmutableArray();
        return ticks.IsEmpty ? new Answer.None() : new Answer.Ticks(ticks);
    }

    private static QuestionPlace?[] Places(int levels, RuleNetwork network)
    {
        var at = new QuestionPlace?[levels];
        foreach (var place in network.Places)
            for (var level = place.First; level <= place.Last; level++)
                at[level] = place;
        return at;
    }
}
