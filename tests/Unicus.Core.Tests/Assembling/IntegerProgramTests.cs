using CsCheck;
using Google.OrTools.Sat;

namespace Unicus.CoreTests;

/// <summary>The integer program behind "how many over all mixes", by itself.</summary>
public class IntegerProgramTests
{
    /// <summary>Random rows of the kinds that sets make, against CP-SAT of Google.OrTools.</summary>
    [Fact]
    public void The_largest_is_that_of_another_solver() =>
        Gen.Int.Sample(
            seed =>
            {
                var random = new Random(seed);
                var variables = 2 + random.Next(8);
                var rows = new List<(Dictionary<int, long> Sum, long Most)>();
                // Resources, and one variable that is covered by the others.
                for (var r = 0; r < 1 + random.Next(4); r++)
                    rows.Add((Enumerable.Range(1, variables - 1).ToDictionary(i => i, _ => (long)random.Next(4)), random.Next(30)));
                var cover = Enumerable.Range(1, variables - 1).ToDictionary(i => i, _ => -1L);
                cover[0] = 1 + random.Next(2);
                rows.Add((cover, 0));
                rows.Add((Enumerable.Range(1, variables - 1).ToDictionary(i => i, _ => 1L), 200));
                var own = new IntegerProgram();
                for (var i = 0; i < variables; i++)
                    own.Add();
                foreach (var (sum, most) in rows)
                    own.AtMost(sum, most);
                var (found, isExact) = own.Largest(0);
                Assert.True(isExact);
                Assert.Equal(Optimum(variables, rows), found);
            },
            iter: 500
        );

    /// <summary>Up to 12 slots of 40 candidates that share goods in 1 to 3 units each. A few that fill every last unit say that they are
    /// a bound; then one more would be the optimum.</summary>
    [Fact]
    public void Slots_whose_candidates_overlap_are_exact_too()
    {
        var bounds = 0;
        Gen.Int.Sample(
            seed =>
            {
                var random = new Random(seed);
                var (slots, candidates) = random.Next(2) == 0 ? (6, 30) : (12, 40);
                var goods = slots * candidates / 3;
                var rows = new List<(Dictionary<int, long> Sum, long Most)>();
                var taken = Enumerable.Range(0, goods).Select(_ => new Dictionary<int, long>()).ToList();
                var own = new IntegerProgram();
                var sets = own.Add();
                for (var s = 0; s < slots; s++)
                {
                    var cover = new Dictionary<int, long> { [sets] = 1 };
                    foreach (var g in Enumerable.Range(0, goods).OrderBy(_ => random.Next()).Take(candidates))
                    {
                        var way = own.Add();
                        (cover[way], taken[g][way]) = (-1, 1 + s % 3);
                    }
                    rows.Add((cover, 0));
                }
                rows.AddRange(taken.Where(t => t.Count > 0).Select(t => (t, (long)random.Next(40))));
                foreach (var (sum, most) in rows)
                    own.AtMost(sum, most);
                var ((found, isExact), optimum) = (own.Largest(sets), Optimum(own.Variables, rows));
                Assert.InRange(found!.Value, isExact ? optimum : optimum - 1, optimum);
                if (!isExact)
                    Interlocked.Increment(ref bounds);
            },
            iter: 100
        );
        Assert.InRange(bounds, 0, 5);
    }

    [Fact]
    public void What_nothing_limits_has_no_largest()
    {
        var program = new IntegerProgram();
        var (free, held) = (program.Add(), program.Add());
        program.AtMost(new Dictionary<int, long> { [held] = 1 }, 5);
        Assert.Equal((null, true), program.Largest(free));
        Assert.Equal((5, true), program.Largest(held));
    }

    [Fact]
    public void Halves_are_not_sold()
    {
        // Two units each of three goods with an odd number of them: 8 + 5 + 5, where fractions say 19.5.
        var program = new IntegerProgram();
        var sets = program.Add();
        var cover = new Dictionary<int, long> { [sets] = 1 };
        foreach (var units in new[] { 17, 11, 11 })
        {
            var way = program.Add();
            cover[way] = -1;
            program.AtMost(new Dictionary<int, long> { [way] = 2 }, units);
        }
        program.AtMost(cover, 0);
        Assert.Equal((18, true), program.Largest(sets));
    }

    private static long Optimum(int variables, List<(Dictionary<int, long> Sum, long Most)> rows)
    {
        var model = new CpModel();
        var x = Enumerable.Range(0, variables).Select(i => model.NewIntVar(0, 1_000, $"x{i}")).ToList();
        foreach (var (sum, most) in rows)
            model.Add(LinearExpr.WeightedSum(sum.Keys.Select(k => x[k]), sum.Values) <= most);
        model.Maximize(x[0]);
        var solver = new CpSolver { StringParameters = "num_workers:1" };
        Assert.Equal(CpSolverStatus.Optimal, solver.Solve(model));
        return (long)Math.Round(solver.ObjectiveValue);
    }
}
