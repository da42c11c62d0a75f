using System.Text.RegularExpressions;

namespace Unicus.CoreTests;

/// <summary>What a document calls held is held by a test that exists.</summary>
public partial class NamedTestsTests
{
    [Fact]
    public void Every_test_that_the_table_of_security_names_is_there()
    {
        var code = string.Concat(
            Directory.GetFiles(Path.Combine(House.Root, "tests"), "*Tests*.cs", SearchOption.AllDirectories).Select(File.ReadAllText)
        );
        var named = TestName().Matches(File.ReadAllText(Path.Combine(House.Root, "docs", "security.md"))).Select(m => m.Groups[1].Value);
        Assert.True(named.Count() > 30);
        Assert.All(named, n => Assert.Contains($" {n}(", code, StringComparison.Ordinal));
    }

    /// <summary>A sentence with underscores between backticks.</summary>
    [GeneratedRegex("`([A-Z][a-z]*(?:_[A-Za-z0-9]+){2,})`")]
    private static partial Regex TestName();
}
