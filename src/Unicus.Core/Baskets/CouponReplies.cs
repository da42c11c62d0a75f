namespace Unicus.Core.Baskets;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Stages;
using Unicus.Core.RuleBook;

/// <summary>What became of a coupon.</summary>
/// <param name="Code">As it was named.</param>
/// <param name="Acts">Whether it took anything off.</param>
/// <param name="Text">Why it did not, or what it did, in a sentence.</param>
public sealed record CouponReply(string Code, bool Acts, string Text);

/// <summary>Says of each coupon whether it took anything off, or why it did not.</summary>
internal static class CouponReplies
{
    /// <summary>One reply a coupon, in the order in which they were named.</summary>
    /// <param name="buying">Who buys, when, and by which rules.</param>
    /// <param name="uses">The rules of the run that have goods in their scope.</param>
    /// <param name="own">The rules that products of the basket have of their own.</param>
    /// <param name="currency">In which amounts are.</param>
    public static ImmutableArray<CouponReply> Of(
        RuleContext buying,
        IEnumerable<RuleUse> uses,
        IEnumerable<PriceRule> own,
        Currency currency
    )
    {
        if (buying.Coupons.IsEmpty)
            return [];
        var all = uses.ToList();
        var rules = buying.Book.Rules.Concat(own).Where(r => r.State == RuleState.On).ToList();
        return [.. buying.Coupons.Select(c => Of(c, buying, [.. rules.Where(r => c.IsFor(r.When))], all, currency))];
    }

    private static CouponReply Of(NamedCoupon coupon, RuleContext buying, List<PriceRule> rules, List<RuleUse> uses, Currency currency)
    {
        if (rules.Count == 0)
            return new CouponReply(
                coupon.Code,
                false,
                coupon.IsUsed ? $"{coupon.Code} was used already." : $"There is no coupon {coupon.Code}."
            );
        var own = uses.Where(u => coupon.IsFor(u.Rule.When)).ToList();
        var moved = own.Sum(u => u.Moved);
        if (moved < 0)
        {
            var names = string.Join(", ", own.Where(u => u.Moved < 0).Select(u => u.Rule.Name));
            return new CouponReply(coupon.Code, true, $"{names}: {MinorUnits.ToMoney(moved, currency).ForPeople()}.");
        }
        var why = rules.Select(r => Why(r, own.Find(u => ReferenceEquals(u.Rule, r)), buying, currency)).First();
        return new CouponReply(coupon.Code, false, $"{coupon.Code} {why}");
    }

    private static string Why(PriceRule rule, RuleUse? use, RuleContext buying, Currency currency)
    {
        var when = rule.When;
        string Day(DateTimeOffset at) => TimeZoneInfo.ConvertTime(at, buying.Zone).ToString("d MMMM yyyy");
        if (buying.At < when.From)
            return $"acts from {Day(when.From.Value)}.";
        if (buying.At >= when.Until)
            return $"ended on {Day(when.Until.Value)}.";
        if (!when.Weekdays.IsEmpty && !when.Weekdays.Contains(buying.Day))
            return $"acts on {string.Join(", ", when.Weekdays)} only.";
        if (buying.UsedUp.Contains(rule.Id))
            return "is used up.";
        if (!when.CustomerGroups.IsEmpty && !when.CustomerGroups.Any(g => buying.Groups.Contains(g)))
            return $"is for {Groups(when, buying.Book)} only.";
        if (use is null)
            return "is for nothing that lies in the basket.";
        if (use.Quantity < when.QuantityAtLeast)
            return $"acts from {when.QuantityAtLeast:N0} pieces{Goods(rule)}; {use.Quantity:N0} so far.";
        if (use.FellShortAt is { } amount)
            return $"acts from {MinorUnits.ToMoney(when.BasketAtLeast!.Value, currency).ForPeople()}{Goods(rule)}; "
                + $"{MinorUnits.ToMoney(amount, currency).ForPeople()} so far.";
        return "takes nothing off: another price is lower already.";
    }

    private static string Groups(PriceWhen when, PriceBook book) =>
        string.Join(
            " and ",
            when.CustomerGroups.Select(g => book.Groups.FirstOrDefault(x => x.Key == g)?.Label ?? g.Text).DefaultIfEmpty("a group")
        );

    /// <summary>“ of Hives” where the scope is a category or tag.</summary>
    private static string Goods(PriceRule rule) =>
        rule.Scope.Categories.Concat(rule.Scope.Tags).ToList() is { Count: > 0 } names ? $" of {string.Join(", ", names)}" : "";
}
