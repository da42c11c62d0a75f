using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>A variant on the list of labels.</summary>
public sealed record LabelLine(string Values, string Name, string Sku, Gtin? Gtin, Money? Price, int OnHand, int Copies);

/// <summary>A printable sheet of barcode labels: which variants, how many copies, GTIN or SKU.</summary>
public sealed class LabelsModel(ProductReading goods) : PageModel
{
    public const int MostLabels = 2000;
    private const int MostLines = 500;

    public WorkingCopy Copy { get; private set; } = null!;
    public IReadOnlyList<LabelLine> Lines { get; private set; } = [];
    public MatrixLook Look { get; private set; } = null!;
    public int Total { get; private set; }
    public bool ShowsPrice { get; private set; }
    public string Code { get; private set; } = "gtin";
    public string? Problem { get; private set; }

    /// <summary>One entry a label; empty until copies are asked for.</summary>
    public IReadOnlyList<LabelLine> Sheet { get; private set; } = [];

    public async Task<IActionResult> OnGet(string code)
    {
        Look = MatrixLook.Read(Request);
        (ShowsPrice, Code) = (Request.Query["price"] == "yes", Request.Query["barcode"] == "sku" ? "sku" : "gtin");
        if (await goods.Copy(code) is not { } copy)
            return NotFound();
        Copy = copy;
        var numbers = Look.Filter.Find(copy).Where(n => copy.Matrix.Listed(n) is not { Retired: true }).ToList();
        Total = numbers.Count;
        Lines = [.. numbers.Take(MostLines).Select(copy.Matrix.At).Select(Line)];
        var wanted = Lines.SelectMany(l => Enumerable.Repeat(l, l.Copies)).ToList();
        if (wanted.Count > MostLabels)
            Problem = $"{wanted.Count:N0} labels are more than the {MostLabels:N0} of one sheet. Print them in parts.";
        else
            Sheet = wanted;
        return Page();
    }

    public Barcode Barcode(LabelLine line) =>
        Code == "gtin" && line.Gtin is { } gtin
            ? Workbench.Barcode.Of(gtin)
            : Workbench.Barcode.Code128(Slug.Plain(line.Sku));

    private LabelLine Line(MatrixVariant v)
    {
        var typed = Request.Query["n-" + v.Values.Text].ToString();
        var copies = TypedNumbers.Whole(typed, 0, MostLabels);
        if (!copies.Ok)
            Problem = $"{v.Values.Name(Copy.Product.Options)}: {copies.Problem}";
        return new LabelLine(
            v.Values.Text,
            PriceCalculator.Title(Copy.Product.Name, v.Values, Copy.Product.Options),
            v.Sku.Text,
            v.Variant.Gtin,
            v.Price.Figure,
            Copy.Stock.GetValueOrDefault(v.Sku).OnHand,
            copies.Value ?? 0
        );
    }
}
