using System.Collections.Immutable;
using System.Text.Json;
using Microsoft.AspNetCore.Mvc;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Workbench;

/// <summary>The chapter Matrix: cells, selection by value, bulk change, made and not made.</summary>
public sealed class MatrixChapter(Bench bench, MatrixCells cells, BulkChange bulk, ReadPricesBack readBack) : CellsModel(bench, cells)
{
    public override Chapter Chapter => Chapter.Matrix;

    private MatrixView? _matrix;

    public MatrixView Matrix => _matrix?.IsOf(Copy) == true ? _matrix : _matrix = new MatrixView(Copy, MatrixLook.Read(Request));

    /// <inheritdoc/>
    protected override VariantScope Needed(Product product) => MatrixView.Scope(product, MatrixLook.Read(Request));

    /// <summary>What reading prices back would do, where that is asked for.</summary>
    public async Task<ReadBack?> ReadBack() => Request.Query["read"] == "back" ? await readBack.Preview(Code) : null;

    /// <summary>Replaces prices of variants by the base and surcharges behind them.</summary>
    public async Task<IActionResult> OnPostReadBack(int version)
    {
        var outcome = await readBack.Run(Code, version, Visit.Actor);
        return await Answer(outcome, outcome.Done ? "Prices read back; none has changed" : null, canUndo: true);
    }

    /// <summary>Adds a column of prices of a time: a price rule of the product that begins with what the first variant costs.</summary>
    public async Task<IActionResult> OnPostDated(string? name, string? from, string? until)
    {
        if (!await Look(VariantScope.All))
            return NotFound();
        if (Copy.Matrix.Offered.FirstOrDefault(v => v.Price.Figure is not null) is not { } first)
            return await Answer(Outcome.No("", "Give a variant a price first."));
        var fields = new Pricing.RuleFields
        {
            ["name"] = TypedText.Line(name),
            ["effect"] = "setBySku",
            ["rows"] = $"{first.Sku}: {first.Price.Figure}",
            ["from"] = TypedText.Line(from),
            ["until"] = TypedText.Line(until),
        };
        var key = OwnRules.FreeKey(Copy.Product, fields["name"]);
        var (rule, faults) = fields.Read(key, Copy.Shop.Currency, Copy.Shop.TimeZone, RuleState.On);
        if (rule is null)
            return await Answer(new Outcome(faults));
        var outcome = await OwnRules.Put(Products, Code, rule, Copy.Version, Visit.Actor);
        return outcome.Done ? Redirect($"{Here}?view=rows&columns=sku,price,{DatedPrices.Column(key)}") : await Answer(outcome);
    }

    /// <summary>Another window of rows, while one scrolls.</summary>
    public async Task<IActionResult> OnGetWindow()
    {
        if (!await Look())
            return NotFound();
        return Partial(Matrix.IsGrid ? "/Workbench/Matrix/_GridRows.cshtml" : "/Workbench/Matrix/_RowRows.cshtml", Matrix);
    }

    /// <summary>What is left of a price and a cost that are being typed.</summary>
    public async Task<IActionResult> OnGetLeft(string values, string? price, string? cost)
    {
        if (!await LookAtGoods(new VariantScope([values])) || Copy.Matrix.Find(values) is not { } v)
            return NotFound();
        var p = TypedNumbers.Amount(price, Copy.Shop.Currency);
        var c = TypedNumbers.Amount(cost, Copy.Shop.Currency);
        if (p.Value is not { } x || c.Value is not { } y)
            return new JsonResult(
                new
                {
                    left = "",
                    margin = "",
                    loses = false,
                }
            );
        var profit = Margins.Basis(Copy.Matrix, Copy.Shop.Terms, v).Of(x, y);
        return new JsonResult(
            new
            {
                left = profit.Left.ForPeople(),
                margin = profit.Margin is { } m ? $"{m:0.0} %" : "",
                loses = profit.Left.Amount < 0,
            }
        );
    }

    public async Task<IActionResult> OnPostMade(string[] values, bool made)
    {
        var outcome = await Cells.MarkMade(Code, values, made, Visit.Actor);
        return await Answer(
            outcome,
            outcome.Done ? $"{values.Length:N0} {(made ? "made again" : "marked not made")}" : null,
            canUndo: true
        );
    }

    /// <summary>The bar for what is selected: by values (<c>select</c>) among those shown, or one by one (<c>only</c>).</summary>
    public Task<IActionResult> OnGetBulk() => Bar("/Workbench/Matrix/_Change.cshtml");

    public Task<IActionResult> OnPostBulkRows() => Bar("/Workbench/Matrix/_ChangeRows.cshtml");

    public async Task<IActionResult> OnPostBulk()
    {
        var request = Bulk();
        var outcome = await bulk.Apply(Code, request, Visit.Actor);
        return await Answer(
            outcome,
            outcome.Done ? $"Changed the {MatrixFigures.Find(request.Figure)?.Word} of {outcome.Result:N0} variants" : null,
            canUndo: request.Figure != BulkRequest.Stock
        );
    }

    /// <summary>Marks what is selected as not made.</summary>
    public async Task<IActionResult> OnPostBulkNotMade()
    {
        var request = Bulk();
        if (!await Look(request.Filter!.LooksAtFigures ? VariantScope.All : VariantScope.None))
            return NotFound();
        var values = request.Values.Length > 0 ? request.Values : [.. request.Filter.Find(Copy).Select(Copy.Matrix.Made.TextAt)];
        if (values.Length > 20_000)
            return await Answer(
                Outcome.No("", $"{values.Length:N0} variants at once are too many to mark. Remove the value in Options instead.")
            );
        return await OnPostMade([.. values], made: false);
    }

    private async Task<IActionResult> Bar(string partial)
    {
        if (!await Look(VariantScope.None))
            return NotFound();
        var request = Bulk();
        var preview = await bulk.Preview(Code, request);
        if (preview is null)
            return NotFound();
        var labels = request
            .Filter!.Picks.Select(p => p.Split('='))
            .Where(p => p.Length == 2)
            .Select(p =>
                Copy.Product.Options.FirstOrDefault(o => o.Key.Text == p[0])
                    ?.Values.FirstOrDefault(v => v.Key.Text == p[1])
                    ?.Label.ToLowerInvariant()
            )
            .OfType<string>()
            .ToList();
        var kind =
            request.Values.Length > 0 ? ""
            : labels.Count > 0 ? string.Join(", ", labels) + " "
            : request.Filter.IsNone ? ""
            : "found ";
        return Partial(
            partial,
            new BulkView(
                Here,
                MatrixLook.Read(Request),
                request.Values,
                $"{preview.Count:N0} {kind}{(preview.Count == 1 ? "variant" : "variants")}",
                request,
                preview
            )
        );
    }

    private BulkRequest Bulk()
    {
        string? Of(string name) =>
            Request.HasFormContentType && Request.Form.ContainsKey(name) ? Request.Form[name].ToString()
            : Request.Query.ContainsKey(name) ? Request.Query[name].ToString()
            : null;
        ImmutableArray<string> Many(string name) =>
            [.. (Request.HasFormContentType && Request.Form.ContainsKey(name) ? Request.Form[name] : Request.Query[name]).OfType<string>()];
        var look = MatrixLook.Read(Request);
        var picks = Many("select");
        var figure = Of("of") ?? look.Figure;
        var operation = Named.Choice<BulkOperation>(Of("operation")) ?? BulkOperation.Add;
        var filter = look.Filter with { Picks = picks.IsEmpty ? look.Filter.Picks : picks, Sort = "" };
        return new BulkRequest(
            Many("only"),
            BulkView.Figures.Any(f => f.Name == figure) ? figure : "price",
            operation,
            operation == BulkOperation.Copy ? Of("source") : Of("amount"),
            Of("ending"),
            filter,
            Of("way") == "down"
        )
        {
            Reason = Of("reason"),
        };
    }
}
