using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>How each field looks: its kind of box, its hint, its choices.</summary>
public static class FieldLooks
{
    public static (string? Label, string Look, string Hint, IReadOnlyList<(string, string)>? Choice) For(string name, WorkingCopy copy) =>
        name switch
        {
            "summary" => (null, "area", "One or two sentences for lists and searches", null),
            "description" => (null, "rich", "", null),
            "categories" => (null, "", "names, with commas", null),
            "companions" or "stepUps" => (null, "goods", "names or codes, with commas", null),
            "tags" => (null, "", "separated by commas", null),
            "price" => (
                $"Price, {copy.Shop.Currency}{(copy.Shop.Terms.PricesIncludeTax ? " with tax" : " without tax")}",
                "num",
                "none",
                null
            ),
            "floor" => (null, "num", copy.Shop.Terms.Floor is { } usual ? $"as the shop: {usual} %" : "none, as the shop", null),
            "rrp" => (null, "num", "none", null),
            "cost" => ("Cost, without tax", "num", "none", null),
            "weight" => (null, "num", "11.5 kg", null),
            "length" or "width" or "height" => (null, "num", "46 cm", null),
            "netContent" => (null, "num", "500 g", null),
            "customsCode" => (null, "num", "none", null),
            "origin" => (null, "num", "IE", null),
            "lowLevel" => ("Low at", "num", "never", null),
            "taxClass" => (null, "choice", "", [.. TaxClasses(copy.Shop.Terms)]),
            "counted" => ("Is it counted?", "choice", "", [("yes", "Counted"), ("no", "Not counted: always to be had")]),
            "offForNow" => ("On sale?", "choice", "", [("no", "On sale"), ("yes", "Off for now")]),
            "back" => ("Back on, if known", "", "3 May 2027", null),
            "shipped" => ("Is it sent?", "choice", "", [("yes", "Sent"), ("no", "Not sent: a file or a service")]),
            "minimumQuantity" => ("Sold from how many up", "", "1", null),
            "maximumPerOrder" => (null, "", "no limit", null),
            "afterOrderNote" => (null, "area", "Where to find the instructions", null),
            "beyond" => ("When none are left", "choice", "", Beyond),
            "listed" => (null, "choice", "", [("yes", "Yes, lists and categories show it"), ("no", "No, off the shelf")]),
            "searchable" => (
                null,
                "choice",
                "",
                [("yes", copy.Product.Shelf.Listed ? "Yes" : "Yes, by its exact name"), ("no", "No, only its address leads to it")]
            ),
            "featured" => (null, "choice", "", [("no", "As the others"), ("yes", "It leads")]),
            "from" or "until" or "featuredFrom" or "featuredUntil" => (null, "", "any day", null),
            "badge" => (null, "", "none", null),
            "password" => (null, "", "none: open to everybody", null),
            "alone" => (null, "choice", "", [("yes", "By itself"), ("no", "Only as part of sets and groups")]),
            _ => (null, "", "", null),
        };

    private static readonly IReadOnlyList<(string, string)> Beyond =
    [
        ("none", "Nothing more is sold"),
        ("on-order", "What is on order is sold"),
        ("units", "So many more are sold"),
        ("unlimited", "It is sold without end"),
    ];

    private static IEnumerable<(string, string)> TaxClasses(TradeTerms terms) =>
        terms.TaxClasses.Skip(1).Select(c => (c.Key.Text, c.Label)).Prepend(("", $"{terms.TaxClasses[0].Label} (the usual)"));
}
