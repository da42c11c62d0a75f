using Unicus.Store;
using Unicus.Web.Shell;
using Unicus.Web.Shop;

namespace Unicus.Web.Workbench;

/// <summary>What the shop's page of a working copy shows.</summary>
/// <param name="Version">Of the working copy; a later one replaces it.</param>
/// <param name="Group">The page of a group; null for anything else.</param>
public sealed record ProofView(int Version, BuyView Buy, GroupView? Group)
{
    /// <summary>Whether it comes with the reply to a change.</summary>
    public bool BesideAChange { get; init; }
}

/// <summary>Makes the shop's page of a working copy, really usable.</summary>
public sealed class Proofs(ShopReading reading, Visit visit)
{
    /// <summary>The page for some picks; null where there is no such product.</summary>
    /// <param name="loaded">The working copy, where it is at hand.</param>
    public async Task<ProofView?> Look(string code, IQueryCollection picks, WorkingCopy? loaded = null)
    {
        if (await reading.Working(code, loaded) is not { } copy)
            return null;
        var draft = copy.Draft;
        var range = await reading.Range(draft);
        var stock = await reading.Outlook(draft, range, await visit.Today());
        var terms = await visit.PublicTerms();
        var source = new BuySource(draft, range, stock, terms, IsProof: true, v => reading.PriorPrice(draft, v, terms));
        var buy = BuyView.Make(
            source,
            BuyForm.Read(draft.Configurator, picks, stock.Today),
            TypedQuantity.Read(picks["quantity"], draft.Product.Selling.Least),
            PartForm.Read(draft, picks, range, stock.Today)
        );
        if (draft.Configurator.Faults is [var fault, ..])
            buy.Problem = fault.What;
        return new ProofView(copy.Version, buy, draft.Product.IsGroup ? GroupView.Make(source, picks, stock.Today) : null);
    }
}
