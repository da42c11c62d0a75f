namespace Unicus.Core.Assembling.Counts;

/// <summary>Maximises one variable over whole numbers of 0 or more under rows Σ a·x ≤ b.</summary>
/// <remarks>
/// The best in fractions by the simplex method is a bound from above; numbers near it are mended till they are whole and allowed
/// (<see cref="WholeNumbers"/>). Where that fails the bound is sharpened by rounded rows, then by branch and bound. What is found is
/// checked in whole numbers, so rounding can make it say "not exact" but never a number that cannot be had.
/// Textbook methods: G. B. Dantzig's simplex, V. Chvátal's rounding of rows, A. H. Land and A. G. Doig's branch and bound; from memory.
/// </remarks>
internal sealed class IntegerProgram
{
    /// <summary>Cells of the table that are worked on in all: some tens of milliseconds.</summary>
    private const long MostWork = 40_000_000;

    private const double Near = 1e-7;

    /// <summary>Rows are rounded after a division by up to so much.</summary>
    private const int MostDivisor = 8;

    private const int MostCutRounds = 6;

    private const int StepsForSure = 200_000;

    private const int StepsForOne = 4_000;

    private const int MostTries = 60;

    private readonly List<ProgramRow> _rows = [];

    /// <summary>How many variables there are.</summary>
    public int Variables { get; private set; }

    /// <summary>A new variable.</summary>
    public int Add() => Variables++;

    /// <summary>Σ a·x ≤ most.</summary>
    /// <param name="sum">The factors of the variables.</param>
    /// <param name="most">0 or more, so that nothing at all is always allowed.</param>
    /// <remarks>What all numbers can be divided by divides the bound, rounded down: no whole numbers are lost by it. A way that takes
    /// more than there is stays at 0.</remarks>
    public void AtMost(IReadOnlyDictionary<int, long> sum, long most)
    {
        IReadOnlyDictionary<int, long> fits = sum;
        if (sum.Values.All(a => a >= 0) && sum.Values.Any(a => a > most))
        {
            foreach (var (variable, _) in sum.Where(a => a.Value > most))
                _rows.Add(ProgramRow.AtMost(variable, 0));
            fits = sum.Where(a => a.Value <= most).ToDictionary();
        }
        var common = fits.Values.Aggregate(0L, CommonDivisor);
        if (fits.Count > 0)
            _rows.Add(common > 1 ? new(fits.ToDictionary(a => a.Key, a => a.Value / common), most / common) : new(fits, most));
    }

    private static long CommonDivisor(long a, long b)
    {
        while (b != 0)
            (a, b) = (b, a % b);
        return Math.Abs(a);
    }

    /// <summary>The largest whole number that a variable can have.</summary>
    /// <returns>Null where nothing limits it; and whether it is the largest for certain, otherwise at least as much can be had.</returns>
    public (long? Most, bool IsExact) Largest(int variable)
    {
        var table = new SimplexTable(_rows, Variables, variable);
        if (!table.Improve(MostWork))
            return (null, true);
        var isExact = table.Work < MostWork;
        var numbers = new WholeNumbers(_rows, Variables);
        var (tries, rounds) = (0, 0);
        for (var wanted = Whole(table.Best); wanted > 0; wanted--)
        {
            if (numbers.Found(table.Values(), variable, wanted, isExact ? StepsForSure : StepsForOne))
                return (wanted, isExact);
            while (isExact && rounds++ < MostCutRounds && Cut(table)) { }
            if (Whole(table.Best) < wanted)
                continue;
            var bounded = table.Copy();
            bounded.Add(ProgramRow.AtMost(variable, wanted));
            switch (isExact && bounded.Restore(MostWork) ? Reach(bounded, variable, wanted, numbers) : null)
            {
                case true:
                    return (wanted, true);
                case null:
                    // Where there is no time left to be sure, fewer are tried: then it is a bound from below.
                    isExact = false;
                    break;
            }
            if (tries++ > MostTries)
                return (0, false);
        }
        return (0, isExact);
    }

    private static long Whole(double x) => (long)Math.Floor(x + Near);

    /// <summary>Adds the rounded rows that the best in fractions breaks.</summary>
    /// <returns>False where it breaks none.</returns>
    private bool Cut(SimplexTable table)
    {
        var x = table.Values();
        var cuts = _rows.Select(r => Sharpest(r, x)).OfType<ProgramRow>().ToList();
        foreach (var cut in cuts)
            table.Add(cut);
        return cuts.Count > 0 && table.Restore(MostWork);
    }

    /// <summary>Of a row divided and rounded down what is broken most; null where nothing is.</summary>
    private static ProgramRow? Sharpest(ProgramRow row, double[] x)
    {
        var (broken, sharpest) = (1e-4, (ProgramRow?)null);
        var most = Math.Min(MostDivisor, row.Of.Values.DefaultIfEmpty(0).Max());
        for (var by = 2L; by <= most; by++)
        {
            var cut = new ProgramRow(row.Of.ToDictionary(a => a.Key, a => FloorOf(a.Value, by)), FloorOf(row.Most, by));
            var over = cut.Of.Sum(a => a.Value * x[a.Key]) - cut.Most;
            if (over > broken)
                (broken, sharpest) = (over, cut);
        }
        return sharpest;
    }

    private static long FloorOf(long a, long by) => (a - ((a % by) + by) % by) / by;

    /// <summary>Whether whole numbers give the variable this value; null where there is no time to be sure.</summary>
    private static bool? Reach(SimplexTable table, int variable, long wanted, WholeNumbers numbers)
    {
        if (table.Work >= MostWork)
            return null;
        if (table.Best < wanted - Near)
            return false;
        var x = table.Values();
        var split = -1;
        for (var i = 0; i < x.Length; i++)
            if (FractionOf(x[i]) > Near && (split < 0 || FractionOf(x[i]) > FractionOf(x[split])))
                split = i;
        if (numbers.Found(x, variable, wanted, split < 0 ? 1 : 200))
            return true;
        if (split < 0)
            return null;
        var below = (long)Math.Floor(x[split]);
        var isSure = true;
        foreach (var branch in (ProgramRow[])[ProgramRow.AtLeast(split, below + 1), ProgramRow.AtMost(split, below)])
        {
            var half = table.Copy();
            half.Add(branch);
            var isAllowed = half.Restore(MostWork);
            var found =
                isAllowed ? Reach(half, variable, wanted, numbers)
                : half.Work < MostWork ? false
                : null;
            table.Work = half.Work;
            if (found == true)
                return true;
            isSure &= found is not null;
        }
        return isSure ? false : null;
    }

    private static double FractionOf(double x) => Math.Abs(x - Math.Round(x));
}
