namespace Unicus.Core.Assembling.Counts;

/// <summary>Looks near some fractions for whole numbers that hold every row.</summary>
/// <remarks>
/// From the fractions rounded down, a row that does not hold is mended by one more or one less of a variable, whatever breaks least
/// elsewhere, but none that was moved just now; rows that stay broken weigh more and more. A search with weights on what is broken, as
/// for clauses: textbook method, from memory. It draws from fixed seeds, so the same question has the same answer.
/// </remarks>
internal sealed class WholeNumbers
{
    /// <summary>After so many steps it begins anew, with other draws.</summary>
    private const int StepsOfOneStart = 50_000;

    private readonly Term[][] _rows;
    private readonly long[] _most;
    private readonly Term[][] _of;
    private readonly long[] _x;
    private readonly long[] _left;
    private readonly long[] _weights;
    private readonly int[] _moved;
    private readonly List<int> _broken = [];
    private readonly int[] _brokenAt;

    /// <summary>A number times a variable of a row, or times a row's variable.</summary>
    private readonly record struct Term(int At, long Factor);

    public WholeNumbers(IReadOnlyList<ProgramRow> rows, int variables)
    {
        _rows = [.. rows.Select(r => r.Of.Select(a => new Term(a.Key, a.Value)).ToArray())];
        _most = [.. rows.Select(r => r.Most)];
        var of = Enumerable.Range(0, variables).Select(_ => new List<Term>()).ToArray();
        foreach (var (r, row) in _rows.Index())
            foreach (var term in row)
                of[term.At].Add(new Term(r, term.Factor));
        _of = [.. of.Select(o => o.ToArray())];
        (_x, _moved) = (new long[variables], new int[variables]);
        (_left, _weights, _brokenAt) = (new long[_rows.Length], new long[_rows.Length], new int[_rows.Length]);
    }

    /// <summary>Whether whole numbers were found that hold every row and give a variable a value.</summary>
    /// <param name="near">What the relaxation found, a value a variable.</param>
    /// <param name="variable">The place of the variable.</param>
    /// <param name="wanted">What it is to be.</param>
    /// <param name="steps">How often something is mended at most.</param>
    public bool Found(double[] near, int variable, long wanted, int steps)
    {
        Begin(near, variable, wanted);
        var random = new Random(1);
        for (var step = 1; step <= steps; step++)
        {
            if (_broken.Count == 0)
                return IsAllowed();
            if (step % StepsOfOneStart == 0)
            {
                Begin(near, variable, wanted);
                random = new Random(step);
            }
            var row = _broken[random.Next(_broken.Count)];
            if (!Mend(row, variable, step, random.Next(5, 25)))
                return false;
        }
        return _broken.Count == 0 && IsAllowed();
    }

    /// <summary>One more or one less of the variable of a row by which least is broken elsewhere, none that was moved just now.</summary>
    /// <returns>False where nothing can mend the row.</returns>
    private bool Mend(int row, int held, int step, int rest)
    {
        var (best, at, up) = (long.MaxValue, -1, false);
        foreach (var (i, a) in _rows[row])
        {
            if (i == held || a == 0 || (a > 0 && _x[i] == 0))
                continue;
            var worse = Worse(i, a < 0 ? 1 : -1);
            if (_moved[i] > 0 && step - _moved[i] < rest)
                worse += 1_000_000_000;
            if (worse < best || (worse == best && _moved[i] < _moved[at]))
                (best, at, up) = (worse, i, a < 0);
        }
        if (at < 0)
            return false;
        if (best >= 0)
            _weights[row]++;
        Move(at, up ? 1 : -1);
        _moved[at] = step;
        return true;
    }

    private void Begin(double[] near, int variable, long wanted)
    {
        for (var i = 0; i < _x.Length; i++)
            _x[i] = (long)Math.Floor(near[i] + 1e-7);
        _x[variable] = wanted;
        Array.Fill(_weights, 1);
        Array.Fill(_moved, 0);
        Array.Fill(_brokenAt, -1);
        _broken.Clear();
        for (var r = 0; r < _rows.Length; r++)
        {
            _left[r] = _most[r];
            foreach (var (i, a) in _rows[r])
                _left[r] -= a * _x[i];
            Note(r);
        }
    }

    /// <summary>By how much more is broken after a step, weighed.</summary>
    private long Worse(int variable, int by)
    {
        var worse = 0L;
        foreach (var (r, a) in _of[variable])
            worse += _weights[r] * (Math.Max(0, a * by - _left[r]) - Math.Max(0, -_left[r]));
        return worse;
    }

    private void Move(int variable, int by)
    {
        _x[variable] += by;
        foreach (var (r, a) in _of[variable])
        {
            _left[r] -= a * by;
            Note(r);
        }
    }

    /// <summary>Keeps the list of broken rows.</summary>
    private void Note(int row)
    {
        var isListed = _brokenAt[row] >= 0;
        if (isListed == _left[row] < 0)
            return;
        if (!isListed)
        {
            _brokenAt[row] = _broken.Count;
            _broken.Add(row);
            return;
        }
        var last = _broken[^1];
        _broken[_brokenAt[row]] = last;
        _brokenAt[last] = _brokenAt[row];
        _brokenAt[row] = -1;
        _broken.RemoveAt(_broken.Count - 1);
    }

    private bool IsAllowed()
    {
        for (var r = 0; r < _rows.Length; r++)
        {
            var sum = (Int128)0;
            foreach (var (i, a) in _rows[r])
                sum += (Int128)a * _x[i];
            if (sum > _most[r])
                return false;
        }
        return true;
    }
}
