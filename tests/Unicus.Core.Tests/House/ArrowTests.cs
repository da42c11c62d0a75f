using System.Reflection;
using System.Text.RegularExpressions;

namespace Unicus.CoreTests;

/// <summary>The arrows of the house run one way.</summary>
public partial class ArrowTests
{
    /// <summary>The folders of the core, each a namespace; one uses only those before it.</summary>
    private static readonly string[] Folders =
    [
        "Money",
        "Options",
        "Rules",
        "Variants",
        "Stock",
        "Pricing",
        "Pricing.Answers",
        "Pricing.Stages",
        "Parts",
        "Products",
        "Range",
        "RuleBook",
        "Assembling",
        "Assembling.Counts",
        "Assembling.Lists",
        "Baskets",
        "Proof",
        "Orders",
        "Documents",
        "Documents.Baskets",
    ];

    private static readonly Assembly Core = typeof(Sku).Assembly;
    private static readonly CompiledReferences References = new(Core);

    private static string FolderOf(Type type) => type.Namespace!["Unicus.Core.".Length..];

    [Fact]
    public void Folders_of_the_core_use_only_those_before_them()
    {
        Assert.True(References.ByType.Count > 200);
        var wrong =
            from type in References.ByType
            from used in type
            where type.Key.Namespace!.StartsWith("Unicus.Core.", StringComparison.Ordinal)
            let at = Array.IndexOf(Folders, FolderOf(type.Key))
            where at < 0 || Array.IndexOf(Folders, FolderOf(used)) > at
            select $"{type.Key.FullName} uses {used.FullName}";
        Assert.Empty(wrong);
    }

    /// <summary>Of files that hang on each other one says why, and names the others.</summary>
    [Fact]
    public void Files_of_a_folder_that_hang_on_each_other_say_why()
    {
        var files = References.Files();
        var uses = References
            .ByType.Where(t => files.ContainsKey(t.Key))
            .SelectMany(t => t.Where(files.ContainsKey).Select(to => (From: files[t.Key], To: files[to])))
            .Where(u => u.From != u.To && Path.GetDirectoryName(u.From) == Path.GetDirectoryName(u.To))
            .ToLookup(u => u.From, u => u.To);
        var unsaid = new List<string>();
        foreach (var knot in Knots(uses))
        {
            var names = knot.Select(f => Path.GetFileNameWithoutExtension(f)!).ToList();
            var said = knot.SelectMany(f =>
                Together().Matches(File.ReadAllText(f)).Select(m => (File: Path.GetFileNameWithoutExtension(f), m.Value))
            );
            if (!said.Any(s => names.All(n => n == s.File || Regex.IsMatch(s.Value, $@"\b{n}\b"))))
                unsaid.Add(string.Join(' ', names));
        }
        Assert.True(unsaid.Count == 0, $"No comment says why these hang on each other: {string.Join("; ", unsaid)}.");
    }

    /// <summary>The sets of files of which each comes back to itself through the others.</summary>
    private static IEnumerable<List<string>> Knots(ILookup<string, string> uses)
    {
        HashSet<string> Reached(string from)
        {
            var (reached, open) = (new HashSet<string>(), new Stack<string>(uses[from]));
            while (open.TryPop(out var file))
                if (reached.Add(file))
                    foreach (var next in uses[file])
                        open.Push(next);
            return reached;
        }
        var reach = uses.ToDictionary(u => u.Key, u => Reached(u.Key));
        return reach
            .Keys.Where(f => reach[f].Contains(f))
            .Select(f => reach[f].Where(o => reach.TryGetValue(o, out var back) && back.Contains(f)).Order().ToList())
            .DistinctBy(k => k[0]);
    }

    [Fact]
    public void Every_folder_of_the_core_has_its_place() =>
        Assert.Empty(
            Directory
                .GetFiles(Path.Combine(House.Root, "src", "Unicus.Core"), "*.cs", SearchOption.AllDirectories)
                .Select(f => Path.GetRelativePath(Path.Combine(House.Root, "src", "Unicus.Core"), Path.GetDirectoryName(f)!))
                .Select(f => f.Replace(Path.DirectorySeparatorChar, '.'))
                .Where(f => f is not ("bin" or "obj") && !f.StartsWith("obj.", StringComparison.Ordinal))
                .Except(Folders)
        );

    [Theory]
    [InlineData("Unicus.Core", "")]
    [InlineData("Unicus.Store", "Unicus.Core")]
    [InlineData("Unicus.Web", "Unicus.Store")]
    [InlineData("Unicus.Demo", "Unicus.Store")]
    public void Projects_refer_one_way(string project, string to)
    {
        var text = File.ReadAllText(Path.Combine(House.Root, "src", project, project + ".csproj"));
        Assert.Equal(to, string.Join(',', ProjectReferences().Matches(text).Select(m => m.Groups[1].Value)));
    }

    [Fact]
    public void The_core_takes_no_packages() =>
        Assert.DoesNotContain("PackageReference", File.ReadAllText(Path.Combine(House.Root, "src", "Unicus.Core", "Unicus.Core.csproj")));

    /// <summary>“Together with …” in a comment, to its end.</summary>
    [GeneratedRegex(@"// Together with[^\n]*(\n\s*//[^\n]*)*")]
    private static partial Regex Together();

    [GeneratedRegex(@"ProjectReference Include=""\.\./[^""]*/(Unicus\.\w+)\.csproj""")]
    private static partial Regex ProjectReferences();
}
