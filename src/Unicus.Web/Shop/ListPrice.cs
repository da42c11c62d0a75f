using Unicus.Core;
using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Shop;

/// <summary>What stands for a price in lists.</summary>
public static class ListPrice
{
    /// <summary>“from 177.36”, “8.40”, or why there is none.</summary>
    public static string Words(RangeEntryRow entry, Currency currency) =>
        entry.FromPrice is not { } from
            ? entry.NoneWords.Length > 0
                ? entry.NoneWords
                : "None left"
            : $"{(entry.Varies ? "from " : "")}{new Money(from, currency).ForShoppers()}"
                + (entry.Once is { } once ? $" + {new Money(once, currency).ForShoppers()} once" : "");
}
