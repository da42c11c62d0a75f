using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>What stands for a price in lists.</summary>
public static class ListPrice
{
    /// <summary>“from 177.36”, “8.40”, or why there is none.</summary>
    public static string Words(RangeFiguresRow figures, Currency currency) =>
        figures.FromPrice is not { } from
            ? figures.NoneWords.Length > 0
                ? figures.NoneWords
                : "None left"
            : $"{(figures.Varies ? "from " : "")}{new Money(from, currency).ForShoppers()}"
                + (figures.Once is { } once ? $" + {new Money(once, currency).ForShoppers()} once" : "");
}
