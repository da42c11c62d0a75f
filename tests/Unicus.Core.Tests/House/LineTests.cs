using System.Text.RegularExpressions;

namespace Unicus.CoreTests;

/// <summary>Code is written to be read.</summary>
public partial class LineTests
{
    private const int Longest = 140;

    private static readonly string[] Kinds = [".cs", ".cshtml", ".css", ".js", ".mjs", ".ts"];

    /// <summary>Libraries that ship with it, and what a tool made, are read by nobody here.</summary>
    private static readonly string[] LeftOut = ["lib", "bin", "obj", "Migrations", "node_modules", "made"];

    [Fact]
    public void No_line_is_longer_than_140_characters()
    {
        var files = new[] { "src", "tests", "bench" }
            .SelectMany(f => Directory.GetFiles(Path.Combine(House.Root, f), "*", SearchOption.AllDirectories))
            .Where(f => Kinds.Contains(Path.GetExtension(f)) && !f.EndsWith(".min.js", StringComparison.Ordinal))
            .Where(f => !f.Split(Path.DirectorySeparatorChar).Intersect(LeftOut).Any())
            .ToList();
        Assert.True(files.Count > 300);
        var wrong =
            from file in files
            from line in File.ReadLines(file).Index()
            where line.Item.Length > Longest
            select $"{Path.GetRelativePath(House.Root, file)}:{line.Index + 1} has {line.Item.Length} characters";
        Assert.Empty(wrong);
    }

    /// <summary>What two components call alike, each gives its looks to the other; what all have stands in shell.css.</summary>
    [Fact]
    public void No_two_components_style_the_same_class()
    {
        var styles = Directory
            .GetFiles(Path.Combine(House.Root, "src", "Unicus.Web", "wwwroot", "css"), "*.css")
            .Where(f => Path.GetFileName(f) is not ("shell.css" or "tokens.css"))
            .SelectMany(f => BareClass().Matches(File.ReadAllText(f)).Select(m => (Name: m.Groups[1].Value, File: Path.GetFileName(f))))
            .Distinct()
            .ToList();
        Assert.True(styles.Count > 80);
        Assert.Empty(
            styles.GroupBy(s => s.Name).Where(g => g.Skip(1).Any()).Select(g => $"{g.Key}: {string.Join(", ", g.Select(s => s.File))}")
        );
    }

    /// <summary>A class that a rule is about by itself, alone or in a list.</summary>
    [GeneratedRegex(@"(?:^|,|\})\s*\.([\w-]+)\s*(?=,|\{)", RegexOptions.Multiline)]
    private static partial Regex BareClass();

    /// <summary>One idea a file, and no more files in a folder than one looks over.</summary>
    [Fact]
    public void Folders_and_files_of_the_core_can_be_looked_over()
    {
        var files = Directory
            .GetFiles(Path.Combine(House.Root, "src", "Unicus.Core"), "*.cs", SearchOption.AllDirectories)
            .Where(f => !f.Split(Path.DirectorySeparatorChar).Intersect(LeftOut).Any())
            .ToList();
        var crowded = files
            .GroupBy(f => Path.GetDirectoryName(f)!)
            .Where(f => f.Count() > 20)
            .Select(f => $"{f.Key} has {f.Count()} files");
        var @long = files.Where(f => File.ReadLines(f).Count() > 400).Select(f => $"{f} has more than 400 lines");
        Assert.Empty(crowded.Concat(@long));
    }
}

/// <summary>Where the house stands.</summary>
internal static class House
{
    /// <summary>The folder of the solution.</summary>
    public static string Root { get; } = Find();

    private static string Find()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder!.FullName, "Unicus.slnx")))
            folder = folder.Parent;
        return folder.FullName;
    }
}
