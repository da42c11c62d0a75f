namespace Unicus.Store;

/// <summary>A product as the shop's lists show it.</summary>
/// <param name="Address">The last piece of its page's address.</param>
/// <param name="Picture">The file of its leading picture; null for none.</param>
/// <param name="OwnBadge">A word of the merchant's; empty for none.</param>
public sealed record ShownProduct(
    int ProductId,
    string Code,
    string Address,
    string Name,
    string? Summary,
    string? Picture,
    string OwnBadge,
    ShownPrice Price
)
{
    internal static ShownProduct Of(RangeEntryRow row) =>
        new(
            row.ProductId,
            row.Code,
            row.Address,
            row.Name,
            row.Summary,
            row.Picture,
            row.OwnBadge,
            new ShownPrice(row.Figures.FromPrice, row.Figures.Varies, row.Figures.Once, row.Figures.Badge, row.Figures.NoneWords)
        );
}

/// <summary>What lists say of a price.</summary>
/// <param name="From">The lowest of what can be bought now, in the shop's currency; null where nothing can.</param>
/// <param name="Varies">Whether anything costs more than that.</param>
/// <param name="Once">What is asked once besides, whatever the quantity; null for nothing.</param>
/// <param name="Badge">The word of the rule that acts; empty for none.</param>
/// <param name="NoneWords">Why nothing can be bought; empty where there is no more to say than that.</param>
public sealed record ShownPrice(decimal? From, bool Varies, decimal? Once, string Badge, string NoneWords);
