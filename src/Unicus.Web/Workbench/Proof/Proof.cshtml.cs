using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;
using Unicus.Web.Shop;

namespace Unicus.Web.Workbench;

/// <summary>The shop's page of the working copy, really usable.</summary>
public sealed class ProofModel(UnicusContext db, Visit visit) : PageModel
{
    public BuyView Buy { get; private set; } = null!;

    public async Task<IActionResult> OnGet(string code) => await Look(code) ? Page() : NotFound();

    public async Task<IActionResult> OnGetBuy(string code) => await Look(code) ? Partial("/Shop/_Buy.cshtml", Buy) : NotFound();

    private async Task<bool> Look(string code)
    {
        if (await WorkingCopy.Load(db, code) is not { } copy) return false;
        Buy = BuyView.Make(copy.Row.Code, copy.Product, copy.Matrix, copy.Stock, BuyView.Read(copy.Matrix, Request.Query), ProductModel.Quantity(Request.Query["quantity"]), copy.Shop.Currency, await visit.Today(), isProof: true);
        return true;
    }
}
