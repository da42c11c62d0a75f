using System.Net;

namespace Unicus.Store;

/// <summary>One field of a product that a person types into: how it is shown and how typed text is taken.</summary>
/// <param name="Show">The text in force; also what a later save compares with what its typist saw.</param>
/// <param name="Take">The product with the typed text, or what is wrong with it.</param>
public sealed record ProductField(string Name, string Label, Func<WorkingCopy, string> Show, Func<WorkingCopy, string, Read<Product>> Take)
{
    /// <summary>How it looks where it is typed.</summary>
    public FieldLook Look { get; init; } = FieldLook.Plain;
}

/// <summary>Every single field of the workbench. A field that exists here has one place on one chapter.</summary>
public static class ProductFields
{
    public static IReadOnlyDictionary<string, ProductField> All { get; } =
        new[]
        {
            FactFields.Texts(),
            FactFields.Lists(),
            FigureFields.Measured(),
            FigureFields.Others(),
            SellingFields.Stock(),
            SellingFields.Beyond(),
            SellingFields.Orders(),
            ShelfFields.Places(),
            ShelfFields.Days(),
        }
            .SelectMany(f => f)
            .ToDictionary(f => f.Name);

    /// <summary>Text as people type it, with blank lines between paragraphs, as sanitised HTML; what is HTML already is sanitised
    /// only.</summary>
    public static string FromPlain(string text)
    {
        var typed = text.Trim();
        if (typed.Length == 0)
            return "";
        if (typed.StartsWith('<'))
            return SafeHtml.Clean(typed);
        var paragraphs = typed
            .ReplaceLineEndings("\n")
            .Split("\n\n", StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        return string.Concat(paragraphs.Select(p => $"<p>{WebUtility.HtmlEncode(p).Replace("\n", "<br>")}</p>"));
    }

    /// <summary>The same the other way round: what is only paragraphs is shown as plain text.</summary>
    public static string ToPlain(string html)
    {
        var inner = html.Replace("</p><p>", "\n\n").Replace("<br>", "\n");
        if (inner.StartsWith("<p>", StringComparison.Ordinal) && inner.EndsWith("</p>", StringComparison.Ordinal))
            inner = inner[3..^4];
        return inner.Contains('<') ? html : WebUtility.HtmlDecode(inner);
    }

    /// <summary>Whether a field belongs to the one variant of a product without options.</summary>
    internal static bool IsOfTheOne(string name) => name is "sku" or "gtin";
}
