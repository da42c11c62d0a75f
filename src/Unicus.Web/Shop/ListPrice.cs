using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>What stands for a price in lists.</summary>
public static class ListPrice
{
    /// <summary>“from 177.36”, “8.40”, or why there is none.</summary>
    public static string Words(ShownPrice price, Currency currency) =>
        price.From is not { } from
            ? price.NoneWords.Length > 0
                ? price.NoneWords
                : "None left"
            : $"{(price.Varies ? "from " : "")}{new Money(from, currency).ForShoppers()}"
                + (price.Once is { } once ? $" + {new Money(once, currency).ForShoppers()} once" : "");
}
