namespace Unicus.Core.Assembling.Counts;

using System.Numerics;

/// <summary>The table of the simplex method: a row for each variable that is not 0, a column for each that is; last what is maximised.
/// </summary>
/// <remarks>A bound that is added later is restored by the dual method, from where the table stands. Textbook methods; from
/// memory.</remarks>
internal sealed class SimplexTable
{
    private const double Tiny = 1e-9;

    private readonly int _variables;
    private readonly int[] _columns;
    private readonly List<int> _basis;

    /// <summary>Where each variable stands: its column, or the complement of its row.</summary>
    private readonly List<int> _places;
    private readonly List<double[]> _table;
    private readonly double[] _costs;

    /// <param name="rows">Bounds of 0 or more.</param>
    /// <param name="variables">How many there are.</param>
    /// <param name="wanted">What is maximised.</param>
    public SimplexTable(IReadOnlyList<ProgramRow> rows, int variables, int wanted)
    {
        _variables = variables;
        _columns = [.. Enumerable.Range(0, variables)];
        _places = [.. _columns];
        _basis = [];
        _table = [];
        _costs = new double[variables + 1];
        _costs[wanted] = -1;
        foreach (var row in rows)
            Add(row);
    }

    private SimplexTable(SimplexTable from)
    {
        (_variables, Work) = (from._variables, from.Work);
        (_columns, _basis, _places) = ([.. from._columns], [.. from._basis], [.. from._places]);
        _table = from._table.ConvertAll(r => (double[])r.Clone());
        _costs = (double[])from._costs.Clone();
    }

    /// <summary>How many cells were worked on.</summary>
    public long Work { get; set; }

    /// <summary>The value of what is maximised.</summary>
    public double Best => _costs[^1];

    /// <summary>Another that goes its own way from here.</summary>
    public SimplexTable Copy() => new(this);

    /// <summary>The value of each variable.</summary>
    public double[] Values()
    {
        var x = new double[_variables];
        for (var r = 0; r < _basis.Count; r++)
            if (_basis[r] < _variables)
                x[_basis[r]] = _table[r][^1];
        return x;
    }

    /// <summary>Adds a bound, in terms of the variables that are 0 now.</summary>
    public void Add(ProgramRow row)
    {
        var added = new double[_columns.Length + 1];
        added[^1] = row.Most;
        foreach (var (variable, a) in row.Of)
            if (_places[variable] is >= 0 and var column)
                added[column] += a;
            else
                Subtract(added, _table[~_places[variable]], a);
        _basis.Add(_places.Count);
        _places.Add(~_table.Count);
        _table.Add(added);
    }

    /// <summary>Goes on while something gets better.</summary>
    /// <returns>False where nothing limits it.</returns>
    public bool Improve(long mostWork)
    {
        var still = 0;
        while (Work < mostWork && Entering(isFirst: still > 20) is >= 0 and var column)
        {
            if (Leaving(column) is not (>= 0 and var row))
                return false;
            still = _table[row][^1] < Tiny ? still + 1 : 0;
            Exchange(row, column);
        }
        return true;
    }

    /// <summary>Makes what was added hold, at the least loss.</summary>
    /// <returns>False where it cannot hold, or there is no time.</returns>
    public bool Restore(long mostWork)
    {
        while (Work < mostWork)
        {
            var row = -1;
            for (var r = 0; r < _table.Count; r++)
                if (_table[r][^1] < -Tiny && (row < 0 || _table[r][^1] < _table[row][^1]))
                    row = r;
            if (row < 0)
                return true;
            var (least, column) = (double.MaxValue, -1);
            for (var c = 0; c < _columns.Length; c++)
            {
                if (_table[row][c] >= -Tiny)
                    continue;
                var ratio = _costs[c] / -_table[row][c];
                if (ratio < least)
                    (least, column) = (ratio, c);
            }
            if (column < 0)
                return false;
            Exchange(row, column);
        }
        return false;
    }

    private int Entering(bool isFirst)
    {
        var (best, at) = (-Tiny, -1);
        for (var c = 0; c < _columns.Length; c++)
        {
            if (_costs[c] >= best || (isFirst && at >= 0 && _columns[c] > _columns[at]))
                continue;
            at = c;
            if (!isFirst)
                best = _costs[c];
        }
        return at;
    }

    private int Leaving(int column)
    {
        var (least, at) = (double.MaxValue, -1);
        for (var r = 0; r < _table.Count; r++)
        {
            if (_table[r][column] <= Tiny)
                continue;
            var ratio = _table[r][^1] / _table[r][column];
            if (ratio < least - 1e-12 || (ratio < least + 1e-12 && at >= 0 && _basis[r] < _basis[at]))
                (least, at) = (ratio, r);
        }
        return at;
    }

    /// <summary>The variable of a row becomes 0, that of a column takes its place.</summary>
    private void Exchange(int row, int column)
    {
        var pivot = _table[row];
        var by = pivot[column];
        pivot[column] = 1;
        for (var c = 0; c < pivot.Length; c++)
            pivot[c] /= by;
        foreach (var other in _table)
            if (other != pivot)
                Clear(other, pivot, column);
        Clear(_costs, pivot, column);
        (_basis[row], _columns[column]) = (_columns[column], _basis[row]);
        (_places[_basis[row]], _places[_columns[column]]) = (~row, column);
    }

    private void Clear(double[] other, double[] pivot, int column)
    {
        var factor = other[column];
        if (factor == 0)
            return;
        other[column] = 0;
        Subtract(other, pivot, factor);
    }

    /// <summary>a − factor·b, several numbers at once.</summary>
    private void Subtract(double[] from, double[] row, double factor)
    {
        Work += row.Length;
        var (c, wide) = (0, Vector<double>.Count);
        var factors = new Vector<double>(factor);
        for (; c <= row.Length - wide; c += wide)
            (new Vector<double>(from, c) - factors * new Vector<double>(row, c)).CopyTo(from, c);
        for (; c < row.Length; c++)
            from[c] -= factor * row[c];
    }
}
