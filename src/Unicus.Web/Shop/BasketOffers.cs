using System.Collections.Immutable;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>A set whose parts lie in the basket.</summary>
/// <param name="Saving">By how much the basket's goods cost less with it.</param>
/// <param name="Before">The lines that it was found in.</param>
/// <param name="Lines">The lines with the set in place of its parts.</param>
public sealed record OfferedSet(
    string Code,
    string Name,
    string Address,
    Money Saving,
    ImmutableArray<LineRequest> Before,
    ImmutableArray<LineRequest> Lines
)
{
    /// <summary>Whether the basket is still as it was when this was found.</summary>
    public bool Takes(ImmutableArray<LineRequest> now) =>
        now.Length == Before.Length && now.Zip(Before).All(l => l.First.IsSame(l.Second) && l.First.Quantity == l.Second.Quantity);
}

/// <summary>What is offered beside a basket: sets whose parts lie in it, and what goes with it.</summary>
public sealed class BasketOffers(ShopReading reading, Suggestions suggestions, BasketPricing pricing, Visit visit)
{
    private const int MostLines = 60;
    private const int MostCompanions = 4;

    /// <summary>The sets that make the basket cheaper, the largest saving first.</summary>
    public async Task<IReadOnlyList<OfferedSet>> Find(KeptBasket kept, PricedBasket basket)
    {
        if (basket.Lines.Length != kept.Lines.Length || basket.Lines.Length is 0 or > MostLines)
            return [];
        var (lines, shop, found) = (basket.Lines.Select(l => l.Line).ToList(), await visit.Shop(), new List<OfferedSet>());
        foreach (var entry in await suggestions.SetsWith(lines.Select(l => l.Goods.Edition.ProductId)))
        {
            if (await reading.Latest(entry.ProductId) is not { Product.IsSet: true } set)
                continue;
            var terms = await reading.TermsOf(set, await visit.Today(), await visit.ShopperTerms());
            if (SetOffer.Find(set, lines, terms) is not { } offer)
                continue;
            var with = Lines(kept.Lines, offer);
            if (
                (await pricing.Run((kept with { Lines = with }).Request(null), shop, anyQuantity: true)).Result is { } cheaper
                && Goods(basket) > Goods(cheaper)
            )
                found.Add(new OfferedSet(entry.Code, entry.Name, entry.Address, Goods(basket) - Goods(cheaper), kept.Lines, with));
        }
        return [.. found.OrderByDescending(o => o.Saving.Amount)];
    }

    /// <summary>Companions of what is in the basket that are not in it themselves.</summary>
    public async Task<IReadOnlyList<ShownProduct>> Companions(PricedBasket basket)
    {
        var products = basket.Lines.Select(l => l.Line.Goods.Edition.Product).ToList();
        var inBasket = products.Select(p => p.Code).ToHashSet();
        var codes = products.SelectMany(p => p.Companions).Where(c => !inBasket.Contains(c)).Distinct().Take(MostCompanions).ToList();
        return await suggestions.Shown(codes);
    }

    /// <summary>What the goods come to, reductions of the basket taken off.</summary>
    private static Money Goods(PricedBasket basket) =>
        basket.Subtotal + basket.Reductions.Select(r => r.Amount).Sum(basket.Subtotal.Currency);

    private static ImmutableArray<LineRequest> Lines(ImmutableArray<LineRequest> lines, SetOffer offer)
    {
        var code = offer.Set.Product.Code.Text;
        var set = new LineRequest(code, null, AnswerDocument.Write(offer.Answers, offer.Set.Product.Questions), 1, code)
        {
            Parts = PartAnswersDocument.Write(offer.Assembled),
        };
        return [.. lines.Select((l, i) => l with { Quantity = l.Quantity - offer.Used[i] }).Where(l => l.Quantity > 0), set];
    }
}
