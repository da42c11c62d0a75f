using Microsoft.AspNetCore.Mvc;
using Unicus.Core;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>A price cut into tax, cost and what is left, over 700 units of width.</summary>
public sealed record PriceBar(Profit Profit)
{
    private decimal Whole => Math.Max(Profit.Tax.Amount + Profit.Net.Amount, Profit.Tax.Amount + Profit.Cost.Amount);

    public bool Short => Profit.Left.Amount < 0;
    public string Tax => Share(Profit.Tax.Amount);
    public string CostAt => Share(Profit.Tax.Amount);
    public string Cost => Share(Profit.Cost.Amount);
    public string LeftAt => Share(Profit.Tax.Amount + Profit.Cost.Amount);
    public string Left => Share(Math.Max(0, Profit.Left.Amount));
    public string InWords => $"tax {Profit.Tax}, cost {Profit.Cost}, left {Profit.Left}{(Profit.Margin is { } m ? $", a margin of {m:0.0} per cent" : "")}";

    private string Share(decimal amount) => (Whole == 0 ? 0 : amount / Whole * 700).ToString("0.#");
}

/// <summary>The chapter Money &amp; measure: the price bar as one types.</summary>
public sealed partial class WorkbenchModel
{
    /// <summary>The bar for typed texts, or for what is saved where they are null; null where a figure is missing.</summary>
    public PriceBar? Bar(string? price, string? cost)
    {
        var p = price is null ? Copy.Product.Base.Price : TypedNumbers.Amount(price, Copy.Shop.Currency).Value;
        var c = cost is null ? Copy.Product.Base.Cost : TypedNumbers.Amount(cost, Copy.Shop.Currency).Value;
        return p is { Amount: > 0 } x && c is { } y ? new PriceBar(Profit.Of(x, y, Margins.Rate(Copy, null), Copy.Shop.Terms.PricesIncludeTax)) : null;
    }

    public async Task<IActionResult> OnGetBar()
    {
        if (!await Look()) return NotFound();
        // Both boxes are called "value"; they come in the order of the page: price, then cost.
        var typed = Request.Query["value"];
        return Partial("/Workbench/Money/_Bar.cshtml", Bar(typed.Count > 0 ? typed[0] : null, typed.Count > 1 ? typed[1] : null));
    }

    public async Task<IActionResult> OnPostForMargin(string? margin)
    {
        var wanted = TypedNumbers.Percent(margin);
        return await Answer(await changeProduct.Apply(Code, $"Price for a margin of {margin} %", visit.Actor, copy =>
            wanted.Value is not { Value: >= 0 and < 100 } m ? Read<Product>.No("A margin lies between 0 and 99.9 %.")
            : copy.Product.Base.Cost is not { } cost ? Read<Product>.No("Type the cost first.")
            : Read<Product>.Of(copy.Product with { Base = copy.Product.Base with { Price = Profit.PriceFor(cost, m.Value, Margins.Rate(copy, null), copy.Shop.Terms.PricesIncludeTax) } })), "Price set", canUndo: true);
    }
}
