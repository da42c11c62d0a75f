using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Stock;

/// <summary>One SKU: its levels, its ledger, and a movement by hand.</summary>
public sealed class SkuModel(StockReading stock, MoveStock move, OfficeLists lists, Visit visit) : PageModel
{
    private const int MostLines = 300;

    public StockedSku Sku { get; private set; } = null!;

    /// <summary>What it is of, with its low level.</summary>
    public SkuStock? Goods { get; private set; }

    public IReadOnlyList<StockLocation> Locations { get; private set; } = [];
    public IReadOnlyList<(string Name, StockLevel Level)> Levels { get; private set; } = [];
    public IReadOnlyList<LedgerLine> Ledger { get; private set; } = [];
    public string? Problem { get; private set; }
    public string? Kind { get; private set; }
    public string? Quantity { get; private set; }
    public string? Reason { get; private set; }

    public static string Signed(int units) =>
        units == 0 ? ""
        : units > 0 ? $"+{units:N0}"
        : $"−{-units:N0}";

    public async Task<IActionResult> OnGet() => await Look(RawPath.Last(Request)) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(string? kind, string? quantity, string? location, string? to, string? reason)
    {
        var sku = RawPath.Last(Request);
        if (!await Look(sku))
            return NotFound();
        var units = TypedNumbers.Whole(quantity, 0, Unicus.Core.Stock.Movements.MostUnits);
        (Kind, Quantity, Reason) = (kind, quantity, reason);
        Problem =
            !units.Ok ? units.Problem
            : units.Value is null ? "Type how many units."
            : null;
        if (Problem is not null)
            return Page();
        var outcome = await move.Run(
            new MovementRequest(sku, kind ?? "", units.Value!.Value, location, kind == "transfer" ? to : null, reason),
            visit.Actor
        );
        if (outcome.Done)
            return Redirect(RawPath.OfSku(Sku.Code));
        Problem = outcome.Faults[0].What;
        return Page();
    }

    private async Task<bool> Look(string code)
    {
        if (await stock.Find(code) is not { } sku)
            return false;
        (Sku, Locations) = (sku, await stock.Locations());
        var levels = (await stock.Levels(sku)).ToDictionary(l => l.Location.Id, l => l.Level);
        Levels = [.. Locations.Select(l => (l.Name, levels.GetValueOrDefault(l.Id)))];
        (Goods, Ledger) = (await lists.StockOf(sku.Id), await stock.Ledger(sku, MostLines));
        return true;
    }
}
