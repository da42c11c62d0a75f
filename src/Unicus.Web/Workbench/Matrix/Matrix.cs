using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>The chapter Matrix: cells, selection by value, bulk change, made and not made.</summary>
public sealed partial class WorkbenchModel
{
    private const int RowsUpTo = 30;

    /// <summary>Rows open first up to about 30 variants or for a single option; the grid beyond.</summary>
    public MatrixView Matrix
    {
        get
        {
            var view = (Request.HasFormContentType ? Request.Form["view"].ToString() : "") is { Length: > 0 } typed ? typed : Request.Query["view"].ToString();
            var isGrid = view == "grid" || (view != "rows" && Copy.Matrix.Variants.Count > RowsUpTo && Copy.Product.Options.Length > 1);
            return new MatrixView(Copy, isGrid, Request.Query["figure"].ToString() is { Length: > 0 } f ? f : "price", int.TryParse(Request.Query["page"], out var p) ? p : 1);
        }
    }

    /// <summary>Writes typed cells and says how their rows stand now.</summary>
    public async Task<IActionResult> OnPostCells(string edits)
    {
        List<CellEdit>? list;
        try
        {
            list = JsonSerializer.Deserialize<List<CellEdit>>(edits, JsonSerializerOptions.Web);
        }
        catch (JsonException)
        {
            return BadRequest();
        }
        if (list is null or { Count: 0 or > 5000 } || list.Any(e => e.Values is null || e.Figure is null || e.Text is null)) return BadRequest();
        var outcome = await cells.Write(Code, list, visit.Actor);
        db.ChangeTracker.Clear();
        if (!await Look()) return NotFound();
        var view = new MatrixView(Copy, false, "price", 1);
        var rows = list.Select(e => e.Values).Distinct().Select(v => (Key: v, Variant: Copy.Matrix.Find(Combination.Parse(v)))).Where(v => v.Variant is not null)
            .ToDictionary(v => v.Key, v => RowState(view, v.Variant!));
        return new JsonResult(new { faults = outcome.Faults, rows });
    }

    /// <summary>What is left of a price and a cost that are being typed.</summary>
    public async Task<IActionResult> OnGetLeft(string values, string? price, string? cost)
    {
        if (!await Look() || Copy.Matrix.Find(Combination.Parse(values)) is not { } v) return NotFound();
        var p = TypedNumbers.Amount(price, Copy.Shop.Currency);
        var c = TypedNumbers.Amount(cost, Copy.Shop.Currency);
        if (p.Value is not { } x || c.Value is not { } y) return new JsonResult(new { left = "", margin = "", loses = false });
        var profit = Profit.Of(x, y, Margins.Rate(Copy, v), Copy.Shop.Terms.PricesIncludeTax);
        return new JsonResult(new { left = profit.Left.ForPeople(), margin = profit.Margin is { } m ? $"{m:0.0} %" : "", loses = profit.Left.Amount < 0 });
    }

    public async Task<IActionResult> OnPostMade(string[] values, bool made)
    {
        var outcome = await cells.MarkMade(Code, values, made, visit.Actor);
        return await Answer(outcome, outcome.Done ? $"{values.Length:N0} {(made ? "made again" : "marked not made")}" : null, canUndo: true);
    }

    /// <summary>The bar for what is selected.</summary>
    public async Task<IActionResult> OnGetBulk(string[] select, string? figure, string? view)
    {
        if (!await Look()) return NotFound();
        return Partial("/Workbench/Matrix/_Change.cshtml", BulkBar(select, figure, BulkOperation.Add, null, null, view));
    }

    public async Task<IActionResult> OnGetBulkRows(string[] select, string? figure, BulkOperation operation, string? amount, string? ending)
    {
        if (!await Look()) return NotFound();
        return Partial("/Workbench/Matrix/_ChangeRows.cshtml", BulkBar(select, figure, operation, amount, ending, null));
    }

    public async Task<IActionResult> OnPostBulk(string[] select, string? figure, BulkOperation operation, string? amount, string? ending)
    {
        if (!await Look()) return NotFound();
        var values = Selected(select);
        var outcome = await bulk.Apply(Code, new BulkRequest(values, figure ?? "price", operation, amount, ending), visit.Actor);
        return await Answer(outcome, outcome.Done ? $"Changed the {figure} of {values.Length:N0} variants" : null, canUndo: true);
    }

    private BulkView BulkBar(string[] select, string? figure, BulkOperation operation, string? amount, string? ending, string? view)
    {
        var values = Selected(select);
        var kind = figure is "cost" or "rrp" ? figure : "price";
        var preview = BulkChange.Preview(Copy, new BulkRequest(values, kind, operation, amount, ending));
        var labels = select.Select(s => s.Split('=')).Where(s => s.Length == 2).Select(s => Copy.Product.Options.FirstOrDefault(o => o.Key.Text == s[0])?.Values.FirstOrDefault(v => v.Key.Text == s[1])?.Label.ToLowerInvariant());
        var sentence = $"{values.Length:N0} {string.Join(", ", labels.OfType<string>())} {(values.Length == 1 ? "variant" : "variants")}";
        return new BulkView(Here, view ?? "", [.. select], sentence, values.Length, kind, operation, amount, ending, preview.Ok && !preview.Value.IsDefault ? preview.Value : [], preview.Problem);
    }

    /// <summary>Every offered variant with one of the values picked, for each option that has picks.</summary>
    private ImmutableArray<string> Selected(string[] select)
    {
        var wanted = select.Select(s => s.Split('=')).Where(s => s.Length == 2).ToLookup(s => s[0], s => s[1]);
        return [.. Copy.Matrix.Offered.Where(v => wanted.All(w => v.Values.Pairs.Any(p => p.Option.Text == w.Key && w.Contains(p.Value.Text)))).Select(v => v.Values.Text)];
    }

    private static object RowState(MatrixView view, MatrixVariant v) => new
    {
        figures = MatrixCells.Figures.ToDictionary(f => f.Name, f => new { text = view.Text(v, f.Name), kind = view.Class(v, f.Name) }),
        left = view.Left(v),
        margin = view.Margin(v),
        loses = view.Loses(v),
    };
}
