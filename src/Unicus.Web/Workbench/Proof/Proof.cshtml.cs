using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Core;
using Unicus.Store;
using Unicus.Web.Shell;
using Unicus.Web.Shop;

namespace Unicus.Web.Workbench;

/// <summary>The shop's page of the working copy, really usable.</summary>
public sealed class ProofModel(UnicusContext db, Catalogue catalogue, PriceHistory history, Visit visit) : PageModel
{
    public BuyView Buy { get; private set; } = null!;

    /// <summary>The page of a group; null for anything else.</summary>
    public GroupView? Group { get; private set; }

    public async Task<IActionResult> OnGet(string code) => await Look(code) ? Page() : NotFound();

    public async Task<IActionResult> OnGetBuy(string code) =>
        !await Look(code) ? NotFound()
        : Group is { } group ? Partial("/Shop/_Group.cshtml", group)
        : Partial("/Shop/_Buy.cshtml", Buy);

    private async Task<bool> Look(string code)
    {
        if (await catalogue.Working(db, code) is not { } copy)
            return false;
        var draft = copy.Draft;
        var range = await catalogue.Range(db, draft);
        var stock = new LeafStock((await catalogue.Stock(db, draft, range)).Of, await visit.Today());
        var terms = await visit.PublicTerms();
        var source = new BuySource(draft, range, stock, terms, IsProof: true, v => history.Prior(db, draft, v, terms));
        if (draft.Product.IsGroup)
            Group = GroupView.Make(source, Request.Query, stock.Today);
        Buy = BuyView.Make(
            source,
            BuyForm.Read(draft.Configurator, Request.Query, stock.Today),
            TypedQuantity.Read(Request.Query["quantity"]),
            PartForm.Read(draft, Request.Query, range, stock.Today)
        );
        if (draft.Configurator.Faults is [var fault, ..])
            Buy.Problem = fault.What;
        return true;
    }
}
