namespace Unicus.Core.Rules;

/// <summary>Thrown inside the compiler where a diagram grows past its bound; callers see a fault instead.</summary>
internal sealed class DiagramTooLargeException(int mostNodes) : Exception
{
    public int MostNodes { get; } = mostNodes;
}

/// <summary>Reduced, ordered, multi-valued decision diagrams over levels of any size, each node kept once.</summary>
/// <remarks>
/// A node is an integer; <see cref="False"/> and <see cref="True"/> are the ends. A node whose children are all the same is left out, so
/// equal sets of assignments are the same integer (Bryant's canonical form, carried over from two values to many).
/// </remarks>
internal sealed class DecisionDiagram
{
    public const int False = 0;
    public const int True = 1;
    private const int SmallestCache = 1 << 10;
    private const int LargestCache = 1 << 18;

    private readonly int[] _sizes;
    private readonly int _mostNodes;
    private readonly List<int> _levels = [];
    private readonly List<int> _offsets = [];
    private readonly List<int> _children = [];
    private Cache _and;
    private Cache _or;
    private readonly Dictionary<int, int> _not = [];
    private int[] _table = new int[1 << 6];

    /// <param name="sizes">How many values each level has.</param>
    /// <param name="mostNodes">So large a diagram may grow.</param>
    public DecisionDiagram(int[] sizes, int mostNodes)
    {
        (_sizes, _mostNodes) = (sizes, mostNodes);
        foreach (var _ in new[] { False, True })
        {
            _levels.Add(sizes.Length);
            _offsets.Add(0);
        }
    }

    public int Levels => _sizes.Length;

    /// <summary>About how much memory it takes, in bytes.</summary>
    public long Bytes =>
        sizeof(int) * (2L * _levels.Capacity + _children.Capacity + _table.Length) + _and.Bytes + _or.Bytes + 32L * _not.Count;

    /// <summary>Lets go of what only making nodes needs; it comes back by itself when more are made.</summary>
    public void Rest()
    {
        (_and, _or) = (default, default);
        _not.Clear();
        _not.TrimExcess();
    }

    /// <summary>How many nodes were made so far, the ends included.</summary>
    public int Count => _levels.Count;

    /// <summary>The level of a node; that of the ends is past the last.</summary>
    public int LevelOf(int node) => _levels[node];

    public int SizeOf(int level) => _sizes[level];

    public int Child(int node, int value) => _children[_offsets[node] + value];

    /// <summary>The node with these children, made if it is not there.</summary>
    /// <exception cref="DiagramTooLargeException">There would be more nodes than allowed.</exception>
    public int Make(int level, ReadOnlySpan<int> children)
    {
        var same = true;
        var hash = level * 0x9E3779B1u;
        foreach (var child in children)
        {
            same &= child == children[0];
            hash = (hash ^ (uint)child) * 0x85EBCA6Bu;
            hash ^= hash >> 15;
        }
        if (same)
            return children[0];
        var slot = hash & (uint)(_table.Length - 1);
        while (_table[slot] is not 0 and var found)
        {
            if (_levels[found] == level && Same(found, children))
                return found;
            slot = (slot + 1) & (uint)(_table.Length - 1);
        }
        if (Count >= _mostNodes)
            throw new DiagramTooLargeException(_mostNodes);
        var node = Count;
        _levels.Add(level);
        _offsets.Add(_children.Count);
        _children.AddRange(children);
        _table[slot] = node;
        if (Count * 2 > _table.Length)
            Grow();
        return node;
    }

    /// <summary>True where the level has one of the values.</summary>
    public int Of(int level, Func<int, bool> value)
    {
        Span<int> children = stackalloc int[_sizes[level]];
        for (var v = 0; v < children.Length; v++)
            children[v] = value(v) ? True : False;
        return Make(level, children);
    }

    public int And(int a, int b)
    {
        if (a == False || b == False)
            return False;
        if (a == True || a == b)
            return b;
        if (b == True)
            return a;
        if (a > b)
            (a, b) = (b, a);
        if (_and.Find(a, b) is >= 0 and var kept)
            return kept;
        var result = Apply(a, b, And);
        _and.Keep(a, b, result, Count);
        return result;
    }

    public int Or(int a, int b)
    {
        if (a == True || b == True)
            return True;
        if (a == False || a == b)
            return b;
        if (b == False)
            return a;
        if (a > b)
            (a, b) = (b, a);
        if (_or.Find(a, b) is >= 0 and var kept)
            return kept;
        var result = Apply(a, b, Or);
        _or.Keep(a, b, result, Count);
        return result;
    }

    public int Not(int a)
    {
        if (a <= True)
            return 1 - a;
        if (_not.TryGetValue(a, out var kept))
            return kept;
        var level = _levels[a];
        Span<int> children = stackalloc int[_sizes[level]];
        for (var v = 0; v < children.Length; v++)
            children[v] = Not(Child(a, v));
        return _not[a] = Make(level, children);
    }

    private int Apply(int a, int b, Func<int, int, int> op)
    {
        var level = Math.Min(_levels[a], _levels[b]);
        var (splitsA, splitsB) = (_levels[a] == level, _levels[b] == level);
        Span<int> children = stackalloc int[_sizes[level]];
        for (var v = 0; v < children.Length; v++)
            children[v] = op(splitsA ? Child(a, v) : a, splitsB ? Child(b, v) : b);
        return Make(level, children);
    }

    private bool Same(int node, ReadOnlySpan<int> children)
    {
        var offset = _offsets[node];
        for (var v = 0; v < children.Length; v++)
            if (_children[offset + v] != children[v])
                return false;
        return true;
    }

    private void Grow()
    {
        var table = new int[_table.Length * 2];
        for (var node = 2; node < Count; node++)
        {
            var hash = _levels[node] * 0x9E3779B1u;
            for (var v = 0; v < _sizes[_levels[node]]; v++)
            {
                hash = (hash ^ (uint)Child(node, v)) * 0x85EBCA6Bu;
                hash ^= hash >> 15;
            }
            var slot = hash & (uint)(table.Length - 1);
            while (table[slot] != 0)
                slot = (slot + 1) & (uint)(table.Length - 1);
            table[slot] = node;
        }
        _table = table;
    }

    /// <summary>The result of an operation on two nodes.</summary>
    private readonly record struct Combined(int Left, int Right, int Result);

    /// <summary>Results of one operation that were found lately; larger as the diagram grows.</summary>
    private struct Cache
    {
        private Combined[]? _kept;

        public readonly long Bytes => 12L * (_kept?.Length ?? 0);

        /// <summary>The result for two nodes, or −1.</summary>
        public readonly int Find(int a, int b) =>
            _kept is { } kept && kept[Slot(a, b)] is var found && found.Left == a && found.Right == b ? found.Result : -1;

        public void Keep(int a, int b, int result, int nodes)
        {
            _kept ??= new Combined[SmallestCache];
            if (nodes > _kept.Length && _kept.Length < LargestCache)
                Array.Resize(ref _kept, _kept.Length * 4);
            _kept[Slot(a, b)] = new Combined(a, b, result);
        }

        private readonly int Slot(int a, int b) => (int)(((uint)a * 0x9E3779B1u ^ (uint)b * 0x85EBCA6Bu) >> 14) & (_kept!.Length - 1);
    }
}
