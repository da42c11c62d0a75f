using System.Numerics;

namespace Unicus.Core;

/// <summary>Maximises one variable over whole numbers of 0 or more under rows Σ a·x ≤ b.</summary>
/// <remarks>
/// The two-phase simplex method on a table, Bland's rule once it stands still; then branch and bound, the largest number first. What is
/// found is checked in whole numbers, so rounding can make it say "not exact" but never a number that cannot be had.
/// Textbook methods: G. B. Dantzig's simplex, A. H. Land and A. G. Doig's branch and bound; from memory.
/// </remarks>
internal sealed class IntegerProgram
{
    /// <summary>Cells of the table that are worked on in all: some tens of milliseconds.</summary>
    private const long MostWork = 60_000_000;

    private const double Near = 1e-7;

    /// <summary>What is left for each number that is tried without being sure of the one before.</summary>
    private const long WorkForOne = 4_000_000;

    private const int MostTries = 60;

    private readonly List<Row> _rows = [];
    private long _work;
    private int _tries;

    /// <summary>A bound on a sum.</summary>
    private sealed record Row(IReadOnlyDictionary<int, long> Of, long Most);

    /// <summary>How many variables there are.</summary>
    public int Variables { get; private set; }

    /// <summary>A new variable.</summary>
    public int Add() => Variables++;

    /// <summary>Σ a·x ≤ most.</summary>
    /// <param name="most">0 or more, so that nothing at all is always allowed.</param>
    /// <remarks>What all numbers can be divided by divides the bound, rounded down: no whole numbers are lost by it.</remarks>
    public void AtMost(IReadOnlyDictionary<int, long> sum, long most)
    {
        var common = sum.Values.Aggregate(0L, (a, b) => (long)BigInteger.GreatestCommonDivisor(a, b));
        _rows.Add(common > 1 ? new Row(sum.ToDictionary(a => a.Key, a => a.Value / common), most / common) : new Row(sum, most));
    }

    /// <summary>The largest whole number that a variable can have.</summary>
    /// <returns>Null where nothing limits it; and whether it is the largest for certain, otherwise at least as much can be had.</returns>
    public (long? Most, bool IsExact) Largest(int variable)
    {
        if (Solve([], variable) is not { } relaxed)
            return (0, true);
        if (double.IsPositiveInfinity(relaxed[variable]))
            return (null, true);
        var isExact = true;
        for (var wanted = (long)Math.Floor(relaxed[variable] + Near); wanted > 0; wanted--)
        {
            if (Solve([Below(variable, wanted)], variable) is { } x && Repaired(x, variable, wanted))
                return (wanted, isExact);
            var (found, isSure) = Reach(variable, wanted, []);
            if (found)
                return (wanted, isExact);
            // Where there is no time left to be sure, fewer are tried: then it is a bound from below.
            isExact &= isSure;
            if (!isSure)
                _work = Math.Min(_work, MostWork - WorkForOne);
            if (_tries++ > MostTries)
                return (0, false);
        }
        return (0, isExact);
    }

    /// <summary>Whether whole numbers near some in fractions are allowed: rounded down, then what is missing is added where there is
    /// room, or made room for by one exchange.</summary>
    private bool Repaired(double[] relaxed, int variable, long wanted)
    {
        var x = relaxed.Select(v => (long)Math.Floor(v + Near)).ToArray();
        x[variable] = wanted;
        var repair = new Repair(_rows, x);
        return repair.Run() && IsAllowed(x);
    }

    /// <summary>Whether whole numbers give the variable this value; and whether that is sure.</summary>
    private (bool Found, bool IsSure) Reach(int variable, long wanted, List<Row> branches)
    {
        if (_work >= MostWork)
            return (false, false);
        var rows = branches.Append(Below(variable, wanted)).ToList();
        if (Solve(rows, variable) is not { } x || x[variable] < wanted - Near)
            return (false, _work < MostWork);
        var split = -1;
        for (var i = 0; i < Variables; i++)
            if (FractionOf(x[i]) > Near && (split < 0 || FractionOf(x[i]) > FractionOf(x[split])))
                split = i;
        if (split < 0)
            return IsAllowed([.. x.Select(v => (long)Math.Round(v))]) ? (true, true) : (false, false);
        var below = (long)Math.Floor(x[split]);
        var (found, isSure) = Reach(variable, wanted, [.. branches, Above(split, below + 1)]);
        if (found)
            return (true, true);
        var (other, sure) = Reach(variable, wanted, [.. branches, Below(split, below)]);
        return (other, isSure && sure);
    }

    private static Row Below(int variable, long most) => new(new Dictionary<int, long> { [variable] = 1 }, most);

    private static Row Above(int variable, long least) => new(new Dictionary<int, long> { [variable] = -1 }, -least);

    private static double FractionOf(double x) => Math.Abs(x - Math.Round(x));

    private bool IsAllowed(long[] x)
    {
        foreach (var row in _rows)
        {
            var sum = (Int128)0;
            foreach (var (i, a) in row.Of)
                sum += (Int128)a * x[i];
            if (sum > row.Most)
                return false;
        }
        return true;
    }

    /// <summary>The best in fractions, infinite where nothing limits it; null where nothing is allowed.</summary>
    private double[]? Solve(List<Row> more, int variable)
    {
        var table = new Table([.. _rows, .. more], Variables, variable);
        if (!table.Begin(ref _work, MostWork))
            return null;
        var isLimited = table.Improve(ref _work, MostWork);
        var x = table.Values();
        if (!isLimited)
            x[variable] = double.PositiveInfinity;
        return x;
    }

    /// <summary>Adds what is missing of rounded numbers.</summary>
    private sealed class Repair
    {
        private const int MostSteps = 4_000;

        private readonly List<Row> _rows;
        private readonly long[] _x;
        private readonly long[] _left;
        private readonly List<(int Row, long A)>[] _of;

        public Repair(List<Row> rows, long[] x)
        {
            (_rows, _x) = (rows, x);
            _of = [.. x.Select(_ => new List<(int, long)>())];
            _left = [.. rows.Select(r => r.Most)];
            foreach (var (r, row) in rows.Index())
                foreach (var (i, a) in row.Of)
                {
                    _of[i].Add((r, a));
                    _left[r] -= a * x[i];
                }
        }

        /// <summary>Whether nothing is missing in the end.</summary>
        public bool Run()
        {
            for (var step = 0; step < MostSteps; step++)
            {
                // What takes most at once is placed first, where it leaves least; small things fill what is left over.
                var missing = Enumerable.Range(0, _left.Length).Where(r => _left[r] < 0).OrderByDescending(Largest).FirstOrDefault(-1);
                if (missing < 0)
                    return true;
                var ways = _rows[missing].Of.Where(a => a.Value < 0).Select(a => a.Key).ToList();
                if (ways.Where(HasRoom).OrderBy(Leaves).FirstOrDefault(-1) is >= 0 and var way)
                    Add(way, 1);
                else if (!ways.Exists(Exchanged))
                    return false;
            }
            return false;
        }

        /// <summary>Whether one more of a variable breaks no row that it takes from.</summary>
        private bool HasRoom(int variable) => _of[variable].TrueForAll(r => r.A <= 0 || _left[r.Row] >= r.A);

        /// <summary>The most that one way to fill a row takes of anything.</summary>
        private long Largest(int row) =>
            _rows[row].Of.Where(a => a.Value < 0).SelectMany(a => _of[a.Key]).Select(r => r.A).DefaultIfEmpty(0).Max();

        /// <summary>What one more of a variable leaves of what it takes from.</summary>
        private long Leaves(int variable) => _of[variable].Where(r => r.A > 0).Sum(r => _left[r.Row] - r.A);

        /// <summary>Whether one of another that stands in the way can go elsewhere.</summary>
        private bool Exchanged(int wanted)
        {
            foreach (var (row, _) in _of[wanted].Where(r => r.A > 0 && _left[r.Row] < r.A).Take(1))
                foreach (var (other, a) in _rows[row].Of)
                {
                    if (a <= 0 || _x[other] == 0 || other == wanted)
                        continue;
                    Add(other, -1);
                    if (HasRoom(wanted))
                    {
                        Add(wanted, 1);
                        var lost = Array.FindIndex(_left, l => l < 0 && _of[other].Exists(r => r.A < 0 && _left[r.Row] == l));
                        var elsewhere =
                            lost < 0
                                ? -2
                                : _rows[lost].Of.Where(w => w.Value < 0 && w.Key != other).Select(w => w.Key).FirstOrDefault(HasRoom, -1);
                        if (elsewhere >= 0)
                            Add(elsewhere, 1);
                        if (elsewhere != -1)
                            return true;
                        Add(wanted, -1);
                    }
                    Add(other, 1);
                }
            return false;
        }

        private void Add(int variable, long by)
        {
            _x[variable] += by;
            foreach (var (row, a) in _of[variable])
                _left[row] -= a * by;
        }
    }

    /// <summary>The table of the simplex method: a row a bound, then what is maximised, then what is missing to be allowed at
    /// all.</summary>
    private sealed class Table
    {
        private readonly double[][] _table;
        private readonly int[] _basis;
        private readonly int _variables;
        private readonly int _artificial;
        private int _costs;

        public Table(List<Row> rows, int variables, int wanted)
        {
            var height = rows.Count;
            (_variables, _artificial, _costs) = (variables, variables + height, height);
            _basis = [.. Enumerable.Range(variables, height)];
            _table = [.. Enumerable.Range(0, height + 2).Select(_ => new double[variables + height + 2])];
            for (var r = 0; r < height; r++)
            {
                foreach (var (i, a) in rows[r].Of)
                    _table[r][i] = a;
                _table[r][variables + r] = 1;
                _table[r][_artificial] = -1;
                _table[r][^1] = rows[r].Most;
            }
            _table[height][wanted] = -1;
            _table[height + 1][_artificial] = 1;
        }

        private int Height => _basis.Length;

        /// <summary>Finds something that is allowed.</summary>
        /// <returns>False where nothing is.</returns>
        public bool Begin(ref long work, long most)
        {
            if (Height == 0)
                return true;
            var lowest = Enumerable.Range(0, Height).MinBy(r => _table[r][^1]);
            var isAllowed = true;
            if (_table[lowest][^1] < 0)
            {
                work += Pivot(lowest, _artificial);
                _costs = Height + 1;
                Improve(ref work, most);
                isAllowed = Math.Abs(_table[Height + 1][^1]) < Near;
                if (Array.IndexOf(_basis, _artificial) is >= 0 and var row)
                    for (var i = 0; i < _artificial; i++)
                        if (Math.Abs(_table[row][i]) > Near)
                        {
                            work += Pivot(row, i);
                            break;
                        }
                _costs = Height;
            }
            foreach (var row in _table)
                row[_artificial] = 0;
            return isAllowed;
        }

        /// <summary>Goes on while something gets better.</summary>
        /// <returns>False where nothing limits it.</returns>
        public bool Improve(ref long work, long most)
        {
            var still = 0;
            while (work < most && Entering(still > 20) is >= 0 and var enters)
            {
                if (Leaving(enters) is not (>= 0 and var leaves))
                    return false;
                still = _table[leaves][^1] < Near ? still + 1 : 0;
                work += Pivot(leaves, enters);
            }
            return true;
        }

        public double[] Values()
        {
            var x = new double[_variables];
            for (var r = 0; r < Height; r++)
                if (_basis[r] < _variables)
                    x[_basis[r]] = _table[r][^1];
            return x;
        }

        private int Entering(bool first)
        {
            var (best, at, costs) = (-1e-9, -1, _table[_costs]);
            for (var i = 0; i < costs.Length - 1; i++)
            {
                if (costs[i] >= best)
                    continue;
                (best, at) = (costs[i], i);
                if (first)
                    break;
            }
            return at;
        }

        private int Leaving(int enters)
        {
            var (least, at) = (double.MaxValue, -1);
            for (var r = 0; r < Height; r++)
            {
                if (_table[r][enters] <= 1e-9)
                    continue;
                var ratio = _table[r][^1] / _table[r][enters];
                if (ratio < least - 1e-12 || (ratio < least + 1e-12 && at >= 0 && _basis[r] < _basis[at]))
                    (least, at) = (ratio, r);
            }
            return at;
        }

        /// <returns>How many cells were worked on.</returns>
        private long Pivot(int row, int column)
        {
            var work = (long)_artificial;
            var pivot = _table[row];
            var by = pivot[column];
            var filled = new List<int>();
            for (var i = 0; i < pivot.Length; i++)
                if (pivot[i] != 0)
                {
                    pivot[i] /= by;
                    filled.Add(i);
                }
            foreach (var other in _table)
            {
                if (other == pivot || other[column] == 0)
                    continue;
                var factor = other[column];
                foreach (var i in filled)
                    other[i] -= factor * pivot[i];
                other[column] = 0;
                work += filled.Count;
            }
            _basis[row] = column;
            return work;
        }
    }
}
