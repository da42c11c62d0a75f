using System.Runtime.CompilerServices;
using Ganss.Xss;

namespace Unicus.Store;

/// <summary>
/// The one place that cleans HTML of people and programs: when a product is written, and once more when it is shown. Headings, paragraphs,
/// lists, emphasis, tables and links stay; everything else goes, so that no text can act.
/// </summary>
public static class SafeHtml
{
    private static readonly HtmlSanitizer Sanitizer = MakeSanitizer();

    /// <summary>What was shown already, as long as the text itself is kept.</summary>
    private static readonly ConditionalWeakTable<string, string> Shown = [];

    public static string Clean(string html) => Sanitizer.Sanitize(html);

    /// <summary>The same, remembered as long as the text: for what is shown again and again.</summary>
    public static string ToShow(string html) => Shown.GetValue(html, Clean);

    /// <summary>A product with every HTML field cleaned that it does not share with <paramref name="before"/>.</summary>
    public static Product Cleaned(Product product, Product? before = null) =>
        product with
        {
            Description = product.Description is { } html && html != before?.Description ? Null(Clean(html)) : product.Description,
            Passages =
                before is not null && product.Passages.SequenceEqual(before.Passages)
                    ? product.Passages
                    : [.. product.Passages.Select(p => p with { Text = Clean(p.Text) })],
        };

    private static string? Null(string text) => text.Length == 0 ? null : text;

    private static HtmlSanitizer MakeSanitizer()
    {
        var sanitizer = new HtmlSanitizer();
        sanitizer.AllowedTags.Clear();
        foreach (var tag in "p br h2 h3 h4 ul ol li strong b em i a blockquote table thead tbody tr th td sup sub".Split(' '))
            sanitizer.AllowedTags.Add(tag);
        sanitizer.AllowedAttributes.Clear();
        sanitizer.AllowedAttributes.Add("href");
        sanitizer.AllowedSchemes.Clear();
        foreach (var scheme in new[] { "http", "https", "mailto" })
            sanitizer.AllowedSchemes.Add(scheme);
        sanitizer.AllowedCssProperties.Clear();
        return sanitizer;
    }
}
