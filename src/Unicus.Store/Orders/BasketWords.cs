using System.Collections.Immutable;

namespace Unicus.Store;

/// <summary>The words that a shopper typed into the basket for better prices: coupons, and the code of a customer group.</summary>
public sealed record BasketWords(ImmutableArray<string> Coupons, string? GroupCode)
{
    /// <summary>So many coupons lie in a basket at most.</summary>
    public const int MostCoupons = 20;

    public static BasketWords None { get; } = new([], null);

    internal static BasketWords Of(BasketRow row) => new([.. row.Coupons], row.GroupCode);

    /// <summary>With one word more; whether it is a coupon or a group's code shows when it is priced.</summary>
    public BasketWords With(string word) =>
        Coupons.Contains(word, StringComparer.OrdinalIgnoreCase) || Coupons.Length >= MostCoupons
            ? this
            : this with
            {
                Coupons = Coupons.Add(word),
            };

    public BasketWords WithGroup(string code) => this with { GroupCode = code };

    /// <summary>Without a word, in any letter case.</summary>
    public BasketWords Without(string word) =>
        new(
            Coupons.RemoveAll(c => string.Equals(c, word, StringComparison.OrdinalIgnoreCase)),
            string.Equals(GroupCode, word, StringComparison.OrdinalIgnoreCase) ? null : GroupCode
        );

    internal void Write(BasketRow row) => (row.Coupons, row.GroupCode) = ([.. Coupons], GroupCode);
}
