namespace Unicus.Core.Range;

/// <summary>How often a product was bought together with another.</summary>
/// <param name="Product">Which product it is.</param>
/// <param name="Other">The number of the other product.</param>
/// <param name="Orders">Orders that hold both.</param>
/// <param name="Lift">How many times as often as if they were bought independently: n(a, b) · n / (n(a) · n(b)).</param>
public sealed record BoughtPair(int Product, int Other, int Orders, double Lift);

/// <summary>Finds what was bought together, from the order history.</summary>
/// <remarks>Support, confidence and lift of association rules over market baskets: R. Agrawal, T. Imieliński, A. Swami, 1993, and S. Brin
/// and others, 1997; from memory. A pair counts only where both have the least support, so pairs of rare goods are never counted up.
/// </remarks>
public static class BoughtTogether
{
    /// <summary>Orders of more products are left out: they are stock for another shop, not what goes together.</summary>
    public const int MostProducts = 60;

    /// <summary>The best companions of each product by lift, then by orders.</summary>
    /// <param name="orders">The products of each order; repeats count once.</param>
    /// <param name="leastOrders">Orders that hold both at least.</param>
    /// <param name="most">Companions of a product at most.</param>
    /// <returns>Only pairs with a lift above 1, grouped by product.</returns>
    public static IReadOnlyList<BoughtPair> Find(IReadOnlyList<int[]> orders, int leastOrders, int most)
    {
        var sold = new Dictionary<int, int>();
        var counted = new List<int[]>();
        foreach (var order in orders)
        {
            var products = order.Distinct().ToArray();
            if (products.Length > MostProducts)
                continue;
            counted.Add(products);
            foreach (var product in products)
                sold[product] = sold.GetValueOrDefault(product) + 1;
        }
        var pairs = new Dictionary<(int, int), int>();
        foreach (var products in counted)
        {
            var often = Array.FindAll(products, p => sold[p] >= leastOrders);
            Array.Sort(often);
            for (var i = 0; i < often.Length; i++)
                for (var j = i + 1; j < often.Length; j++)
                    pairs[(often[i], often[j])] = pairs.GetValueOrDefault((often[i], often[j])) + 1;
        }
        var found = new List<BoughtPair>();
        foreach (var ((one, other), both) in pairs)
        {
            var lift = (double)both * counted.Count / ((double)sold[one] * sold[other]);
            if (both < leastOrders || lift <= 1)
                continue;
            found.Add(new BoughtPair(one, other, both, lift));
            found.Add(new BoughtPair(other, one, both, lift));
        }
        return
        [
            .. found
                .GroupBy(t => t.Product)
                .OrderBy(g => g.Key)
                .SelectMany(g => g.OrderByDescending(t => t.Lift).ThenByDescending(t => t.Orders).ThenBy(t => t.Other).Take(most)),
        ];
    }
}
