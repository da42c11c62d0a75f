namespace Unicus.Core.Documents;

using Unicus.Core.Money;
using Unicus.Core.Options;

/// <summary>Reads prices, costs, weights and the like, which products, values and variants have alike.</summary>
/// <param name="currency">The shop's.</param>
internal sealed class FiguresReader(Currency currency)
{
    /// <summary>The names of all figures.</summary>
    public static readonly string[] Names =
    [
        "price",
        "rrp",
        "cost",
        "weightGrams",
        "sizeMm",
        "taxClass",
        "leadTimeDays",
        "lowLevel",
        "netContent",
        "customsCode",
        "origin",
    ];

    /// <summary>Figures in an object of their own; none where there is none.</summary>
    public Figures Read(Node node)
    {
        if (!node.Exists || !node.IsObject("an object of figures"))
            return Figures.None;
        node.Only(Names);
        return Among(node);
    }

    /// <summary>Figures among other fields.</summary>
    public Figures Among(Node node) =>
        new()
        {
            Price = node.Money("price", currency),
            Rrp = node.Money("rrp", currency),
            Cost = node.Money("cost", currency),
            WeightGrams = node.Whole("weightGrams", 0, 100_000_000),
            SizeMm = Size(node.At("sizeMm")),
            TaxClass = node.Has("taxClass") ? node.Key("taxClass")?.Text : null,
            LeadTimeDays = node.Whole("leadTimeDays", 0, 3650),
            LowLevel = node.Whole("lowLevel", 0, 10_000_000),
            NetContent = Content(node.At("netContent")),
            CustomsCode = Matching(node, "customsCode", CustomsText.IsCode, CustomsText.CodeShape),
            Origin = Matching(node, "origin", CustomsText.IsCountry, CustomsText.CountryShape),
        };

    private static string? Matching(Node node, string name, Func<string, bool> fits, string shape)
    {
        if (node.Text(name, 40) is not { } text)
            return null;
        if (fits(text))
            return text;
        node.At(name).Fault(shape);
        return null;
    }

    private static NetContent? Content(Node node)
    {
        if (!node.Exists || !node.IsObject("net content"))
            return null;
        node.Only("quantity", "unit");
        node.Require("quantity", "unit");
        var (quantity, unit) = (node.Decimal("quantity", 0, NetContent.Most), node.Text("unit", 20));
        if (quantity is 0)
            node.At("quantity").Fault("Content is above 0.");
        if (unit is not null && !NetContent.Units.Contains(unit))
            node.At("unit").Fault($"A unit is one of {string.Join(", ", NetContent.Units)}.");
        return quantity is > 0 and var q && unit is not null && NetContent.Units.Contains(unit) ? new NetContent(q, unit) : null;
    }

    private static SizeMm? Size(Node node)
    {
        if (!node.Exists || !node.IsObject("a size"))
            return null;
        node.Only("length", "width", "height");
        node.Require("length", "width", "height");
        return
            node.Whole("length", 0, 100_000) is { } l
            && node.Whole("width", 0, 100_000) is { } w
            && node.Whole("height", 0, 100_000) is { } h
            ? new SizeMm(l, w, h)
            : null;
    }
}
