namespace Unicus.Core.RuleBook;

using System.Collections.Immutable;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Stages;

/// <summary>When something is bought, by whom and with which coupons: what rules ask about besides the goods.</summary>
/// <param name="At">The moment.</param>
/// <param name="Zone">The shop's time zone.</param>
public sealed record RuleContext(DateTimeOffset At, TimeZoneInfo Zone)
{
    /// <summary>Nobody at no moment, where no rules are looked at.</summary>
    public static RuleContext Nobody { get; } = new(DateTimeOffset.UnixEpoch, TimeZoneInfo.Utc);

    /// <summary>The day of the week of the moment in the shop's time zone.</summary>
    public DayOfWeek Day => TimeZoneInfo.ConvertTime(At, Zone).DayOfWeek;

    /// <summary>The shop's day at the moment.</summary>
    public DateOnly Today => DateOnly.FromDateTime(TimeZoneInfo.ConvertTime(At, Zone).DateTime);

    /// <summary>The rules that may act.</summary>
    public PriceBook Book { get; init; } = PriceBook.Empty;

    /// <summary>The groups that the buyer is in.</summary>
    public ImmutableArray<Key> Groups { get; init; } = [];

    /// <summary>The coupons that the buyer named.</summary>
    public ImmutableArray<NamedCoupon> Coupons { get; init; } = [];

    /// <summary>The ids of rules whose uses are used up, in all or for this buyer.</summary>
    public ImmutableHashSet<string> UsedUp { get; init; } = [];

    /// <summary>Anyone at a moment, without coupons: as public prices are.</summary>
    public static RuleContext Anyone(DateTimeOffset at, TimeZoneInfo zone, PriceBook book) => new(at, zone) { Book = book };

    /// <summary>Whether everything that a rule asks for holds, conditions on the basket's amount left aside.</summary>
    internal bool Allows(RuleUse use)
    {
        var when = use.Rule.When;
        return !(use.Quantity < when.QuantityAtLeast)
            && (when.CustomerGroups.IsEmpty || when.CustomerGroups.Any(g => Groups.Contains(g)))
            && (!when.NeedsCoupon || Coupons.Any(c => c.IsFor(when)))
            && !UsedUp.Contains(use.Rule.Id);
    }
}

/// <summary>A coupon as the buyer named it.</summary>
/// <param name="Code">As typed.</param>
/// <param name="List">The key of the list that has it as an unused code; null for none.</param>
/// <param name="IsUsed">Whether a list has it and it was used before.</param>
public sealed record NamedCoupon(string Code, Key? List = null, bool IsUsed = false)
{
    /// <summary>The coupon that a rule asks for, as if somebody named it; null where it asks for none.</summary>
    public static NamedCoupon? AskedBy(PriceWhen when) =>
        when.Coupon is { } word ? new NamedCoupon(word)
        : when.Coupons is { } list ? new NamedCoupon(list.Text!, list)
        : null;

    /// <summary>Whether a rule asks for it.</summary>
    public bool IsFor(PriceWhen when) =>
        (when.Coupon is { } word && string.Equals(word, Code.Trim(), StringComparison.OrdinalIgnoreCase))
        || (when.Coupons is { } list && list == List);
}
