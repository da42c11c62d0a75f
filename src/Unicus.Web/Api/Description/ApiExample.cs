using System.Collections.Immutable;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;

namespace Unicus.Web.Api;

/// <summary>A call and its reply as <c>docs/http.md</c> shows them; the tests make the calls in the order of the page.</summary>
/// <param name="Path">With <c>{number}</c> for that of the order before.</param>
/// <param name="Body">Null where there is none.</param>
/// <param name="Reply">Null where there is none.</param>
public sealed partial record ApiExample(string Method, string Path, JsonNode? Body, int Status, JsonNode? Reply)
{
    private static readonly Lazy<ImmutableArray<ApiExample>> Page = new(Read);

    /// <summary>All of the page, in its order.</summary>
    public static ImmutableArray<ApiExample> All => Page.Value;

    /// <summary>Whether it is an example of the call with this path, in which parameters stand in braces.</summary>
    public bool IsOf(string path)
    {
        var (mine, its) = (Path.Split('?')[0].Split('/'), path.Split('/'));
        return mine.Length == its.Length && mine.Zip(its).All(s => s.Second.StartsWith('{') || s.First == s.Second);
    }

    private static ImmutableArray<ApiExample> Read()
    {
        using var file = new StreamReader(typeof(ApiExample).Assembly.GetManifestResourceStream("http.md")!);
        return [.. Shown().Matches(file.ReadToEnd()).Select(Read)];
    }

    private static ApiExample Read(Match shown) =>
        new(
            shown.Groups["method"].Value,
            shown.Groups["path"].Value,
            Json(shown.Groups["body"].Value),
            int.Parse(shown.Groups["status"].Value),
            Json(shown.Groups["reply"].Value)
        );

    private static JsonNode? Json(string text) => text.Trim().Length == 0 ? null : JsonNode.Parse(text);

    /// <summary>A fenced block of a call, and one of its reply with the status beside the fence.</summary>
    [GeneratedRegex(
        @"^```http\n(?<method>[A-Z]+) (?<path>\S+)\n(?<body>[^`]*?)```\n\n```json (?<status>\d+)\n(?<reply>[^`]*?)```$",
        RegexOptions.Multiline | RegexOptions.ExplicitCapture
    )]
    private static partial Regex Shown();
}
