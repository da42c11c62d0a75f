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
            var gone = priced.Faults.Select(f => int.Parse(f.Where.Split('/')[2])).ToHashSet();
            Problem = $"No longer on sale, so taken out: {string.Join(", ", gone.Select(g => lines[g].Product ?? lines[g].Sku))}.";
            lines = [.. lines.Where((_, i) => !gone.Contains(i))];
            await baskets.Save(lines);
            if (lines.IsEmpty) return;
            priced = await pricing.Run(new BasketRequest(lines, null), await visit.Shop());
        }
        Basket = priced.Result;
        var stock = await SkuLookup.Stock(db, [.. Basket!.Lines.Select(l => l.Edition.ProductId).Distinct()]);
        var today = await visit.Today();
        var notes = new List<string>();
        foreach (var line in Basket.Lines)
        {
            var parts = await catalogue.Parts(db, line.Edition.Product);
            var available = PartStock.Available(line.Variant, line.Edition.Configurator.Parts(line.Answers), parts, await PartStock.With(db, stock, line.Edition.Product, parts), today);
            notes.Add(available.CanSell(line.Request.Quantity) ? "" : $"Only {available.Units:N0} can be had");
        }
        Notes = notes;
    }

    public async Task<IActionResult> OnPostAdd(string product, string? quantity)
    {
        if (await catalogue.Latest(db, product) is not { } edition) return NotFound();
        var (configurator, today) = (edition.Configurator, await visit.Today());
        var sent = BuyForm.Read(configurator, Request.Form, today);
        var units = ProductModel.Quantity(quantity);
        var page = $"/p/{edition.Product.Address}{BuyForm.Query(sent.Given, units)}";
        IActionResult Back(string problem) => Redirect(page + (page.Contains('?') ? "&" : "?") + "problem=" + problem);
        if (sent.Faulty.Count > 0) return Back("typed");
        var answers = configurator.Filled(sent.Given, restNone: true, today);
        var reply = configurator.Answer(answers);
        if (!reply.Complete) return Back("open");
        var variant = configurator.Decided(reply)!;
        var parts = await catalogue.Parts(db, edition.Product);
        var stock = await PartStock.With(db, await SkuLookup.Stock(db, [edition.ProductId]), edition.Product, parts);
        if (!PartStock.Available(variant, configurator.Parts(answers), parts, stock, today).CanSell(units)) return Back("short");
        var lines = await baskets.Lines();
        var line = new LineRequest(edition.Product.Code.Text, null, AnswerDocument.Write(configurator.Shown(answers), configurator.Questions), units, edition.Product.Code.Text);
        var same = lines.FindIndex(l => l.IsSame(line));
        lines = same < 0 ? lines.Add(line) : lines.SetItem(same, lines[same] with { Quantity = Math.Min(BasketRequest.MostUnits, lines[same].Quantity + units) });
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
