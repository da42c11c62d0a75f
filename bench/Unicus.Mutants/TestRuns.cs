using System.Diagnostics;

namespace Unicus.Mutants;

/// <summary>A class of tests: how long it takes by itself without a fault, and which mutants it comes past.</summary>
internal sealed record TestClass(string Name, TimeSpan Takes, IReadOnlySet<int> Meets);

/// <summary>How a mutant ended.</summary>
internal enum End
{
    /// <summary>No test comes past it.</summary>
    NotCovered,

    /// <summary>A test failed.</summary>
    Killed,

    /// <summary>Tests did not come to an end.</summary>
    TimedOut,

    /// <summary>Every test that was asked passed.</summary>
    Survived,
}

/// <summary>Runs classes of tests, each run a process of its own.</summary>
internal sealed class TestRuns(string assembly, string work)
{
    /// <summary>Classes that together take no longer are one run.</summary>
    private static readonly TimeSpan OneRun = TimeSpan.FromSeconds(6);

    /// <summary>A mutant is asked of tests for so long; one that few classes come past is asked of all of them.</summary>
    private static readonly TimeSpan MostForOne = TimeSpan.FromSeconds(120);

    private static readonly TimeSpan Start = TimeSpan.FromSeconds(20);

    /// <summary>Every class that passes without a fault.</summary>
    public async Task<IReadOnlyList<TestClass>> Classes(int atOnce)
    {
        var (_, listed) = await Commands.Run(work, "dotnet", $"vstest {assembly} --ListTests");
        // “    Namespace.Class.Method(arguments)”
        var names = listed
            .Split('\n')
            .Where(line => line.StartsWith("    Unicus.", StringComparison.Ordinal))
            .Select(line => line.Trim().Split('(')[0])
            .Select(name => name[..name.LastIndexOf('.')])
            .Distinct()
            .Order(StringComparer.Ordinal);
        var classes = new List<TestClass>();
        await Parallel.ForEachAsync(names, new ParallelOptions { MaxDegreeOfParallelism = atOnce }, async (name, _) =>
        {
            var notes = Path.Combine(work, name + ".notes");
            var watch = Stopwatch.StartNew();
            var code = await Run([name], null, notes, null);
            if (code != 0)
                Console.WriteLine($"left out, since it fails in the copy: {name}");
            else
                lock (classes)
                    classes.Add(new TestClass(name, watch.Elapsed, Met(notes)));
        });
        return [.. classes.OrderBy(c => c.Takes)];
    }

    /// <summary>Tries the classes that come past the mutant, quick ones first, until one notices.</summary>
    public async Task<End> Try(int mutant, IReadOnlyList<TestClass> classes)
    {
        var open = new Queue<TestClass>(classes.Where(c => c.Meets.Contains(mutant)));
        if (open.Count == 0)
            return End.NotCovered;
        var spent = TimeSpan.Zero;
        while (open.Count > 0 && spent < MostForOne)
        {
            var now = new List<TestClass> { open.Dequeue() };
            while (open.Count > 0 && now.Aggregate(open.Peek().Takes, (sum, c) => sum + c.Takes - TimeSpan.FromSeconds(1.5)) < OneRun)
                now.Add(open.Dequeue());
            spent += now.Aggregate(TimeSpan.Zero, (sum, c) => sum + c.Takes);
            var most = Start + 3 * now.Aggregate(TimeSpan.Zero, (sum, c) => sum + c.Takes);
            var code = await Run([.. now.Select(c => c.Name)], mutant, null, most);
            if (code != 0)
                return code is null ? End.TimedOut : End.Killed;
        }
        return End.Survived;
    }

    /// <summary>Tests that use no part of the core in which a mutant stands write nothing.</summary>
    private static HashSet<int> Met(string notes) => File.Exists(notes) ? File.ReadLines(notes).Select(int.Parse).ToHashSet() : [];

    private async Task<int?> Run(IReadOnlyList<string> classes, int? mutant, string? notes, TimeSpan? most)
    {
        var environment = new Dictionary<string, string> { ["DOTNET_NOLOGO"] = "1" };
        if (mutant is { } number)
            environment["UNICUS_MUTANT"] = $"{number}";
        if (notes is not null)
            environment["UNICUS_MUTANT_NOTES"] = notes;
        var filter = string.Join('|', classes.Select(c => $"FullyQualifiedName~{c}."));
        var arguments = $"vstest {assembly} \"--TestCaseFilter:{filter}\"";
        return (await Commands.Run(work, "dotnet", arguments, environment, most)).Code;
    }
}
