using System.Collections.Immutable;
using System.Globalization;

namespace Unicus.Store;

/// <summary>Kinds of fields that several chapters have.</summary>
internal static class FieldKinds
{
    /// <summary>In which days are typed.</summary>
    public static readonly CultureInfo English = CultureInfo.GetCultureInfo("en-GB");

    /// <summary>Codes of other products, separated by commas, spaces or lines.</summary>
    public static ProductField Codes(
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
        )
        {
            Look = new FieldLook(FieldBox.Goods, "names or codes, with commas"),
        };

    public static ProductField Text(
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

    public static ProductField Amount(string name, string label, Func<Figures, Money?> show, Func<Figures, Money?, Figures> set) =>
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

    /// <summary>A figure of the product that is typed as a text.</summary>
    public static ProductField Figure(string name, string label, Func<Figures, string?> show, Func<Figures, string, Read<Figures>> take) =>
        new(
            name,
            label,
            c => show(c.Product.Base) ?? "",
            (c, typed) =>
                take(c.Product.Base, typed.Trim()) is var read && read.Ok
                    ? Based(c, null, _ => read.Value!)
                    : Based(c, read.Problem, f => f)
        );

    public static Read<Product> Based(WorkingCopy c, string? problem, Func<Figures, Figures> set) =>
        problem is null ? Read<Product>.Of(c.Product with { Base = set(c.Product.Base) }) : Read<Product>.No(problem);

    /// <summary>Nothing where nothing is typed.</summary>
    public static string? Null(string text) => text.Length == 0 ? null : text;
}
