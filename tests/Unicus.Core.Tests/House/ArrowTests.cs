using System.Text.RegularExpressions;

namespace Unicus.Core.Tests;

/// <summary>The arrows of the house run one way.</summary>
public partial class ArrowTests
{
    private static readonly string[] Layers =
    [
        "Money",
        "Options",
        "Rules",
        "Variants",
        "Pricing",
        "Stock",
        "Parts",
        "Products",
        "Sets",
        "Documents",
    ];

    [Fact]
    public void Folders_of_the_core_use_only_those_before_them()
    {
        var core = Path.Combine(House.Root, "src", "Unicus.Core");
        var files = Layers
            .SelectMany(
                (layer, at) =>
                    Directory
                        .GetFiles(Path.Combine(core, layer), "*.cs")
                        .Select(f =>
                            (
                                At: at,
                                Name: Path.GetFileName(f),
                                Text: Members().Replace(Strings().Replace(Comments().Replace(File.ReadAllText(f), ""), ""), "")
                            )
                        )
            )
            .ToList();
        var declared = files
            .SelectMany(f => Declarations().Matches(f.Text).Select(m => (f.At, Type: m.Groups[1].Value)))
            .GroupBy(d => d.Type)
            .ToDictionary(g => g.Key, g => g.Min(d => d.At));
        Assert.True(declared.Count > 60);
        var wrong =
            from file in files
            from word in Words().Matches(file.Text).Select(m => m.Value).Distinct()
            where declared.TryGetValue(word, out var at) && at > file.At && !IsMember(file.Text, word)
            select $"{Layers[file.At]}/{file.Name} uses {word} of {Layers[declared[word]]}";
        Assert.Empty(wrong);
    }

    [Fact]
    public void Every_folder_of_the_core_is_a_layer() =>
        Assert.Empty(
            Directory
                .GetDirectories(Path.Combine(House.Root, "src", "Unicus.Core"))
                .Select(Path.GetFileName)
                .Except([.. Layers, "bin", "obj"])
        );

    [Theory]
    [InlineData("Unicus.Core", "")]
    [InlineData("Unicus.Store", "Unicus.Core")]
    [InlineData("Unicus.Web", "Unicus.Store")]
    [InlineData("Unicus.Demo", "Unicus.Store")]
    public void Projects_refer_one_way(string project, string to)
    {
        var text = File.ReadAllText(Path.Combine(House.Root, "src", project, project + ".csproj"));
        Assert.Equal(to, string.Join(',', References().Matches(text).Select(m => m.Groups[1].Value)));
    }

    [Fact]
    public void The_core_takes_no_packages() =>
        Assert.DoesNotContain("PackageReference", File.ReadAllText(Path.Combine(House.Root, "src", "Unicus.Core", "Unicus.Core.csproj")));

    /// <summary>A property may be called like a later type without using it.</summary>
    private static bool IsMember(string text, string word) =>
        Regex.IsMatch(text, $@"(\.|\b\w+\??>?\s){word}\s*(\{{|=>|[,;)=.]|\()") && !Regex.IsMatch(text, $@"(new|<|\()\s*{word}\b");

    [GeneratedRegex(@"//.*|/\*[\s\S]*?\*/")]
    private static partial Regex Comments();

    [GeneratedRegex("\"(\\\\.|[^\"\\\\])*\"")]
    private static partial Regex Strings();

    /// <summary>What follows a point is a member, and so is what stands in an enumeration; only types matter here.</summary>
    [GeneratedRegex(@"(?<!Core)\.[A-Z]\w+|(?<=enum \w+)\s*\{[^}]*\}")]
    private static partial Regex Members();

    [GeneratedRegex(@"^(?:public|internal) [a-z ]*?(?:class|struct|record|enum|interface)\s+([A-Z]\w+)", RegexOptions.Multiline)]
    private static partial Regex Declarations();

    [GeneratedRegex(@"\b[A-Z]\w+\b")]
    private static partial Regex Words();

    [GeneratedRegex(@"ProjectReference Include=""\.\./[^""]*/(Unicus\.\w+)\.csproj""")]
    private static partial Regex References();
}
