using System.Diagnostics;
using Google.OrTools.Sat;

namespace Unicus.Bench;

/// <summary>Base and surcharges read back from prices, against the time allowed and against a general solver.</summary>
internal static class ReadingRatios
{
    private const int Matrices = 20;
    private const int SecondsEach = 20;

    /// <summary>After so many the methods are compiled as they stay in a shop that is open.</summary>
    private const int Warming = 5;

    /// <param name="withSolver">Whether the solver is asked as well, which takes some minutes.</param>
    public static void Run(bool withSolver)
    {
        var large = Planted([10, 10, 10, 5, 2], 0.2, 7);
        for (var i = 0; i < Warming; i++)
            PriceReading.Of(large.Matrix());
        var clock = Stopwatch.StartNew();
        PriceReading.Of(large.Matrix());
        var took = clock.Elapsed.TotalMilliseconds;
        Report.Row("read 10,000 prices over five options back, ms", took, "limit", 1000, took / 1000, "at most 1");
        if (!withSolver)
            return;
        var (ours, theirs, worse) = (0, 0, 0);
        for (var i = 0; i < Matrices; i++)
        {
            var matrix = Planted([6, 5, 4], 0.25, 100 + i).Matrix();
            var (left, other) = (LeftOver(matrix), Solved(matrix));
            (ours, theirs) = (ours + left, theirs + other);
            worse += left > other ? 1 : 0;
        }
        Report.Row(
            $"own prices left over on {Matrices} matrices of 6 × 5 × 4 with noise ({worse} with more than the solver)",
            ours,
            $"Google.OrTools CP-SAT after {SecondsEach} s each",
            theirs,
            (double)ours / Math.Max(1, theirs),
            "at most 1"
        );
    }

    private static int LeftOver(VariantMatrix typed)
    {
        var structure = PriceReading.Of(typed)!;
        var bare = new Product(ProductCode.Of("P"), "P") { Options = [.. typed.Options] };
        var made = structure.On(bare, Currency.Euro).Matrix();
        return typed.Offered.Count(v => made.Find(v.Values)!.Price.Figure != v.Price.Figure);
    }

    /// <summary>The fewest prices that no base with amounts on values comes to, as far as the solver gets.</summary>
    private static int Solved(VariantMatrix matrix)
    {
        var model = new CpModel();
        var cells = matrix.Offered.Select(v => (v.Values, Price: MinorUnits.Of(v.Price.Figure!.Value))).ToList();
        var most = cells.Max(c => c.Price);
        var basis = model.NewIntVar(-2 * most, 3 * most, "base");
        var adds = matrix
            .Options.SelectMany(o => o.Values.Select((v, i) => (o.Key, Value: v.Key, First: i == 0)))
            .ToDictionary(v => (v.Key, v.Value), v => v.First ? model.NewConstant(0) : model.NewIntVar(-most, most, "adds"));
        var fits = new List<BoolVar>();
        foreach (var (values, price) in cells)
        {
            var fit = model.NewBoolVar("fits");
            var sum = LinearExpr.Sum(values.Pairs.Select(p => adds[(p.Option, p.Value)]).Append(basis));
            model.Add(sum == price).OnlyEnforceIf(fit);
            fits.Add(fit);
        }
        model.Maximize(LinearExpr.Sum(fits));
        var solver = new CpSolver { StringParameters = $"max_time_in_seconds:{SecondsEach},num_workers:2" };
        solver.Solve(model);
        return cells.Count - (int)Math.Round(solver.ObjectiveValue);
    }

    private static Product Planted(int[] sizes, double noise, int seed)
    {
        var random = new Random(seed);
        var options = sizes.Select(
            (size, o) =>
                new Option(Key.Of($"o{o}"), $"o{o}", OptionRole.Variant)
                {
                    Values = [.. Enumerable.Range(0, size).Select(v => new OptionValue(Key.Of($"v{v}"), $"v{v}"))],
                }
        );
        var bare = new Product(ProductCode.Of("P"), "P") { Options = [.. options] };
        var adds = sizes.Select(size => Enumerable.Range(0, size).Select(v => v == 0 ? 0 : random.Next(-300, 2500)).ToArray()).ToArray();
        var variants = bare.Matrix()
            .Offered.Select(v =>
            {
                var price = 10_000 + v.Values.Pairs.Select((p, i) => adds[i][int.Parse(p.Value.Text![1..])]).Sum();
                if (random.NextDouble() < noise)
                    price += random.Next(1, 900);
                return new Variant(v.Values) { Own = Figures.None with { Price = new Money(price / 100m, Currency.Euro) } };
            });
        return bare with { Variants = [.. variants] };
    }
}
