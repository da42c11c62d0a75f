using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;
using Unicus.Web.Shell;
using Unicus.Web.Workbench;

namespace Unicus.Web.Range;

/// <summary>All products and variants as rows of one sheet.</summary>
public sealed class VariantsModel(RangeGrid grid, CategoryTree tree, Visit visit) : PageModel
{
    public const int RowsInWindow = 150;
    private const int MostInBulk = 20_000;
    private static readonly string[] Figures = ["price", "cost", "rrp", "stock", "sku", "gtin"];

    public RangeFilter Filter { get; private set; } = new("", "", "");
    public int From { get; private set; }
    public int Total { get; private set; }
    public IReadOnlyList<RangeBlock> Blocks { get; private set; } = [];
    public IReadOnlyList<string> Categories { get; private set; } = [];
    public int Count => Blocks.Sum(b => b.Variants.Length);
    public IEnumerable<CellFigure> Columns => Figures.Select(f => MatrixFigures.Find(f)!);
    public string? Problem { get; private set; }

    public Task OnGet() => Look();

    public async Task<IActionResult> OnGetWindow()
    {
        await Look();
        return Partial("_VariantRows", this);
    }

    public async Task<IActionResult> OnPostCells(string edits)
    {
        if (CellEdit.ReadAll(edits) is not { Count: > 0 } list)
            return BadRequest();
        var outcome = await grid.Write(list, visit.Actor);
        var blocks = await grid.Load([.. list.Select(e => RangeGrid.Split(e.Values)).Distinct()]);
        var rows = blocks
            .SelectMany(b => b.Variants.Select(v => (Name: Name(b, v), State: State(b, v))))
            .ToDictionary(r => r.Name, r => r.State);
        return new JsonResult(new { faults = outcome.Faults, rows });
    }

    public async Task<IActionResult> OnPostCellsTried(string edits)
    {
        if (CellEdit.ReadAll(edits) is not { } list)
            return BadRequest();
        return new JsonResult(new { faults = list.Count == 0 ? [] : (await grid.Write(list, visit.Actor, tryOnly: true)).Faults });
    }

    public Task<IActionResult> OnGetBulk() => Bar("/Workbench/Matrix/_Change.cshtml");

    public Task<IActionResult> OnPostBulkRows() => Bar("/Workbench/Matrix/_ChangeRows.cshtml");

    public async Task<IActionResult> OnPostBulk()
    {
        var request = await Bulk();
        var outcome = await grid.Apply(request, visit.Actor);
        await Look();
        if (outcome.Done)
            Response.Headers["HX-Trigger"] = JsonSerializer.Serialize(
                new
                {
                    said = new
                    {
                        text = $"Changed the {MatrixFigures.Find(request.Figure)?.Word} of {outcome.Result:N0} variants. "
                            + (request.Figure == BulkRequest.Stock ? "The ledger has them." : "Each product's workbench can undo it."),
                    },
                }
            );
        else
            Problem = outcome.Faults[0].What;
        return Partial("_VariantSheet", this);
    }

    public string Class(RangeBlock block, MatrixVariant v, string figure) =>
        new MatrixView(block.Copy, MatrixLook.Read(Request) with { View = "rows", Filter = MatrixFilter.None }).Class(v, figure);

    public static string Name(RangeBlock block, MatrixVariant v) => $"{block.Copy.Code}|{v.Values.Text}";

    /// <summary>The address with another first row.</summary>
    public string At(int from) =>
        $"?q={Uri.EscapeDataString(Filter.Text)}&category={Uri.EscapeDataString(Filter.Category)}&state={Filter.State}&from={from}";

    private object State(RangeBlock block, MatrixVariant v)
    {
        var profit = Margins.Of(block.Copy.Matrix, block.Copy.Shop.Terms, v);
        return new
        {
            figures = Figures.ToDictionary(
                f => f,
                f => new { text = MatrixFigures.Find(f)!.Show(block.Copy, v).Text, kind = Class(block, v, f) }
            ),
            left = profit?.Left.ForPeople() ?? "",
            margin = profit?.Margin is { } m ? $"{m:0.0} %" : "",
            loses = profit is { Left.Amount: < 0 },
        };
    }

    private async Task<IActionResult> Bar(string partial)
    {
        var request = await Bulk();
        if (request.Values.Length > MostInBulk)
            return Content(
                $"<p class=\"note bad\">{request.Values.Length:N0} variants are more than the {MostInBulk:N0} that are changed at "
                    + "once over the range. Filter first.</p>",
                "text/html"
            );
        var preview = await grid.Preview(request);
        return Partial(
            partial,
            new BulkView(
                "/office/variants",
                MatrixLook.Read(Request),
                request.Values,
                $"{preview.Count:N0} {(preview.Count == 1 ? "variant" : "variants")}",
                request,
                preview
            )
        );
    }

    private async Task<BulkRequest> Bulk()
    {
        string? Of(string name) =>
            Request.HasFormContentType && Request.Form.ContainsKey(name) ? Request.Form[name].ToString()
            : Request.Query.ContainsKey(name) ? Request.Query[name].ToString()
            : null;
        ImmutableArray<string> only =
        [
            .. (
                Request.HasFormContentType && Request.Form.ContainsKey("only") ? Request.Form["only"] : Request.Query["only"]
            ).OfType<string>(),
        ];
        if (only.IsEmpty)
            only = [.. await grid.Names(ReadFilter())];
        var operation = Named.Choice<BulkOperation>(Of("operation")) ?? BulkOperation.Add;
        return new BulkRequest(
            only,
            BulkView.Figures.Any(f => f.Name == Of("of")) ? Of("of")! : "price",
            operation,
            operation == BulkOperation.Copy ? Of("source") : Of("amount"),
            Of("ending"),
            MatrixFilter.None,
            Of("way") == "down"
        )
        {
            Reason = Of("reason"),
        };
    }

    private RangeFilter ReadFilter() =>
        new(
            Request.Query["q"].ToString().Trim(),
            Request.Query["category"].ToString(),
            RangeFilter.States.Any(s => s.Key == Request.Query["state"].ToString()) ? Request.Query["state"].ToString() : ""
        );

    private async Task Look()
    {
        Filter = ReadFilter();
        From = int.TryParse(Request.Query["from"], out var from) && from > 0 ? from : 0;
        (Total, Blocks) = await grid.Window(Filter, From, RowsInWindow);
        Categories = await tree.Names();
    }
}
