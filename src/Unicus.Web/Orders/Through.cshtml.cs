using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;
using Unicus.Store;

namespace Unicus.Web.Orders;

/// <summary>What somebody ordered of a piece through a page.</summary>
/// <param name="Ordered">Units, cancelled ones left aside.</param>
/// <param name="Sent">Of these.</param>
public sealed record ThroughCell(long Ordered, long Sent);

/// <summary>A person who ordered through a page.</summary>
/// <param name="Paid">What their lines came to.</param>
public sealed record ThroughPerson(string Name, string Email, IReadOnlyList<int> Orders, Money Paid)
{
    /// <summary>What they ordered by SKU.</summary>
    public required IReadOnlyDictionary<string, ThroughCell> Pieces { get; init; }
}

/// <summary>What was ordered and sent through the page of a group, by person and piece.</summary>
public sealed class ThroughModel(ProductReading goods, OrderReading reading) : PageModel
{
    public string Code { get; private set; } = "";
    public string Name { get; private set; } = "";
    public string? From { get; private set; }
    public IReadOnlyList<ThroughPerson> People { get; private set; } = [];

    /// <summary>The pieces that were ordered, by SKU and title.</summary>
    public IReadOnlyList<(string Sku, string Title)> Pieces { get; private set; } = [];

    /// <summary>All of a piece.</summary>
    public ThroughCell Sum(string sku)
    {
        var cells = People.Select(p => p.Pieces.GetValueOrDefault(sku)).OfType<ThroughCell>().ToList();
        return new ThroughCell(cells.Sum(c => c.Ordered), cells.Sum(c => c.Sent));
    }

    public async Task<IActionResult> OnGet(string code, string? from)
    {
        if (await goods.NameOf(code) is not { } name)
            return NotFound();
        (Code, Name, From) = (code, name, from);
        var since = DateOnly.TryParse(from, out var day) ? new DateTimeOffset(day.ToDateTime(TimeOnly.MinValue), TimeSpan.Zero) : default;
        var orders = (await reading.Through(code, since))
            .Select(o => o with { Lines = [.. o.Lines.Where(l => l.Through == code)] })
            .ToList();
        People =
        [
            .. orders
                .GroupBy(o => (o.Buyer.Name, Email: o.Buyer.Email.ToLowerInvariant()))
                .OrderBy(g => g.Key.Name, StringComparer.OrdinalIgnoreCase)
                .Select(g => Person(g.Key.Name, g.Key.Email, [.. g])),
        ];
        Pieces =
        [
            .. orders
                .SelectMany(o => o.Lines)
                .Where(l => l.Sku.Length > 0)
                .GroupBy(l => l.Sku)
                .OrderBy(g => g.Key, StringComparer.Ordinal)
                .Select(g => (g.Key, g.First().Title)),
        ];
        return Page();
    }

    private static ThroughPerson Person(string name, string email, List<Order> orders)
    {
        var lines = orders.SelectMany(o => o.Lines).ToList();
        var paid = lines.Select(MoneyBack.Standing).Sum(orders[0].Currency);
        return new ThroughPerson(name, email, [.. orders.Select(o => o.Number)], paid)
        {
            Pieces = lines.Where(l => l.Sku.Length > 0).GroupBy(l => l.Sku).ToDictionary(g => g.Key, g => Cell(g)),
        };
    }

    /// <summary>Units of the goods of lines, by what became of their first leaf.</summary>
    private static ThroughCell Cell(IEnumerable<OrderLine> lines)
    {
        var (ordered, sent) = (0L, 0L);
        foreach (var line in lines)
        {
            var each = line.Leaves.FirstOrDefault();
            var perUnit = each is null ? 1 : Math.Max(1, each.Units / line.Quantity);
            ordered += line.Quantity - (each?.Dropped ?? 0) / perUnit;
            sent += (each?.Sent ?? 0) / perUnit;
        }
        return new ThroughCell(ordered, sent);
    }
}
