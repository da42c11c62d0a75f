using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Core;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>The page of one product, from its newest edition.</summary>
public sealed class ProductModel(UnicusContext db, Catalogue catalogue, Visit visit) : PageModel
{
    public CompiledEdition Edition { get; private set; } = null!;
    public BuyView Buy { get; private set; } = null!;
    public string StructuredData { get; private set; } = "";

    public async Task<IActionResult> OnGet(string address, string? problem)
    {
        if (!await Look(address)) return NotFound();
        Buy.Problem = problem switch { "open" => $"Still to pick: {string.Join(", ", Buy.Questions.Where(q => !q.Values.Any(v => v.Picked)).Select(q => q.Option.Label))}.", "short" => "There are not that many left.", _ => null };
        return Page();
    }

    /// <summary>What a pick changes.</summary>
    public async Task<IActionResult> OnGetBuy(string address)
    {
        if (!await Look(address)) return NotFound();
        Response.Headers["HX-Replace-Url"] = $"/p/{address}{BuyView.Query(Buy.Answers.Given, Buy.Quantity)}";
        return Partial("_Buy", Buy);
    }

    /// <summary>The same without script: the picks go into the address.</summary>
    public async Task<IActionResult> OnPostPick(string address)
    {
        if (await catalogue.AtAddress(db, address) is not { } edition) return NotFound();
        return Redirect($"/p/{address}{BuyView.Query(BuyView.Read(edition.Matrix, Request.Form).Given, Quantity(Request.Form["quantity"]))}");
    }

    /// <summary>Units as typed; 1 where it is no number.</summary>
    public static int Quantity(string? typed) => TypedNumbers.Whole(typed, 1, BasketRequest.MostUnits).Value ?? 1;

    private async Task<bool> Look(string address)
    {
        if (await catalogue.AtAddress(db, address) is not { } edition) return false;
        Edition = edition;
        var shop = await visit.Shop();
        var stock = await SkuLookup.Stock(db, [edition.ProductId]);
        Buy = BuyView.Make(edition.Product.Code.Text, edition.Product, edition.Matrix, stock, BuyView.Read(edition.Matrix, Request.Query), Quantity(Request.Query["quantity"]), shop.Currency, await visit.Today(), isProof: false);
        StructuredData = Shop.StructuredData.Of(edition, stock, await visit.Today(), $"{Request.Scheme}://{Request.Host}");
        return true;
    }
}
