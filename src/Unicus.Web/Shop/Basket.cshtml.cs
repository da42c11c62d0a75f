using System.Collections.Immutable;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Core;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>What the shopper means to buy.</summary>
public sealed class BasketModel(UnicusContext db, Catalogue catalogue, Baskets baskets, BasketPricing pricing, Visit visit) : PageModel
{
    public PricedBasket? Basket { get; private set; }
    public string? Problem { get; private set; }

    /// <summary>A remark for each line that cannot be had as it stands; empty where all is well.</summary>
    public IReadOnlyList<string> Notes { get; private set; } = [];

    public async Task OnGet()
    {
        var lines = await baskets.Lines();
        if (lines.IsEmpty) return;
        var priced = await pricing.Run(new BasketRequest(lines, null), await visit.Shop());
        if (!priced.Done)
        {
            // Something was taken off sale meanwhile: say which, keep the rest.
            var gone = priced.Faults.Select(f => int.Parse(f.Where.Split('/')[^1])).ToHashSet();
            Problem = $"No longer on sale, so taken out: {string.Join(", ", gone.Select(g => lines[g].Product ?? lines[g].Sku))}.";
            lines = [.. lines.Where((_, i) => !gone.Contains(i))];
            await baskets.Save(lines);
            if (lines.IsEmpty) return;
            priced = await pricing.Run(new BasketRequest(lines, null), await visit.Shop());
        }
        Basket = priced.Result;
        var stock = await SkuLookup.Stock(db, [.. Basket!.Lines.Select(l => l.Edition.ProductId).Distinct()]);
        var today = await visit.Today();
        Notes = [.. Basket.Lines.Select(l => Availability.Of(l.Variant.Selling, stock.GetValueOrDefault(l.Variant.Sku), today) is var a && !a.CanSell(l.Request.Quantity) ? $"Only {a.Units:N0} can be had" : "")];
    }

    public async Task<IActionResult> OnPostAdd(string product, string? quantity)
    {
        if (await catalogue.Latest(db, product) is not { } edition) return NotFound();
        var answers = AnswerReader.Filled(edition.Matrix.Configurator, BuyView.Read(edition.Matrix, Request.Form));
        var units = ProductModel.Quantity(quantity);
        var state = edition.Matrix.Configurator.Answer(answers);
        var page = $"/p/{edition.Product.Address}{BuyView.Query(answers.Given, units)}";
        if (!state.Complete) return Redirect(page + (page.Contains('?') ? "&" : "?") + "problem=open");
        var variant = edition.Matrix.At(state.Agreeing[0]);
        var stock = await SkuLookup.Stock(db, [edition.ProductId]);
        if (!Availability.Of(variant.Selling, stock.GetValueOrDefault(variant.Sku), await visit.Today()).CanSell(units)) return Redirect(page + (page.Contains('?') ? "&" : "?") + "problem=short");
        var given = answers.Given.ToImmutableSortedDictionary(a => a.Key.Text, a => (string?)a.Value.Text);
        var lines = await baskets.Lines();
        var same = lines.FindIndex(l => l.Product == edition.Product.Code.Text && l.Answers.SequenceEqual(given));
        lines = same < 0
            ? lines.Add(new LineRequest(edition.Product.Code.Text, null, given, units, edition.Product.Code.Text))
            : lines.SetItem(same, lines[same] with { Quantity = Math.Min(BasketRequest.MostUnits, lines[same].Quantity + units) });
        await baskets.Save(lines);
        return Redirect("/basket");
    }

    public async Task<IActionResult> OnPostChange(string[] quantities, int? remove)
    {
        var lines = await baskets.Lines();
        var changed = lines.Select((l, i) => l with { Quantity = i < quantities.Length && TypedNumbers.Whole(quantities[i], 0, BasketRequest.MostUnits).Value is { } q ? q : l.Quantity })
            .Where((l, i) => i != remove && l.Quantity > 0);
        await baskets.Save([.. changed]);
        return Redirect("/basket");
    }
}

file static class Finding
{
    public static int FindIndex<T>(this ImmutableArray<T> items, Predicate<T> fits)
    {
        for (var i = 0; i < items.Length; i++)
            if (fits(items[i])) return i;
        return -1;
    }
}
