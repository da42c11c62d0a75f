using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Unicus.Store;

namespace Unicus.Web.Orders;

/// <summary>A person who ordered through a page.</summary>
/// <param name="Paid">What their lines came to.</param>
public sealed record ThroughPerson(string Name, string Email, IReadOnlyList<int> Orders, Money Paid)
{
    /// <summary>What they ordered by SKU.</summary>
    public required IReadOnlyDictionary<string, UnitsOrdered> Pieces { get; init; }
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
    public UnitsOrdered Sum(string sku) =>
        People.Select(p => p.Pieces.GetValueOrDefault(sku, UnitsOrdered.None)).Aggregate(UnitsOrdered.None, (a, b) => a + b);

    /// <summary>What all of them paid.</summary>
    public Money Paid { get; private set; }

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
        if (orders.Count > 0)
            Paid = MoneyBack.Standing(orders.SelectMany(o => o.Lines), orders[0].Currency);
        return Page();
    }

    private static ThroughPerson Person(string name, string email, List<Order> orders)
    {
        var lines = orders.SelectMany(o => o.Lines).ToList();
        var paid = MoneyBack.Standing(lines, orders[0].Currency);
        return new ThroughPerson(name, email, [.. orders.Select(o => o.Number)], paid)
        {
            Pieces = lines.Where(l => l.Sku.Length > 0).GroupBy(l => l.Sku).ToDictionary(g => g.Key, UnitsOrdered.Of),
        };
    }
}
