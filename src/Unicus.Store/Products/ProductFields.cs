using System.Collections.Immutable;
using System.Globalization;
using System.Net;
using Microsoft.EntityFrameworkCore;

namespace Unicus.Store;

/// <summary>One field of a product that a person types into: how it is shown and how typed text is taken.</summary>
/// <param name="Show">The text in force; also what a later save compares with what its typist saw.</param>
/// <param name="Take">The product with the typed text, or what is wrong with it.</param>
public sealed record ProductField(string Name, string Label, Func<WorkingCopy, string> Show, Func<WorkingCopy, string, Read<Product>> Take);

/// <summary>Every single field of the workbench. A field that exists here has one place on one chapter.</summary>
public static class ProductFields
{
    public static IReadOnlyDictionary<string, ProductField> All { get; } = Make().ToDictionary(f => f.Name);

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

    /// <summary>A figure of the one variant of a product without options.</summary>
    private static ProductField OfTheOne(CellFigure figure) =>
        new(
            figure.Name,
            figure.Label,
            c => TheOne(c) is { } one ? figure.Show(c, one).Text : "",
            (c, t) =>
            {
                if (TheOne(c) is not { } one)
                    return Read<Product>.No("It has options, so each of its variants has its own; type it in the matrix.");
                var taken = figure.Take!(c, one.Variant, t.Trim());
                return taken.Ok ? Read<Product>.Of(c.Product with { Variants = [taken.Value!] }) : Read<Product>.No(taken.Problem!);
            }
        );

    private static MatrixVariant? TheOne(WorkingCopy copy) =>
        copy.Product.Options.IsEmpty && copy.Product.Variants.Length == 1 ? copy.Matrix.Find(copy.Product.Variants[0].Values) : null;

    private static IEnumerable<ProductField> Make()
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
        );
        yield return Text(
            "description",
            "Description",
            p => p.Description,
            Product.LongestDescription,
            (p, t) => Read<Product>.Of(p with { Description = Null(SafeHtml.Clean(t)) }),
            oneLine: false
        );
        yield return Text(
            "badge",
            "Badge in lists",
            p => p.Badge,
            Product.LongestBadge,
            (p, t) => Read<Product>.Of(p with { Badge = Null(t) })
        );
        yield return Codes("companions", "Goes with it", p => p.Companions, (p, codes) => p with { Companions = codes });
        yield return Codes("stepUps", "Or rather", p => p.StepUps, (p, codes) => p with { StepUps = codes });
        yield return new(
            "floor",
            "Least margin that rules may leave, %",
            c => c.Product.Floor?.ToString() ?? "",
            (c, t) =>
                t.Trim().Length == 0 ? Read<Product>.Of(c.Product with { Floor = null })
                : TypedNumbers.Percent(t) is { Value: { Value: >= 0 and < 100 } margin }
                    ? Read<Product>.Of(c.Product with { Floor = margin })
                : Read<Product>.No("A least margin is at least 0 and below 100 %.")
        );
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
        );
        yield return Text("tags", "Tags", p => string.Join(", ", p.Tags), 2000, (p, t) => Names(t, n => p with { Tags = n }));
        yield return Text("brand", "Brand", p => p.Brand, 80, (p, t) => Read<Product>.Of(p with { Brand = Null(t) }));
        yield return Text(
            "partNumber",
            "Maker's part number",
            p => p.PartNumber,
            80,
            (p, t) => Read<Product>.Of(p with { PartNumber = Null(t) })
        );
        foreach (var figure in new[] { "sku", "gtin" })
            yield return OfTheOne(MatrixFigures.Find(figure)!);
        yield return Amount("price", "Price", f => f.Price, (f, m) => f with { Price = m });
        yield return Amount("rrp", "RRP", f => f.Rrp, (f, m) => f with { Rrp = m });
        yield return Amount("cost", "Cost", f => f.Cost, (f, m) => f with { Cost = m });
        yield return new ProductField(
            "weight",
            "Weight",
            c => c.Product.Base.WeightGrams is { } g ? Measures.ShowWeight(g, c.Row.WeightUnit) : "",
            (c, t) =>
            {
                var read = Measures.Weight(t, c.Row.WeightUnit);
                if (read.Value is { } weight && c.Row.WeightUnit != weight.Unit)
                    c.Row.WeightUnit = weight.Unit;
                return Based(c, read.Problem, f => f with { WeightGrams = read.Value?.Size });
            }
        );
        foreach (var side in new[] { "length", "width", "height" })
            yield return new ProductField(
                side,
                char.ToUpperInvariant(side[0]) + side[1..],
                c => c.Product.Base.SizeMm is { } s && Side(s, side) > 0 ? Measures.ShowLength(Side(s, side), c.Row.LengthUnit) : "",
                (c, t) =>
                {
                    var read = Measures.Length(t, c.Row.LengthUnit);
                    if (read.Value is { } length && c.Row.LengthUnit != length.Unit)
                        c.Row.LengthUnit = length.Unit;
                    return Based(c, read.Problem, f =>
                        f with
                        {
                            SizeMm = WithSide(f.SizeMm ?? new SizeMm(0, 0, 0), side, read.Value?.Size ?? 0),
                        }
                    );
                }
            );
        yield return new ProductField(
            "taxClass",
            "Tax class",
            c => c.Product.Base.TaxClass ?? "",
            (c, t) =>
                t.Length == 0 || c.Shop.Terms.TaxClasses.Any(x => x.Key.Text == t)
                    ? Based(c, null, f => f with { TaxClass = Null(t) })
                    : Read<Product>.No("There is no such tax class.")
        );
        yield return new ProductField(
            "lowLevel",
            "Low level",
            c => c.Product.Base.LowLevel?.ToString(CultureInfo.InvariantCulture) ?? "",
            (c, t) =>
            {
                var read = TypedNumbers.Whole(t, 0, 1_000_000);
                return Based(c, read.Problem, f => f with { LowLevel = read.Value });
            }
        );
        yield return Figure("netContent", "Net content", f => f.NetContent?.ToString(), MatrixFigures.TakeContent);
        yield return Figure("customsCode", "Customs code", f => f.CustomsCode, MatrixFigures.TakeCustomsCode);
        yield return Figure("origin", "Country of origin", f => f.Origin, MatrixFigures.TakeOrigin);
        yield return Sell(
            "counted",
            "Counted",
            s => s.Counted == false ? "no" : "yes",
            (s, t, _) => Read<Selling>.Of(s with { Counted = t == "no" ? false : null })
        );
        yield return Sell(
            "offForNow",
            "Off for now",
            s => s.OffForNow is null ? "no" : "yes",
            (s, t, _) => Read<Selling>.Of(s with { OffForNow = t == "yes" ? s.OffForNow ?? new OffForNow(null) : null })
        );
        yield return Sell(
            "back",
            "Back on",
            s => s.OffForNow?.Back?.ToString("yyyy-MM-dd") ?? "",
            (s, t, _) =>
                t.Length == 0 ? Read<Selling>.Of(s with { OffForNow = s.OffForNow is null ? null : new OffForNow(null) })
                : DateOnly.TryParse(t, CultureInfo.GetCultureInfo("en-GB"), out var day) || DateOnly.TryParseExact(t, "yyyy-MM-dd", out day)
                    ? Read<Selling>.Of(s with { OffForNow = new OffForNow(day) })
                : Read<Selling>.No($"“{t}” is not a day. Type it like 3 May 2027.")
        );
        yield return Sell(
            "beyond",
            "When none are left",
            s =>
                s.Beyond switch
                {
                    SellBeyond.OnOrder => "on-order",
                    SellBeyond.Unlimited => "unlimited",
                    SellBeyond.Units => "units",
                    _ => "none",
                },
            (s, t, _) =>
                t switch
                {
                    "none" or "" => Read<Selling>.Of(s with { Beyond = null }),
                    "on-order" => Read<Selling>.Of(s with { Beyond = new SellBeyond.OnOrder() }),
                    "unlimited" => Read<Selling>.Of(s with { Beyond = new SellBeyond.Unlimited() }),
                    "units" => Read<Selling>.Of(s with { Beyond = s.Beyond as SellBeyond.Units ?? new SellBeyond.Units(1) }),
                    _ => Read<Selling>.No("Nothing more is sold, or what is on order, or so many more, or without end."),
                }
        );
        yield return Sell(
            "beyondUnits",
            "How many more",
            s => s.Beyond is SellBeyond.Units(var n) ? n.ToString(CultureInfo.InvariantCulture) : "",
            (s, t, _) =>
                TypedNumbers.Whole(t, 1, 1_000_000) is { Problem: null, Value: { } n }
                    ? Read<Selling>.Of(s with { Beyond = new SellBeyond.Units(n) })
                    : Read<Selling>.No("A whole number from 1 is needed; choose otherwise for none.")
        );
        yield return Sell(
            "shipped",
            "Sent",
            s => s.Shipped == false ? "no" : "yes",
            (s, t, _) => Read<Selling>.Of(s with { Shipped = t == "no" ? false : null })
        );
        yield return Sell(
            "minimumQuantity",
            "Sold from",
            s => Shown(s.MinimumQuantity),
            (s, t, _) => Limited(t, units => s with { MinimumQuantity = units })
        );
        yield return Sell(
            "maximumPerOrder",
            "At most in one order",
            s => Shown(s.MaximumPerOrder),
            (s, t, _) => Limited(t, units => s with { MaximumPerOrder = units })
        );
        yield return Sell(
            "afterOrderNote",
            "Said once it is ordered",
            s => s.AfterOrderNote ?? "",
            (s, t, _) =>
                t.Length <= Selling.LongestNote
                    ? Read<Selling>.Of(s with { AfterOrderNote = t.Length == 0 ? null : t })
                    : Read<Selling>.No($"At most {Selling.LongestNote:N0} characters.")
        );
        yield return new ProductField(
            "listed",
            "Listed",
            c => c.Product.Shelf.Listed ? "yes" : "no",
            (c, t) => Read<Product>.Of(c.Product with { Shelf = c.Product.Shelf with { Listed = t != "no" } })
        );
        yield return new ProductField(
            "searchable",
            "Found by search",
            c => c.Product.Shelf.Searchable ? "yes" : "no",
            (c, t) => Read<Product>.Of(c.Product with { Shelf = c.Product.Shelf with { Searchable = t != "no" } })
        );
        yield return new ProductField(
            "alone",
            "Sold",
            c => c.Product.Shelf.Alone ? "yes" : "no",
            (c, t) => Read<Product>.Of(c.Product with { Shelf = c.Product.Shelf with { Alone = t != "no" } })
        );
        yield return Text(
            "password",
            "Password of its page",
            p => p.Shelf.Password,
            Shelf.LongestPassword,
            (p, t) => Read<Product>.Of(p with { Shelf = p.Shelf with { Password = Null(t) } })
        );
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
        );
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
        );

    private static readonly CultureInfo English = CultureInfo.GetCultureInfo("en-GB");

    /// <summary>Codes of other products, separated by commas, spaces or lines.</summary>
    private static ProductField Codes(
        string name,
        string label,
        Func<Product, ImmutableArray<ProductCode>> show,
        Func<Product, ImmutableArray<ProductCode>, Product> set
    ) =>
        new(
            name,
            label,
            c => string.Join(", ", show(c.Product)),
            (c, typed) =>
            {
                var codes = ImmutableArray.CreateBuilder<ProductCode>();
                foreach (var text in typed.Split([',', ';', ' ', '\n', '\r', '\t'], StringSplitOptions.RemoveEmptyEntries))
                {
                    var code = ProductCode.Parse(text.ToUpperInvariant());
                    if (!code.Ok)
                        return Read<Product>.No($"“{text}”: {code.Problem}");
                    if (code.Value == c.Product.Code)
                        return Read<Product>.No($"{code.Value} is the product itself.");
                    if (!codes.Contains(code.Value))
                        codes.Add(code.Value);
                }
                return codes.Count > Product.MostSuggested
                    ? Read<Product>.No($"At most {Product.MostSuggested} are suggested.")
                    : Read<Product>.Of(set(c.Product, codes.ToImmutable()));
            }
        );

    private static ProductField Text(
        string name,
        string label,
        Func<Product, string?> show,
        int longest,
        Func<Product, string, Read<Product>> take,
        bool oneLine = true
    ) =>
        new(
            name,
            label,
            c => show(c.Product) ?? "",
            (c, typed) =>
            {
                var text = oneLine ? typed.ReplaceLineEndings(" ").Trim() : typed.Trim();
                if (text.Length > longest)
                    return Read<Product>.No($"{label} has at most {longest:N0} characters; this has {text.Length:N0}.");
                return text.Any(ch => char.IsControl(ch) && ch is not ('\n' or '\r' or '\t'))
                    ? Read<Product>.No($"{label} holds control characters.")
                    : take(c.Product, text);
            }
        );

    private static ProductField Amount(string name, string label, Func<Figures, Money?> show, Func<Figures, Money?, Figures> set) =>
        new(
            name,
            label,
            c => show(c.Product.Base)?.ForPeople() ?? "",
            (c, typed) =>
            {
                var read = TypedNumbers.Amount(typed, c.Shop.Currency);
                return Based(c, read.Problem, f => set(f, read.Value));
            }
        );

    private static ProductField Sell(
        string name,
        string label,
        Func<Selling, string> show,
        Func<Selling, string, WorkingCopy, Read<Selling>> take
    ) =>
        new(
            name,
            label,
            c => show(c.Product.Selling),
            (c, typed) =>
            {
                var read = take(c.Product.Selling, typed.Trim(), c);
                return read.Ok ? Read<Product>.Of(c.Product with { Selling = read.Value! }) : Read<Product>.No(read.Problem!);
            }
        );

    private static string Shown(int? units) => units?.ToString("N0", CultureInfo.InvariantCulture) ?? "";

    /// <summary>Terms of selling with a number of units that was typed; nothing typed is no limit.</summary>
    private static Read<Selling> Limited(string typed, Func<int?, Selling> with)
    {
        var read = TypedNumbers.Whole(typed, 1, BasketRequest.MostUnits);
        if (!read.Ok)
            return Read<Selling>.No(read.Problem!);
        var selling = with(read.Value);
        return selling.MaximumPerOrder < selling.Least
            ? Read<Selling>.No(
                $"It is sold from {selling.Least:N0} up and at most {selling.MaximumPerOrder:N0} in one order: none could be bought."
            )
            : Read<Selling>.Of(selling);
    }

    /// <summary>A figure of the product that is typed as a text.</summary>
    private static ProductField Figure(string name, string label, Func<Figures, string?> show, Func<Figures, string, Read<Figures>> take) =>
        new(
            name,
            label,
            c => show(c.Product.Base) ?? "",
            (c, typed) =>
                take(c.Product.Base, typed.Trim()) is var read && read.Ok
                    ? Based(c, null, _ => read.Value!)
                    : Based(c, read.Problem, f => f)
        );

    private static Read<Product> Based(WorkingCopy c, string? problem, Func<Figures, Figures> set) =>
        problem is null ? Read<Product>.Of(c.Product with { Base = set(c.Product.Base) }) : Read<Product>.No(problem);

    private static Read<Product> Names(string text, Func<ImmutableArray<string>, Product> set)
    {
        var names = text.Split([',', '\n', ';'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Distinct(StringComparer.OrdinalIgnoreCase)
            .ToImmutableArray();
        return names.FirstOrDefault(n => n.Length > 80) is { } tooLong
            ? Read<Product>.No($"“{tooLong[..30]}…” is longer than 80 characters.")
            : Read<Product>.Of(set(names));
    }

    private static int Side(SizeMm s, string side) =>
        side switch
        {
            "length" => s.Length,
            "width" => s.Width,
            _ => s.Height,
        };

    private static SizeMm? WithSide(SizeMm s, string side, int size)
    {
        var changed = side switch
        {
            "length" => s with { Length = size },
            "width" => s with { Width = size },
            _ => s with { Height = size },
        };
        return changed == new SizeMm(0, 0, 0) ? null : changed;
    }

    private static string? Null(string text) => text.Length == 0 ? null : text;
}

/// <summary>Changes one field of a product; what was changed elsewhere since the typist saw it is never overwritten unseen.</summary>
public sealed class ChangeField(UnicusContext db, ChangeProduct products)
{
    /// <param name="was">The text that stood in the field when it was shown; null means whatever is there now.</param>
    public async Task<Outcome> Run(string code, string field, string typed, string? was, Actor by)
    {
        if (!ProductFields.All.TryGetValue(field, out var f))
            return Outcome.No(field, "There is no such field.");
        if (field is "companions" or "stepUps")
            typed = await Codes(typed);
        return await products.Apply(
            code,
            f.Label,
            by,
            copy =>
            {
                var now = f.Show(copy);
                return was is not null && was.ReplaceLineEndings() != now.ReplaceLineEndings() && typed != now
                    ? Read<Product>.No(
                        $"Changed elsewhere meanwhile to “{(now.Length > 60 ? now[..60] + "…" : now)}”. Yours is not saved; leave "
                            + "the field again to replace theirs."
                    )
                    : f.Take(copy, typed);
            },
            field,
            ProductFields.IsOfTheOne(field) ? p => p.Options.IsEmpty ? VariantScope.All : VariantScope.None : null
        );
    }

    /// <summary>The same list with codes in place of names, and of SKUs, that stand for one product each.</summary>
    private async Task<string> Codes(string typed)
    {
        var pieces = typed.Split([',', ';', '\n', '\r', '\t'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        // More are refused, whatever they are.
        if (pieces.Length > Product.MostSuggested)
            return typed;
        var found = new List<string>();
        foreach (var piece in pieces)
        {
            var (name, code) = (piece.ToLowerInvariant(), piece.ToUpperInvariant());
            var ids = db.Skus.Where(s => s.CodeKey == code).Select(s => s.ProductId);
            var codes = await db
                .Products.Where(p => p.Code == code || p.Name.ToLower() == name || ids.Contains(p.Id))
                .OrderBy(p => p.Code != code)
                .Select(p => p.Code)
                .Take(2)
                .ToListAsync();
            found.Add(codes is [var only] || codes.Contains(code) ? codes[0] : piece);
        }
        return string.Join(", ", found);
    }
}
