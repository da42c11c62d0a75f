using System.Diagnostics;
using System.Text;
using System.Text.RegularExpressions;

namespace Unicus.Mutants;

/// <summary>A copy of the tree in which every mutant stands behind a switch, built once.</summary>
internal sealed partial class MutatedTree(string from, string to)
{
    /// <summary>Long laws that draw a part of their cases: what many cases find, a tenth of them finds most of the time.</summary>
    private static readonly string[] Long = ["LowestMarginTests.cs", "PriceRuleTests.cs"];

    private const int PartOfCases = 10;

    private const int LeastCases = 20;

    private const string Switch = """
        namespace Unicus.Core;

        internal static class MutantSwitch
        {
            private static readonly int Active = int.Parse(Environment.GetEnvironmentVariable("UNICUS_MUTANT") ?? "0");
            private static readonly string? Notes = Environment.GetEnvironmentVariable("UNICUS_MUTANT_NOTES");
            private static readonly bool[] Met = new bool[100_000];

            public static bool On(int number)
            {
                if (Notes is not null && !Met[number])
                    Note(number);
                return number == Active;
            }

            // At once: a host of tests does not wait for what is written at its end.
            private static void Note(int number)
            {
                lock (Met)
                {
                    if (!Met[number])
                        System.IO.File.AppendAllText(Notes!, $"{number}\n");
                    Met[number] = true;
                }
            }
        }
        """;

    private string Tests => Path.Combine(to, "tests", "Unicus.Core.Tests");

    /// <summary>The tests, as they were built.</summary>
    public string Assembly => Path.Combine(Tests, "bin", "Release", "net10.0", "Unicus.Core.Tests.dll");

    /// <summary>Copies what git knows, and lets the long laws draw fewer cases.</summary>
    public async Task Copy()
    {
        var (_, listed) = await Commands.Run(from, "git", "ls-files -c -o --exclude-standard");
        foreach (var file in listed.Split('\n', StringSplitOptions.RemoveEmptyEntries).Where(f => File.Exists(Path.Combine(from, f))))
        {
            var there = Path.Combine(to, file);
            Directory.CreateDirectory(Path.GetDirectoryName(there)!);
            File.Copy(Path.Combine(from, file), there, overwrite: true);
        }
        foreach (var file in Long.SelectMany(name => Directory.EnumerateFiles(Tests, name, SearchOption.AllDirectories)))
            await File.WriteAllTextAsync(file, Iterations().Replace(await File.ReadAllTextAsync(file), Fewer));
    }

    /// <summary>Puts the mutants in; what the compiler does not take is left out, and the rest is built again.</summary>
    /// <returns>The mutants that are in, by number from 1.</returns>
    public async Task<IReadOnlyDictionary<int, Mutant>> Build(IReadOnlyList<Mutant> wanted)
    {
        var numbered = wanted.Select((mutant, i) => (Number: i + 1, mutant)).ToDictionary(p => p.Number, p => p.mutant);
        while (true)
        {
            var places = await Write(numbered);
            var (code, said) = await Commands.Run(
                to,
                "dotnet",
                $"build {Tests} -c Release --nologo -v quiet -clp:ErrorsOnly -p:TreatWarningsAsErrors=false -p:RunAnalyzers=false"
            );
            if (code == 0)
                return numbered;
            var refused = Refused(said, places);
            if (refused.Count == 0)
                throw new InvalidOperationException(said);
            foreach (var number in refused)
                numbered.Remove(number);
        }
    }

    /// <returns>Where each mutant stands now: file, first and last character.</returns>
    private async Task<List<(string File, int From, int To, int Number)>> Write(Dictionary<int, Mutant> numbered)
    {
        await File.WriteAllTextAsync(Path.Combine(to, "src", "Unicus.Core", "MutantSwitch.cs"), Switch);
        var places = new List<(string, int, int, int)>();
        foreach (var file in Directory.EnumerateFiles(Path.Combine(from, "src", "Unicus.Core"), "*.cs", SearchOption.AllDirectories))
        {
            var name = Path.GetRelativePath(from, file);
            if (name.Contains("/obj/", StringComparison.Ordinal) || name.Contains("/bin/", StringComparison.Ordinal))
                continue;
            var text = await File.ReadAllTextAsync(file);
            var made = new StringBuilder();
            var at = 0;
            foreach (var (number, mutant) in numbered.Where(n => n.Value.File == name).OrderBy(n => n.Value.Start))
            {
                made.Append(text, at, mutant.Start - at);
                var start = made.Length;
                made.Append(mutant.Switched(number));
                places.Add((name, start, made.Length, number));
                at = mutant.End;
            }
            made.Append(text, at, text.Length - at);
            await File.WriteAllTextAsync(Path.Combine(to, name), made.ToString());
        }
        return places;
    }

    /// <summary>An error inside a mutant is its own; one beside it, such as a name that may not be assigned, or an operand whose type is
    /// another now, that of the nearest.</summary>
    private HashSet<int> Refused(string said, List<(string File, int From, int To, int Number)> places)
    {
        var refused = new HashSet<int>();
        foreach (Match error in Errors().Matches(said))
        {
            var file = Path.GetRelativePath(to, error.Groups["file"].Value);
            var text = File.ReadAllText(Path.Combine(to, file)).Split('\n');
            var (line, column) = (int.Parse(error.Groups["line"].Value), int.Parse(error.Groups["column"].Value));
            var at = text.Take(line - 1).Sum(l => l.Length + 1) + column - 1;
            var near = places.Where(p => p.File == file).OrderBy(p => Math.Max(0, Math.Max(p.From - at, at - p.To))).ToList();
            if (near.Count > 0)
                refused.Add(near[0].Number);
        }
        return refused;
    }

    private static string Fewer(Match match) =>
        $"iter: {Math.Max(LeastCases, int.Parse(match.Groups[1].Value.Replace("_", "")) / PartOfCases)}";

    [GeneratedRegex(@"iter: ([\d_]+)")]
    private static partial Regex Iterations();

    [GeneratedRegex(@"^(?<file>/[^(\n]+)\((?<line>\d+),(?<column>\d+)\): error", RegexOptions.Multiline)]
    private static partial Regex Errors();
}

/// <summary>Programs beside this one.</summary>
internal static class Commands
{
    /// <returns>What it ended with, and all it said; null where it was stopped because its time was over.</returns>
    public static async Task<(int? Code, string Said)> Run(
        string folder,
        string program,
        string arguments,
        IReadOnlyDictionary<string, string>? environment = null,
        TimeSpan? most = null
    )
    {
        var start = new ProcessStartInfo(program, arguments)
        {
            WorkingDirectory = folder,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        foreach (var (name, value) in environment ?? new Dictionary<string, string>())
            start.Environment[name] = value;
        using var process = Process.Start(start)!;
        var said = process.StandardOutput.ReadToEndAsync();
        var faults = process.StandardError.ReadToEndAsync();
        using var over = new CancellationTokenSource(most ?? Timeout.InfiniteTimeSpan);
        try
        {
            await process.WaitForExitAsync(over.Token);
        }
        catch (OperationCanceledException)
        {
            process.Kill(entireProcessTree: true);
            return (null, "");
        }
        return (process.ExitCode, await said + await faults);
    }
}
