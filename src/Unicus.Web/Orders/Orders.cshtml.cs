using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;
using Unicus.Web.Office;
using Unicus.Web.Shell;

namespace Unicus.Web.Orders;

/// <summary>All orders, newest first.</summary>
public sealed class OrdersModel(UnicusContext db) : PageModel
{
    private const int PageSize = 50;

    public string Q { get; private set; } = "";
    public string Show { get; private set; } = "";
    public int P { get; private set; }
    public bool More { get; private set; }
    public int ToDispatch { get; private set; }
    public IReadOnlyList<OrderRow> Rows { get; private set; } = [];

    public static string Goods(OrderRow o) =>
        o.Lines.Count == 0
            ? ""
            : $"{o.Lines.OrderBy(l => l.Position).First().Title}{(o.Lines.Count > 1 ? $" and {o.Lines.Count - 1} more" : "")}";

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
        ToDispatch = await db.Orders.CountAsync(o => o.State == OrderState.Placed);
        var orders = db.Orders.AsNoTracking().Include(o => o.Lines).ThenInclude(l => l.Leaves).AsQueryable();
        if (Named.Choice<OrderState>(Show) is { } state)
            orders = orders.Where(o => o.State == state);
        var number = int.TryParse(Q, out var n) ? n : -1;
        if (Q.Length > 0)
        {
            int[] found = [.. await Found(Q)];
            orders = orders.Where(o => o.Number == number || found.Contains(o.Number));
        }
        var rows = await orders
            .OrderByDescending(o => o.PlacedAt)
            .ThenByDescending(o => o.Number)
            .Skip((P - 1) * PageSize)
            .Take(PageSize + 1)
            .ToListAsync();
        More = rows.Count > PageSize;
        Rows = [.. rows.Take(PageSize)];
    }

    /// <summary>The newest orders whose buyer has every word in name or address, or that take a SKU that begins like this.</summary>
    private async Task<IReadOnlyList<int>> Found(string search)
    {
        var words = search.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(w => $"%{FindModel.Escaped(w)}%").ToArray();
        var begins = FindModel.Escaped(search.ToUpperInvariant()) + "%";
        return await db
            .Database.SqlQuery<int>(
                $"""
                (select number as "Value" from orders where (buyer || ' ' || email) ilike all ({words}) order by number desc limit 2000)
                union
                (select l.order_number from order_leaves f join order_lines l on l.id = f.order_line_id
                  where upper(f.sku) like {begins} order by 1 desc limit 2000)
                """
            )
            .ToListAsync();
    }
}
