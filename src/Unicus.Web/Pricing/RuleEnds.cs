
namespace Unicus.Web.Pricing;

/// <summary>Moving the first moment or the end of a rule by whole days of the shop.</summary>
public static class RuleEnds
{
    /// <summary>The rule with an end moved.</summary>
    /// <param name="end"><c>from</c> or <c>until</c>.</param>
    /// <param name="days">Forwards, or negative backwards; the time of day stays as clocks in the shop show it.</param>
    /// <returns>What is wrong where it has no such end, or would end before it starts.</returns>
    public static Read<PriceRule> Moved(PriceRule rule, string end, int days, TimeZoneInfo zone)
    {
        if ((end == "from" ? rule.When.From : rule.When.Until) is not { } at || Math.Abs(days) > 3660)
            return Read<PriceRule>.No("This rule has no such end. Type it in its sentence.");
        var local = TimeZoneInfo.ConvertTime(at, zone).DateTime.AddDays(days);
        while (zone.IsInvalidTime(local))
            local = local.AddMinutes(15);
        var moved = new DateTimeOffset(local, zone.GetUtcOffset(local)).ToUniversalTime();
        var when = end == "from" ? rule.When with { From = moved } : rule.When with { Until = moved };
        return when.From >= when.Until ? Read<PriceRule>.No("A rule ends after it starts.") : Read<PriceRule>.Of(rule with { When = when });
    }

    /// <summary>“until 5 April 2027, 00:00”.</summary>
    public static string Words(PriceRule rule, string end, PriceRuleWords words) =>
        end == "from" ? $"from {words.Moment(rule.When.From!.Value)}" : $"until {words.Moment(rule.When.Until!.Value)}";
}
