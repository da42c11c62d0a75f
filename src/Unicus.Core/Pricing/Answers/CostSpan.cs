namespace Unicus.Core.Pricing.Answers;

using System.Buffers;
using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Rules;

/// <summary>Finds the exact lowest and highest cost over all valid complete configurations that agree with answers.</summary>
/// <remarks>
/// The list price need not be a sum over options, and percentages of it even less. So the levels that it hangs on are kept as an
/// edge-valued diagram: a node for each
/// remainder function, its smallest value moved up to the edge. Paired with the nodes of the rules it has one pass from the end to the
/// start for both extremes.
/// </remarks>
internal sealed class CostSpan
{
    /// <summary>Far beyond any cost, and no sum over the levels can overflow from it.</summary>
    private const long NoWay = long.MaxValue / 4;

    private const int MostPairs = 4_000_000;

    private readonly CompiledRules _rules;

    /// <summary>For each level, what a state leads to: the pair on the next level, where there is none the one behind the
    /// last.</summary>
    private readonly int[][] _next;

    /// <summary>For each level what a state adds; null where none adds anything.</summary>
    private readonly long[]?[] _adds;

    private readonly int[] _pairs;
    private readonly long _start;

    /// <summary>The extremes with no answer given, for the amounts of the last questions asked.</summary>
    private OpenEnds? _open;

    /// <param name="Amounts">What each answer adds, by level.</param>
    /// <param name="From">By level and pair, from there to the end.</param>
    /// <param name="To">By level and pair, from the start to there.</param>
    /// <param name="Back">By level and pair, the pair before and its state on a cheapest way there, as one number.</param>
    private sealed record OpenEnds(IReadOnlyList<long[]?> Amounts, Extreme[][] From, Extreme[][] To, int[][] Back);

    /// <summary>Least and most of some ways.</summary>
    private readonly record struct Extreme(long Least, long Most)
    {
        public static Extreme None { get; } = new(NoWay, -NoWay);

        public bool IsNone => Least >= NoWay / 2;
    }

    /// <param name="rules">The rules.</param>
    /// <param name="cost">What answers make of a list price.</param>
    /// <param name="may">Whether a state of a level is looked at; null: all are.</param>
    /// <param name="only">The list price of the variants that are looked at; null: all are.</param>
    /// <exception cref="DiagramTooLargeException">The prices are too interwoven.</exception>
    public CostSpan(CompiledRules rules, ConfigurationCost cost, Func<int, int, bool>? may = null, long? only = null)
    {
        _rules = rules;
        var prices = new PriceDiagram(rules, cost, only);
        (var root, _start) = prices.Root;
        var levels = rules.Sizes.Count;
        (_next, _adds, _pairs) = (new int[levels][], new long[levels][], new int[levels + 1]);
        List<(int Node, int Price)> here = rules.IsEmpty || root < 0 ? [] : [(0, root)];
        for (var level = 0; level < levels; level++)
        {
            var (size, edges) = (rules.Sizes[level], rules.EdgesByLevel[level]);
            _pairs[level] = here.Count;
            var next = _next[level] = new int[here.Count * size];
            var index = new Dictionary<(int, int), int>();
            var following = new List<(int, int)>();
            for (var p = 0; p < here.Count; p++)
                for (var s = 0; s < size; s++)
                {
                    var to = edges[here[p].Node * size + s];
                    var (price, adds) = to < 0 || may?.Invoke(level, s) == false ? (-1, 0) : prices.Step(here[p].Price, level, s);
                    if (price < 0)
                    {
                        next[p * size + s] = -1;
                        continue;
                    }
                    if (!index.TryGetValue((to, price), out var at))
                    {
                        index[(to, price)] = at = following.Count;
                        following.Add((to, price));
                        if (at > MostPairs)
                            throw new DiagramTooLargeException(MostPairs);
                    }
                    next[p * size + s] = at;
                    if (adds != 0)
                        (_adds[level] ??= new long[next.Length])[p * size + s] = adds;
                }
            next.AsSpan().Replace(-1, following.Count);
            here = following;
        }
        _pairs[levels] = here.Count;
    }

    /// <summary>About how much memory it takes, in bytes, with what it keeps of the last question.</summary>
    public long Bytes =>
        _next.Sum(n => (long)n.Length * sizeof(int)) + _adds.Sum(a => (a?.Length ?? 0L) * sizeof(long)) + _pairs.Sum(p => (long)p) * 36;

    /// <summary>The extremes over the configurations whose states the masks allow.</summary>
    /// <param name="masks">By level, which answers agree.</param>
    /// <param name="amounts">For each level, what each state adds besides; null where it adds nothing.</param>
    /// <returns>Null where nothing agrees.</returns>
    public CostExtremes? Find(bool[][] masks, IReadOnlyList<long[]?> amounts)
    {
        if (_pairs[0] == 0)
            return null;
        var open = OpenFor(amounts);
        bool IsOpen(int level) => !masks[level].AsSpan().Contains(false);
        // Before the first answer and behind the last everything is as without answers; in between only what the answers lead to is looked
        // at.
        var (first, last) = (0, _next.Length - 1);
        while (last >= 0 && IsOpen(last))
            last--;
        while (first < last && IsOpen(first))
            first++;
        if (last < 0)
            first = 0;
        var (active, work) = (new (int[] Pairs, int Count)[last + 2], new Extreme[last + 2][]);
        try
        {
            Reach(first, last, masks, active);
            work[last + 1] = open.From[last + 1];
            for (var level = last; level >= first; level--)
                Level(
                    level,
                    masks[level],
                    amounts[level],
                    active[level].Pairs.AsSpan(0, active[level].Count),
                    work[level] = ArrayPool<Extreme>.Shared.Rent(_pairs[level] + 1),
                    work[level + 1]
                );
            var (least, most, best) = (NoWay, -NoWay, -1);
            foreach (var p in active[first].Pairs.AsSpan(0, active[first].Count))
            {
                var (to, from) = (open.To[first][p], work[first][p]);
                if (from.IsNone)
                    continue;
                if (to.Least + from.Least < least)
                    (least, best) = (to.Least + from.Least, p);
                most = Math.Max(most, to.Most + from.Most);
            }
            return best < 0
                ? null
                : new CostExtremes(_start + least, _start + most, Cheapest(first, last, best, masks, amounts, open, work));
        }
        finally
        {
            for (var level = first; level <= last + 1; level++)
            {
                if (level <= last && work[level] is not null)
                    ArrayPool<Extreme>.Shared.Return(work[level]);
                if (active[level].Pairs is { } pairs)
                    ArrayPool<int>.Shared.Return(pairs);
            }
        }
    }

    /// <summary>The pairs that the answers lead to, from the first answer to the last.</summary>
    private void Reach(int first, int last, bool[][] masks, (int[] Pairs, int Count)[] active)
    {
        var all = ArrayPool<int>.Shared.Rent(_pairs[first]);
        for (var p = 0; p < _pairs[first]; p++)
            all[p] = p;
        active[first] = (all, _pairs[first]);
        for (var level = first; level <= last; level++)
        {
            var (size, next, mask, none) = (_rules.Sizes[level], _next[level], masks[level], _pairs[level + 1]);
            var (following, count) = (ArrayPool<int>.Shared.Rent(none), 0);
            var seen = ArrayPool<bool>.Shared.Rent(none + 1);
            Array.Clear(seen, 0, none);
            seen[none] = true;
            foreach (var p in active[level].Pairs.AsSpan(0, active[level].Count))
                for (var s = 0; s < size; s++)
                    if (mask[s] && next[p * size + s] is var to && !seen[to])
                    {
                        seen[to] = true;
                        following[count++] = to;
                    }
            ArrayPool<bool>.Shared.Return(seen);
            active[level + 1] = (following, count);
        }
    }

    private int[] Cheapest(int first, int last, int pair, bool[][] masks, IReadOnlyList<long[]?> amounts, OpenEnds open, Extreme[][] work)
    {
        var states = new int[_next.Length];
        for (var (level, p) = (first, pair); level > 0; level--)
            (states[level - 1], p) = (open.Back[level][p] % _rules.Sizes[level - 1], open.Back[level][p] / _rules.Sizes[level - 1]);
        for (var (level, p) = (first, pair); level < states.Length; level++)
        {
            var (size, here, below) = (
                _rules.Sizes[level],
                level <= last ? work[level] : open.From[level],
                level < last ? work[level + 1] : open.From[level + 1]
            );
            long Through(int s) => (_adds[level]?[p * size + s] ?? 0) + (amounts[level]?[s] ?? 0) + below[_next[level][p * size + s]].Least;
            while (!masks[level][states[level]] || Through(states[level]) != here[p].Least)
                states[level]++;
            p = _next[level][p * size + states[level]];
        }
        return states;
    }

    /// <summary>The extremes whatever the answers.</summary>
    public (long Least, long Most)? Bounds(IReadOnlyList<long[]?> amounts) =>
        _pairs[0] == 0 || OpenFor(amounts).From[0][0] is var open && open.IsNone ? null : (_start + open.Least, _start + open.Most);

    private OpenEnds OpenFor(IReadOnlyList<long[]?> amounts)
    {
        if (
            _open is { } kept
            && (
                ReferenceEquals(kept.Amounts, amounts)
                || kept.Amounts.Zip(amounts)
                    .All(p =>
                        ReferenceEquals(p.First, p.Second)
                        || (p.First is not null && p.Second is not null && p.First.AsSpan().SequenceEqual(p.Second))
                    )
            )
        )
            return kept;
        var levels = _next.Length;
        var (from, to, back) = (new Extreme[levels + 1][], new Extreme[levels + 1][], new int[levels + 1][]);
        from[levels] = [.. new Extreme[_pairs[levels]], Extreme.None];
        for (var level = levels - 1; level >= 0; level--)
            Level(
                level,
                null,
                amounts[level],
                [.. Enumerable.Range(0, _pairs[level])],
                from[level] = new Extreme[_pairs[level] + 1],
                from[level + 1]
            );
        to[0] = [default];
        for (var level = 0; level < levels; level++)
        {
            var size = _rules.Sizes[level];
            back[level + 1] = new int[_pairs[level + 1] + 1];
            Array.Fill(to[level + 1] = new Extreme[_pairs[level + 1] + 1], Extreme.None);
            for (var edge = 0; edge < _pairs[level] * size; edge++)
            {
                var (before, next, cost) = (
                    to[level][edge / size],
                    _next[level][edge],
                    (_adds[level]?[edge] ?? 0) + (amounts[level]?[edge % size] ?? 0)
                );
                var after = to[level + 1][next];
                if (before.Least + cost < after.Least)
                    back[level + 1][next] = edge;
                to[level + 1][next] = new Extreme(Math.Min(after.Least, before.Least + cost), Math.Max(after.Most, before.Most + cost));
            }
        }
        return _open = new OpenEnds(amounts, from, to, back);
    }

    /// <summary>Works pairs of a level out from those below; behind the last pair stands the one that leads nowhere.</summary>
    private void Level(int level, bool[]? mask, long[]? more, ReadOnlySpan<int> pairs, Extreme[] here, Extreme[] below)
    {
        var (size, next, adds) = (_rules.Sizes[level], _next[level], _adds[level]);
        Span<int> states = stackalloc int[size];
        var count = 0;
        for (var s = 0; s < size; s++)
            if (mask is null || mask[s])
                states[count++] = s;
        states = states[..count];
        Span<long> amounts = stackalloc long[size];
        more?.CopyTo(amounts);
        foreach (var p in pairs)
        {
            var (row, least, most) = (p * size, NoWay, -NoWay);
            foreach (var s in states)
            {
                var to = below[next[row + s]];
                var cost = amounts[s] + (adds is null ? 0 : adds[row + s]);
                least = Math.Min(least, cost + to.Least);
                most = Math.Max(most, cost + to.Most);
            }
            here[p] = new Extreme(least, most);
        }
        here[_pairs[level]] = Extreme.None;
    }

    /// <summary>The list price and what is a percentage of it, as an edge-valued diagram over the levels that they hang on.</summary>
    private sealed class PriceDiagram
    {
        private readonly ConfigurationCost _cost;
        private readonly List<int> _levels = [];
        private readonly int[] _placeOf;
        private readonly int[] _strides;
        private readonly int[] _sizes;
        private readonly List<(int To, long Adds)[]> _nodes =
        [
            [],
        ];
        private readonly Dictionary<Children, int> _known = [];
        private readonly List<Percentage> _rates = [];
        private readonly long? _only;

        public PriceDiagram(CompiledRules rules, ConfigurationCost cost, long? only)
        {
            (_cost, _only) = (cost, only);
            _rates.AddRange(cost.Always);
            _strides = new int[rules.Sizes.Count];
            for (var i = 0; i < rules.Made.Options.Count; i++)
                _strides[rules.Network.PlaceOf(rules.Made.Options[i].Key)!.First] = rules.Made.StrideOf(i);
            for (var level = 0; level < _strides.Length; level++)
                if (_strides[level] > 0 || cost.Percent[level] is not null)
                    _levels.Add(level);
            _placeOf = new int[_strides.Length];
            Array.Fill(_placeOf, -1);
            foreach (var (place, level) in _levels.Index())
                _placeOf[level] = place;
            _sizes = [.. _levels.Select(l => rules.Sizes[l])];
            if (_sizes.Aggregate(1.0, (n, s) => n * s) > MostPairs * 4.0)
                throw new DiagramTooLargeException(MostPairs);
            Root = Build(0, 0);
        }

        /// <summary>The node of the whole function, −1 where nothing has a price, and its smallest value.</summary>
        public (int Node, long Least) Root { get; }

        /// <summary>Where a state of a level leads from a node, and what it adds.</summary>
        public (int Node, long Adds) Step(int node, int level, int state) => _placeOf[level] < 0 ? (node, 0) : _nodes[node][state];

        private (int Node, long Least) Build(int place, int number)
        {
            if (place == _levels.Count)
                return _cost.List[number] is { } list && (_only is null || list == _only)
                    ? (0, list + _rates.Sum(r => ConfigurationCost.Share(list, r)))
                    : (-1, 0);
            var level = _levels[place];
            var children = new (int To, long Adds)[_sizes[place]];
            var least = NoWay;
            for (var s = 0; s < children.Length; s++)
            {
                var rate = _cost.Percent[level]?[s] ?? default;
                if (rate.Value != 0)
                    _rates.Add(rate);
                children[s] = Build(place + 1, number + (_strides[level] * s));
                if (rate.Value != 0)
                    _rates.RemoveAt(_rates.Count - 1);
                if (children[s].To >= 0)
                    least = Math.Min(least, children[s].Adds);
            }
            if (least == NoWay)
                return (-1, 0);
            for (var s = 0; s < children.Length; s++)
                if (children[s].To >= 0)
                    children[s].Adds -= least;
            var key = new Children(place, children);
            if (_known.TryGetValue(key, out var known))
                return (known, least);
            _known[key] = _nodes.Count;
            _nodes.Add(children);
            return (_nodes.Count - 1, least);
        }

        private readonly record struct Children(int Place, (int To, long Adds)[] Of)
        {
            public bool Equals(Children other) => Place == other.Place && Of.AsSpan().SequenceEqual(other.Of);

            /// <inheritdoc/>
            public override int GetHashCode()
            {
                var hash = new HashCode();
                hash.Add(Place);
                foreach (var child in Of)
                    hash.Add(child);
                return hash.ToHashCode();
            }
        }
    }
}
