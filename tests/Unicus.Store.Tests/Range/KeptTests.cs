using System.Runtime.CompilerServices;

namespace Unicus.Store.Tests;

/// <summary>What the catalogue keeps in memory stands in the documentation as the code has it.</summary>
public class KeptTests(Database db) : IClassFixture<Database>
{
    [Fact]
    public void The_table_of_what_is_kept_is_that_of_the_code()
    {
        var text = File.ReadAllText(Path.Combine(Home(), "docs", "architecture.md"));
        var rows = db.Catalogue.Kept.Select(k => $"| {k.What} | {Most(k.MostBytes)} | {By(k.ForgottenBy)} |").ToList();
        var table = "| what | at most | forgotten by news of |\n| --- | --- | --- |\n" + string.Join('\n', rows) + "\n\n";
        Assert.True(text.Contains(table, StringComparison.Ordinal), $"docs/architecture.md needs this table:\n{table}");
        Assert.Equal(rows.Count, rows.Distinct().Count());
    }

    private static string Most(long bytes) =>
        bytes switch
        {
            1 => "only while it is read",
            <= 10 => "one",
            _ => $"{bytes / (1024 * 1024)} MB",
        };

    private static string By(IReadOnlyCollection<NewsKind> kinds) =>
        kinds.Count == 0 ? "none is needed" : string.Join(", ", kinds.Select(k => k.ToString().ToLowerInvariant()));

    private static string Home([CallerFilePath] string here = "") => Path.GetFullPath(Path.Combine(here, "../../../.."));
}
