using System.Collections.Immutable;

namespace Unicus.Core;

/// <summary>What configurations cost in whole minor units, as far as it hangs on the list price of the variant.</summary>
/// <param name="List">The list price of the made combination with a number; null where it has none.</param>
/// <param name="Percent">For each level, percentages of the list price by state, each rounded by itself; null where the level adds none.</param>
/// <param name="Always">Percentages of the list price that always apply.</param>
internal sealed record ConfigurationCost(Func<int, long?> List, Percentage[]?[] Percent, ImmutableArray<Percentage> Always)
{
    /// <summary>A percentage of a list price, rounded half away from zero.</summary>
    public static long Share(long list, Percentage rate) => (long)Math.Round(list * rate.Value / 100m, 0, MidpointRounding.AwayFromZero);
}

/// <summary>Finds the exact lowest and highest cost over all valid complete configurations that agree with answers.</summary>
/// <remarks>
/// The list price need not be a sum over options, and percentages of it even less. So the levels that it hangs on are kept as an edge-valued diagram: a node for each
/// remainder function, its smallest value moved up to the edge. Paired with the nodes of the rules it has one pass from the end to the start for both extremes.
/// </remarks>
internal sealed class CostSpan
{
    private const long NoWay = long.MaxValue;
    private const int MostPairs = 4_000_000;

    private readonly CompiledRules _rules;

    /// <summary>For each level, what a state leads to: the pair on the next level (−1 none) and what it adds.</summary>
    private readonly int[][] _next;
    private readonly long[][] _adds;
    private readonly int[] _pairs;
    private readonly long _start;

    /// <summary>The extremes from each pair on with no answer given, for the amounts of the first question asked.</summary>
    private Open? _open;

    private sealed record Open(IReadOnlyList<long[]?> Amounts, long[][] Least, long[][] Most);

    /// <param name="may">Whether a state of a level is looked at; null: all are.</param>
    /// <exception cref="DiagramTooLargeException">The prices are too interwoven.</exception>
    public CostSpan(CompiledRules rules, ConfigurationCost cost, Func<int, int, bool>? may = null)
    {
        _rules = rules;
        var prices = new PriceDiagram(rules, cost);
        (var root, _start) = prices.Root;
        var levels = rules.Sizes.Count;
        (_next, _adds, _pairs) = (new int[levels][], new long[levels][], new int[levels + 1]);
        List<(int Node, int Price)> here = rules.IsEmpty || root < 0 ? [] : [(0, root)];
        for (var level = 0; level < levels; level++)
        {
            var (size, edges) = (rules.Sizes[level], rules.EdgesByLevel[level]);
            _pairs[level] = here.Count;
            (_next[level], _adds[level]) = (new int[here.Count * size], new long[here.Count * size]);
            var index = new Dictionary<(int, int), int>();
            var following = new List<(int, int)>();
            for (var p = 0; p < here.Count; p++)
                for (var s = 0; s < size; s++)
                {
                    var to = edges[here[p].Node * size + s];
                    var (price, adds) = to < 0 || may?.Invoke(level, s) == false ? (-1, 0) : prices.Step(here[p].Price, level, s);
                    if (price < 0)
                    {
                        _next[level][p * size + s] = -1;
                        continue;
                    }
                    if (!index.TryGetValue((to, price), out var at))
                    {
                        index[(to, price)] = at = following.Count;
                        following.Add((to, price));
                        if (at > MostPairs) throw new DiagramTooLargeException(MostPairs);
                    }
                    (_next[level][p * size + s], _adds[level][p * size + s]) = (at, adds);
                }
            here = following;
        }
        _pairs[levels] = here.Count;
    }

    /// <summary>The extremes, and the states of a cheapest configuration.</summary>
    /// <param name="amounts">For each level, what each state adds besides; null where it adds nothing.</param>
    /// <returns>Null where nothing agrees.</returns>
    public (long Lowest, long Highest, int[] Cheapest)? Find(bool[][] masks, IReadOnlyList<long[]?> amounts)
    {
        if (_pairs[0] == 0) return null;
        var levels = _next.Length;
        var open = OpenFor(amounts);
        var (least, most) = ((long[][])open.Least.Clone(), (long[][])open.Most.Clone());
        // Behind the last answer everything is as without answers.
        var last = levels - 1;
        while (last >= 0 && Array.TrueForAll(masks[last], m => m)) last--;
        for (var level = last; level >= 0; level--) Level(level, masks[level], amounts[level], least, most);
        if (least[0][0] == NoWay) return null;
        var states = new int[levels];
        for (int level = 0, p = 0; level < levels; level++)
        {
            var size = _rules.Sizes[level];
            states[level] = Enumerable.Range(0, size).First(s => masks[level][s] && _next[level][p * size + s] is >= 0 and var to && least[level + 1][to] != NoWay
                && least[level][p] == _adds[level][p * size + s] + (amounts[level]?[s] ?? 0) + least[level + 1][to]);
            p = _next[level][p * size + states[level]];
        }
        return (_start + least[0][0], _start + most[0][0], states);
    }

    /// <summary>Bounds of what <see cref="Find"/> can say whatever the answers.</summary>
    public (long Lowest, long Highest)? Bounds(IReadOnlyList<long[]?> amounts) => _pairs[0] == 0 || OpenFor(amounts) is not { } open || open.Least[0][0] == NoWay ? null : (_start + open.Least[0][0], _start + open.Most[0][0]);

    private Open OpenFor(IReadOnlyList<long[]?> amounts)
    {
        if (_open is { } kept && kept.Amounts.Zip(amounts).All(p => p.First is null ? p.Second is null : p.Second is not null && p.First.AsSpan().SequenceEqual(p.Second))) return kept;
        var levels = _next.Length;
        var (least, most) = (new long[levels + 1][], new long[levels + 1][]);
        (least[levels], most[levels]) = (new long[_pairs[levels]], new long[_pairs[levels]]);
        for (var level = levels - 1; level >= 0; level--) Level(level, null, amounts[level], least, most);
        return _open = new Open(amounts, least, most);
    }

    private void Level(int level, bool[]? mask, long[]? more, long[][] least, long[][] most)
    {
        var (size, next, adds, leastBelow, mostBelow) = (_rules.Sizes[level], _next[level], _adds[level], least[level + 1], most[level + 1]);
        var (leastHere, mostHere) = (new long[_pairs[level]], new long[_pairs[level]]);
        for (var p = 0; p < leastHere.Length; p++)
        {
            var (low, high) = (NoWay, long.MinValue);
            for (var s = 0; s < size; s++)
            {
                if ((mask is not null && !mask[s]) || next[p * size + s] is not (>= 0 and var to) || leastBelow[to] == NoWay) continue;
                var cost = adds[p * size + s] + (more?[s] ?? 0);
                low = Math.Min(low, cost + leastBelow[to]);
                high = Math.Max(high, cost + mostBelow[to]);
            }
            (leastHere[p], mostHere[p]) = (low, high);
        }
        (least[level], most[level]) = (leastHere, mostHere);
    }

    /// <summary>The list price and what is a percentage of it, as an edge-valued diagram over the levels that they hang on.</summary>
    private sealed class PriceDiagram
    {
        private readonly ConfigurationCost _cost;
        private readonly List<int> _levels = [];
        private readonly int[] _placeOf;
        private readonly int[] _strides;
        private readonly int[] _sizes;
        private readonly List<(int To, long Adds)[]> _nodes = [[]];
        private readonly Dictionary<Children, int> _known = [];
        private readonly List<Percentage> _rates = [];

        public PriceDiagram(CompiledRules rules, ConfigurationCost cost)
        {
            _cost = cost;
            _rates.AddRange(cost.Always);
            _strides = new int[rules.Sizes.Count];
            for (var i = 0; i < rules.Made.Options.Count; i++) _strides[rules.Network.PlaceOf(rules.Made.Options[i].Key)!.First] = rules.Made.StrideOf(i);
            for (var level = 0; level < _strides.Length; level++)
                if (_strides[level] > 0 || cost.Percent[level] is not null) _levels.Add(level);
            _placeOf = new int[_strides.Length];
            Array.Fill(_placeOf, -1);
            foreach (var (place, level) in _levels.Index()) _placeOf[level] = place;
            _sizes = [.. _levels.Select(l => rules.Sizes[l])];
            if (_sizes.Aggregate(1m, (n, s) => n * s) > MostPairs * 4m) throw new DiagramTooLargeException(MostPairs);
            Root = Build(0, 0);
        }

        /// <summary>The node of the whole function, −1 where nothing has a price, and its smallest value.</summary>
        public (int Node, long Least) Root { get; }

        /// <summary>Where a state of a level leads from a node, and what it adds.</summary>
        public (int Node, long Adds) Step(int node, int level, int state) => _placeOf[level] < 0 ? (node, 0) : _nodes[node][state];

        private (int Node, long Least) Build(int place, int number)
        {
            if (place == _levels.Count) return _cost.List(number) is { } list ? (0, list + _rates.Sum(r => ConfigurationCost.Share(list, r))) : (-1, 0);
            var level = _levels[place];
            var children = new (int To, long Adds)[_sizes[place]];
            var least = NoWay;
            for (var s = 0; s < children.Length; s++)
            {
                var rate = _cost.Percent[level]?[s] ?? default;
                if (rate.Value != 0) _rates.Add(rate);
                children[s] = Build(place + 1, number + (_strides[level] * s));
                if (rate.Value != 0) _rates.RemoveAt(_rates.Count - 1);
                if (children[s].To >= 0) least = Math.Min(least, children[s].Adds);
            }
            if (least == NoWay) return (-1, 0);
            for (var s = 0; s < children.Length; s++)
                if (children[s].To >= 0) children[s].Adds -= least;
            var key = new Children(place, children);
            if (_known.TryGetValue(key, out var known)) return (known, least);
            _known[key] = _nodes.Count;
            _nodes.Add(children);
            return (_nodes.Count - 1, least);
        }

        private readonly record struct Children(int Place, (int To, long Adds)[] Of)
        {
            public bool Equals(Children other) => Place == other.Place && Of.AsSpan().SequenceEqual(other.Of);

            public override int GetHashCode()
            {
                var hash = new HashCode();
                hash.Add(Place);
                foreach (var child in Of) hash.Add(child);
                return hash.ToHashCode();
            }
        }
    }
}
