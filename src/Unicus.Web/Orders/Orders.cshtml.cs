using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Orders;

/// <summary>All orders, newest first.</summary>
public sealed class OrdersModel(OrderReading orders) : PageModel
{
    private const int PageSize = 50;

    public string Q { get; private set; } = "";
    public string Show { get; private set; } = "";
    public int P { get; private set; }
    public bool More { get; private set; }
    public int ToDispatch { get; private set; }
    public IReadOnlyList<Order> Rows { get; private set; } = [];

    public static string Goods(Order o) =>
        o.Lines.Length == 0 ? "" : $"{o.Lines[0].Title}{(o.Lines.Length > 1 ? $" and {o.Lines.Length - 1} more" : "")}";

    public static string Mark(OrderState s) =>
        s switch
        {
            OrderState.Placed => "dia",
            OrderState.Dispatched => "ok",
            _ => "ring",
        };

    public static string StateName(OrderState s) =>
        s switch
        {
            OrderState.Placed => "To dispatch",
            OrderState.Dispatched => "Dispatched",
            _ => "Cancelled",
        };

    public async Task OnGet(string? q, string? show, int p = 1)
    {
        (Q, Show, P) = (TypedText.Search(q), show ?? "", Math.Clamp(p, 1, 1_000_000));
        ToDispatch = await orders.CountOpen();
        var rows = await orders.Newest(Named.Choice<OrderState>(Show), Q, (P - 1) * PageSize, PageSize + 1);
        More = rows.Count > PageSize;
        Rows = [.. rows.Take(PageSize)];
    }
}
