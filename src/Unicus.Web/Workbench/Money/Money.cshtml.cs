using Microsoft.AspNetCore.Mvc;
using Unicus.Store;

namespace Unicus.Web.Workbench;

/// <summary>A price cut into tax, cost and what is left. The price ends at 560 of 700 units of width, so that it can be dragged
/// up.</summary>
/// <param name="Price">As typed, with tax or without as the shop does.</param>
/// <param name="Target">The margin aimed at, per cent, or null.</param>
public sealed record PriceBar(Profit Profit, Money Price, Percentage? Target)
{
    public decimal Paid => Profit.Tax.Amount + Profit.Net.Amount;
    private decimal Whole => Math.Max(Paid, Profit.Tax.Amount + Profit.Cost.Amount);

    public bool Short => Profit.Left.Amount < 0;
    public string Tax => Share(Profit.Tax.Amount);
    public string CostAt => Share(Profit.Tax.Amount);
    public string Cost => Share(Profit.Cost.Amount);
    public string LeftAt => Share(Profit.Tax.Amount + Profit.Cost.Amount);
    public string Left => Share(Math.Max(0, Profit.Left.Amount));

    /// <summary>Units of width for one of the currency.</summary>
    public string Scale => (Whole == 0 ? 0 : 560 / Whole).ToString("0.######");

    public string End => Share(Paid);

    /// <summary>The cost that would leave the margin aimed at, and where it would end.</summary>
    public Money? TargetCost => Target is { } t ? Profit.Net - t.Of(Profit.Net) : null;
    public string? TargetAt => TargetCost is { } c ? Share(Profit.Tax.Amount + c.Amount) : null;

    public string InWords =>
        $"tax {Profit.Tax}, cost {Profit.Cost}, left {Profit.Left}{(Profit.Margin is { } m ? $", a margin of {m:0.0} per cent" : "")}";

    private string Share(decimal amount) => (Whole == 0 ? 0 : amount / Whole * 560).ToString("0.#");
}

/// <summary>The chapter Money &amp; measure: the price bar as one types.</summary>
public sealed class MoneyChapter(Bench bench) : ChapterModel(bench)
{
    public override Chapter Chapter => Chapter.Money;

    /// <summary>The bar for typed texts, or for what is saved where they are null; null where a figure is missing.</summary>
    public PriceBar? Bar(string? price, string? cost, string? margin = null)
    {
        var p = price is null ? Copy.Product.Base.Price : TypedNumbers.Amount(price, Copy.Shop.Currency).Value;
        var c = cost is null ? Copy.Product.Base.Cost : TypedNumbers.Amount(cost, Copy.Shop.Currency).Value;
        return p is { Amount: > 0 } x && c is { } y
            ? new PriceBar(
                MarginBasis.AtHome(Copy.Shop.Terms, Copy.Product.Base.TaxClass).Of(x, y),
                x,
                margin is null ? null
                    : TypedNumbers.Percent(margin).Value is { Value: >= 0 and < 100 } m ? m
                    : null
            )
            : null;
    }

    public async Task<IActionResult> OnGetBar()
    {
        if (!await Look())
            return NotFound();
        // Both boxes are called "value"; they come in the order of the page: price, then cost.
        var typed = Request.Query["value"];
        return Partial(
            "/Workbench/Money/_Bar.cshtml",
            Bar(typed.Count > 0 ? typed[0] : null, typed.Count > 1 ? typed[1] : null, Request.Query["margin"])
        );
    }

    public async Task<IActionResult> OnPostForMargin(string? margin)
    {
        var wanted = TypedNumbers.Percent(margin);
        return await Answer(await Products.Apply(Code, $"Price for a margin of {margin} %", Visit.Actor, copy => wanted.Value
                    is not { Value: >= 0 and < 100 } m
                    ? Read<Product>.No("A margin lies between 0 and 99.9 %.")
                : copy.Product.Base.Cost is not { } cost ? Read<Product>.No("Type the cost first.")
                : Read<Product>.Of(
                    copy.Product with
                    {
                        Base = copy.Product.Base with
                        {
                            Price = MarginBasis.AtHome(copy.Shop.Terms, copy.Product.Base.TaxClass).PriceFor(cost, m.Value),
                        },
                    }
                )), "Price set", canUndo: true);
    }
}
