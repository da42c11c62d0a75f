using System.Collections.Immutable;
using System.Globalization;
using static Unicus.Store.FieldKinds;

namespace Unicus.Store;

/// <summary>The figures that all variants of a product have unless they have their own.</summary>
internal static class FigureFields
{
    public static IEnumerable<ProductField> Measured()
    {
        foreach (var figure in new[] { "sku", "gtin" })
            yield return OfTheOne(MatrixFigures.Find(figure)!);
        yield return Amount("price", "Price", f => f.Price, (f, m) => f with { Price = m }) with
        {
            Look = FieldLook.Number("none") with
            {
                Label = c => $"Price, {c.Shop.Currency}{(c.Shop.Terms.PricesIncludeTax ? " with tax" : " without tax")}",
            },
        };
        yield return Amount("rrp", "RRP", f => f.Rrp, (f, m) => f with { Rrp = m }) with
        {
            Look = FieldLook.Number("none"),
        };
        yield return Amount("cost", "Cost", f => f.Cost, (f, m) => f with { Cost = m }) with
        {
            Look = FieldLook.Number("none") with { Label = _ => "Cost, without tax" },
        };
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
        )
        {
            Look = FieldLook.Number("11.5 kg"),
        };
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
            )
            {
                Look = FieldLook.Number("46 cm"),
            };
    }

    public static IEnumerable<ProductField> Others()
    {
        yield return new ProductField(
            "taxClass",
            "Tax class",
            c => c.Product.Base.TaxClass ?? "",
            (c, t) =>
                t.Length == 0 || c.Shop.Terms.TaxClasses.Any(x => x.Key.Text == t)
                    ? Based(c, null, f => f with { TaxClass = Null(t) })
                    : Read<Product>.No("There is no such tax class.")
        )
        {
            Look = new FieldLook(FieldBox.Choice) { Choices = c => [.. TaxClasses(c.Shop.Terms)] },
        };
        yield return new ProductField(
            "lowLevel",
            "Low level",
            c => c.Product.Base.LowLevel?.ToString(CultureInfo.InvariantCulture) ?? "",
            (c, t) =>
            {
                var read = TypedNumbers.Whole(t, 0, 1_000_000);
                return Based(c, read.Problem, f => f with { LowLevel = read.Value });
            }
        )
        {
            Look = FieldLook.Number("never") with { Label = _ => "Low at" },
        };
        yield return Figure("netContent", "Net content", f => f.NetContent?.ToString(), MatrixFigures.TakeContent) with
        {
            Look = FieldLook.Number("500 g"),
        };
        yield return Figure("customsCode", "Customs code", f => f.CustomsCode, MatrixFigures.TakeCustomsCode) with
        {
            Look = FieldLook.Number("none"),
        };
        yield return Figure("origin", "Country of origin", f => f.Origin, MatrixFigures.TakeOrigin) with
        {
            Look = FieldLook.Number("IE"),
        };
    }

    private static IEnumerable<FieldChoice> TaxClasses(TradeTerms terms) =>
        terms
            .TaxClasses.Skip(1)
            .Select(c => new FieldChoice(c.Key.Text, c.Label))
            .Prepend(new FieldChoice("", $"{terms.TaxClasses[0].Label} (the usual)"));

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
}
