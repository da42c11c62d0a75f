using System.Collections.Immutable;
using System.Globalization;
using static Unicus.Store.FieldKinds;

namespace Unicus.Store;

/// <summary>Where and when it is shown.</summary>
internal static class ShelfFields
{
    public static IEnumerable<ProductField> Places()
    {
        yield return new ProductField(
            "listed",
            "Listed",
            c => c.Product.Shelf.Listed ? "yes" : "no",
            (c, t) => Read<Product>.Of(c.Product with { Shelf = c.Product.Shelf with { Listed = t != "no" } })
        )
        {
            Look = FieldLook.Of(new("yes", "Yes, lists and categories show it"), new("no", "No, off the shelf")),
        };
        yield return new ProductField(
            "searchable",
            "Found by search",
            c => c.Product.Shelf.Searchable ? "yes" : "no",
            (c, t) => Read<Product>.Of(c.Product with { Shelf = c.Product.Shelf with { Searchable = t != "no" } })
        )
        {
            Look = new FieldLook(FieldBox.Choice)
            {
                Choices = c =>
                    [new("yes", c.Product.Shelf.Listed ? "Yes" : "Yes, by its exact name"), new("no", "No, only its address leads to it")],
            },
        };
        yield return new ProductField(
            "alone",
            "Sold",
            c => c.Product.Shelf.Alone ? "yes" : "no",
            (c, t) => Read<Product>.Of(c.Product with { Shelf = c.Product.Shelf with { Alone = t != "no" } })
        )
        {
            Look = FieldLook.Of(new("yes", "By itself"), new("no", "Only as part of sets and groups")),
        };
        yield return Text(
            "password",
            "Password of its page",
            p => p.Shelf.Password,
            Shelf.LongestPassword,
            (p, t) => Read<Product>.Of(p with { Shelf = p.Shelf with { Password = Null(t) } })
        ) with
        {
            Look = new FieldLook(FieldBox.Line, "none: open to everybody"),
        };
    }

    public static IEnumerable<ProductField> Days()
    {
        yield return new ProductField(
            "featured",
            "Start page",
            c => c.Product.Shelf.Featured is null ? "no" : "yes",
            (c, t) =>
                Read<Product>.Of(
                    c.Product with
                    {
                        Shelf = c.Product.Shelf with { Featured = t == "yes" ? c.Product.Shelf.Featured ?? new DaySpan(null, null) : null },
                    }
                )
        )
        {
            Look = FieldLook.Of(new("no", "As the others"), new("yes", "It leads")),
        };
        yield return Day("from", "First day to order", s => s.Days, isFrom: true, (s, d) => s with { Days = d });
        yield return Day("until", "Last day to order", s => s.Days, isFrom: false, (s, d) => s with { Days = d });
        // Days that are taken out leave it on the start page for good, if it was there.
        Shelf Leads(Shelf shelf, DaySpan? days) =>
            shelf with
            {
                Featured = days ?? (shelf.Featured is null ? null : new DaySpan(null, null)),
            };
        yield return Day("featuredFrom", "There from", s => s.Featured, isFrom: true, Leads);
        yield return Day("featuredUntil", "There until", s => s.Featured, isFrom: false, Leads);
    }

    /// <summary>An end of a span of days.</summary>
    private static ProductField Day(string name, string label, Func<Shelf, DaySpan?> show, bool isFrom, Func<Shelf, DaySpan?, Shelf> set) =>
        new(
            name,
            label,
            c => (isFrom ? show(c.Product.Shelf)?.From : show(c.Product.Shelf)?.Until)?.ToString("d MMMM yyyy", English) ?? "",
            (c, typed) =>
            {
                var (shelf, text) = (c.Product.Shelf, typed.Trim());
                DateOnly? day = null;
                if (text.Length > 0)
                    if (DateOnly.TryParse(text, English, out var read) || DateOnly.TryParseExact(text, "yyyy-MM-dd", out read))
                        day = read;
                    else
                        return Read<Product>.No($"“{text}” is not a day. Type it like 3 May 2027.");
                var span = show(shelf) ?? new DaySpan(null, null);
                span = isFrom ? span with { From = day } : span with { Until = day };
                if (span.Until < span.From)
                    return Read<Product>.No("It would end before it begins.");
                return Read<Product>.Of(c.Product with { Shelf = set(shelf, span == new DaySpan(null, null) ? null : span) });
            }
        )
        {
            Look = new FieldLook(FieldBox.Line, "any day"),
        };
}
