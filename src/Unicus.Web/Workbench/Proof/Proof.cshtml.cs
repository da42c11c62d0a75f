using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;
using Unicus.Web.Shop;

namespace Unicus.Web.Workbench;

/// <summary>The shop's page of the working copy, really usable.</summary>
public sealed class ProofModel(UnicusContext db, Catalogue catalogue, Visit visit) : PageModel
{
    public BuyView Buy { get; private set; } = null!;

    public async Task<IActionResult> OnGet(string code) => await Look(code) ? Page() : NotFound();

    public async Task<IActionResult> OnGetBuy(string code) => await Look(code) ? Partial("/Shop/_Buy.cshtml", Buy) : NotFound();

    private async Task<bool> Look(string code)
    {
        if (await catalogue.Working(db, code) is not { } copy)
            return false;
        var parts = await catalogue.Parts(db, copy.Product);
        var stock = await PartStock.With(db, await SkuLookup.Stock(db, [copy.ProductId]), copy.Product, parts);
        var source = new BuySource(
            copy.Product.Code.Text,
            copy.Product,
            copy.Matrix,
            copy.Configurator,
            stock,
            parts,
            copy.Currency,
            await visit.Today(),
            IsProof: true
        );
        Buy = BuyView.Make(
            source,
            BuyForm.Read(copy.Configurator, Request.Query, source.Today),
            TypedQuantity.Read(Request.Query["quantity"])
        );
        if (copy.Configurator.Faults is [var fault, ..])
            Buy.Problem = fault.What;
        return true;
    }
}
