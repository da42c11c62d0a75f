using System.Collections.Immutable;
using System.Globalization;
using static Unicus.Store.FieldKinds;

namespace Unicus.Store;

/// <summary>What a product is called and said to be, and what goes with it.</summary>
internal static class FactFields
{
    public static IEnumerable<ProductField> Texts()
    {
        yield return Text(
            "name",
            "Name",
            p => p.Name,
            Product.LongestName,
            (p, t) => t.Length == 0 ? Read<Product>.No("A product needs a name.") : Read<Product>.Of(p with { Name = t })
        );
        yield return Text(
            "summary",
            "Summary",
            p => p.Summary,
            Product.LongestSummary,
            (p, t) => Read<Product>.Of(p with { Summary = Null(t) })
        ) with
        {
            Look = new FieldLook(FieldBox.Area, "One or two sentences for lists and searches"),
        };
        yield return Text(
            "description",
            "Description",
            p => p.Description,
            Product.LongestDescription,
            (p, t) => Read<Product>.Of(p with { Description = Null(SafeHtml.Clean(t)) }),
            oneLine: false
        ) with
        {
            Look = new FieldLook(FieldBox.Rich),
        };
        yield return Text(
            "badge",
            "Badge in lists",
            p => p.Badge,
            Product.LongestBadge,
            (p, t) => Read<Product>.Of(p with { Badge = Null(t) })
        ) with
        {
            Look = new FieldLook(FieldBox.Line, "none"),
        };
    }

    public static IEnumerable<ProductField> Lists()
    {
        yield return Codes("companions", "Goes with it", p => p.Companions, (p, codes) => p with { Companions = codes });
        yield return Codes("stepUps", "Or rather", p => p.StepUps, (p, codes) => p with { StepUps = codes });
        yield return new ProductField(
            "floor",
            "Least margin that rules may leave, %",
            c => c.Product.Floor?.ToString() ?? "",
            (c, t) =>
                t.Trim().Length == 0 ? Read<Product>.Of(c.Product with { Floor = null })
                : TypedNumbers.Percent(t) is { Value: { Value: >= 0 and < 100 } margin }
                    ? Read<Product>.Of(c.Product with { Floor = margin })
                : Read<Product>.No("A least margin is at least 0 and below 100 %.")
        )
        {
            Look = FieldLook.Number("") with
            {
                HintOf = c => c.Shop.Terms.Floor is { } usual ? $"as the shop: {usual} %" : "none, as the shop",
            },
        };
        yield return Text(
            "webAddress",
            "Web address",
            p => p.Address,
            80,
            (p, t) =>
                t.Length == 0 || t == (p with { WebAddress = null }).Address ? Read<Product>.Of(p with { WebAddress = null })
                : Key.TryParse(t, out _) ? Read<Product>.Of(p with { WebAddress = t })
                : Read<Product>.No($"A web address is {Key.Shape}: try {Slug.From(t, 60)}.")
        );
        yield return Text(
            "categories",
            "Categories",
            p => string.Join(", ", p.Categories),
            2000,
            (p, t) => Names(t, n => p with { Categories = n })
        ) with
        {
            Look = new FieldLook(FieldBox.Line, "names, with commas"),
        };
        yield return Text("tags", "Tags", p => string.Join(", ", p.Tags), 2000, (p, t) => Names(t, n => p with { Tags = n })) with
        {
            Look = new FieldLook(FieldBox.Line, "separated by commas"),
        };
        yield return Text("brand", "Brand", p => p.Brand, 80, (p, t) => Read<Product>.Of(p with { Brand = Null(t) }));
        yield return Text(
            "partNumber",
            "Maker's part number",
            p => p.PartNumber,
            80,
            (p, t) => Read<Product>.Of(p with { PartNumber = Null(t) })
        );
    }

    private static Read<Product> Names(string text, Func<ImmutableArray<string>, Product> set)
    {
        var names = text.Split([',', '\n', ';'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Distinct(StringComparer.OrdinalIgnoreCase)
            .ToImmutableArray();
        return names.FirstOrDefault(n => n.Length > 80) is { } tooLong
            ? Read<Product>.No($"“{tooLong[..30]}…” is longer than 80 characters.")
            : Read<Product>.Of(set(names));
    }
}
