namespace Unicus.Core.RuleBook;

using Unicus.Core.Money;
using Unicus.Core.Pricing;
using Unicus.Core.Range;
using Unicus.Core.Variants;

/// <summary>What prices went by in a stretch of time.</summary>
/// <param name="From">Its first moment.</param>
/// <param name="Until">Its end, exclusive.</param>
/// <param name="Terms">By what it is reckoned.</param>
/// <param name="Zone">The shop's.</param>
/// <param name="Book">The rules that were in force.</param>
public sealed record PriceSpell(DateTimeOffset From, DateTimeOffset Until, TradeTerms Terms, TimeZoneInfo Zone, PriceBook Book);

/// <summary>The public prices of a variant over a stretch of time in which edition and rules were the same.</summary>
public static class PublicPrices
{
    /// <summary>The stretches with one price, the newest first.</summary>
    /// <param name="edition">What was on sale.</param>
    /// <param name="wanted">The variant as it is now; by its values, or else by its SKU it is found in older editions.</param>
    /// <param name="spell">What was in force meanwhile.</param>
    /// <remarks>Rules that begin, end or change with the weekday cut the time into stretches.</remarks>
    public static IEnumerable<PublicPrice> Of(Edition edition, MatrixVariant wanted, PriceSpell spell)
    {
        var variant = edition.Matrix.Find(wanted.Values) ?? edition.Matrix.Find(wanted.Sku);
        if (variant is not { Price.Figure: { } list } || variant.Variant.Retired)
        {
            yield return new PublicPrice(spell.From, 0, null);
            yield break;
        }
        var reaching = spell.Book.Reaching(edition).Where(r => r.State == RuleState.On && r.Effect.Stage == PriceStage.Unit).ToList();
        foreach (var from in Beginnings(reaching, spell))
        {
            var buying = RuleContext.Anyone(from, spell.Zone, spell.Book);
            var prices = EditionPrices.Of(edition, new RunTerms(spell.Terms, null) { Buying = buying }, 1, null);
            var before = MinorUnits.Of(list);
            yield return new PublicPrice(from, before, prices?.Of(variant, before) ?? before);
        }
    }

    /// <summary>The moments at which the price may change, the latest first; the first moment of the spell is the last of
    /// them.</summary>
    private static IEnumerable<DateTimeOffset> Beginnings(List<PriceRule> rules, PriceSpell spell)
    {
        var dates = rules
            .SelectMany(r => new[] { r.When.From, r.When.Until })
            .OfType<DateTimeOffset>()
            .Where(d => d > spell.From && d < spell.Until)
            .Distinct()
            .OrderDescending()
            .ToList();
        var byDay = rules.Where(r => !r.When.Weekdays.IsEmpty).ToList();
        foreach (var (at, until) in dates.Append(spell.From).Zip(dates.Prepend(spell.Until)))
        {
            if (byDay.Exists(r => !(r.When.From >= until) && !(r.When.Until <= at)))
                foreach (var midnight in Midnights(at, until, spell.Zone))
                    yield return midnight;
            yield return at;
        }
    }

    /// <summary>The beginnings of days between two moments, the latest first.</summary>
    private static IEnumerable<DateTimeOffset> Midnights(DateTimeOffset after, DateTimeOffset before, TimeZoneInfo zone)
    {
        var first = TimeZoneInfo.ConvertTime(after, zone).Date;
        for (var day = TimeZoneInfo.ConvertTime(before, zone).Date; day > first; day = day.AddDays(-1))
            if (PriceBook.StartOfDay(day, zone) is var at && at < before && at > after)
                yield return at;
    }
}
