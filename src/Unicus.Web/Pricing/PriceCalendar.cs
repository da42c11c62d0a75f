using System.Globalization;
using Microsoft.AspNetCore.Html;

namespace Unicus.Web.Pricing;

/// <summary>A rule as a bar over time.</summary>
/// <param name="Left">From the left edge of the calendar.</param>
/// <param name="Kind">The phase in small letters.</param>
public sealed record CalendarBar(string Left, string Width, string Kind);

/// <summary>An end of a bar that can be moved.</summary>
/// <param name="End"><c>from</c> or <c>until</c>.</param>
/// <param name="Day">Days from the left edge of the calendar.</param>
public sealed record CalendarGrip(string End, DateTimeOffset At, string Left, int Day);

/// <summary>A month of the calendar.</summary>
/// <param name="At">Where it begins.</param>
public sealed record CalendarMonth(string Label, string At)
{
    /// <summary>Its label as an element of a drawing; page templates keep the name of that element for themselves.</summary>
    public HtmlString Svg => new($"<text x=\"{At}\" dx=\"3\" y=\"14\">{Label}</text>");
}

/// <summary>Nine months on a line: two before this one, and six to come.</summary>
public sealed class PriceCalendar
{
    /// <summary>The width in pixels.</summary>
    public const int Width = 330;

    private const int MonthsBefore = 2;
    private const int Months = 9;

    private readonly DateTimeOffset _from;
    private readonly DateTimeOffset _until;

    public PriceCalendar(DateTimeOffset now, TimeZoneInfo zone)
    {
        var local = TimeZoneInfo.ConvertTime(now, zone);
        var first = new DateTime(local.Year, local.Month, 1).AddMonths(-MonthsBefore);
        _from = At(first, zone);
        _until = At(first.AddMonths(Months), zone);
        Now = X(now);
        MonthsShown =
        [
            .. Enumerable
                .Range(0, Months)
                .Select(m => new CalendarMonth(
                    first.AddMonths(m).ToString("MMM", CultureInfo.InvariantCulture),
                    X(At(first.AddMonths(m), zone))
                )),
        ];
    }

    public string Now { get; }
    public IReadOnlyList<CalendarMonth> MonthsShown { get; }

    /// <summary>The bar of a rule; null where it lies outside.</summary>
    public CalendarBar? BarOf(PriceRule rule, DateTimeOffset now)
    {
        var from = rule.When.From is { } f && f > _from ? f : _from;
        var until = rule.When.Until is { } u && u < _until ? u : _until;
        if (until <= from)
            return null;
        var width = Math.Max(3, Share(until) - Share(from));
        return new CalendarBar(X(from), Text(width), rule.PhaseAt(now).ToString().ToLowerInvariant());
    }

    /// <summary>How many days it shows.</summary>
    public int Days => (int)Math.Round((_until - _from).TotalDays);

    /// <summary>Its first and last moment.</summary>
    public (DateTimeOffset From, DateTimeOffset Until) Span => (_from, _until);

    /// <summary>The ends of a rule that lie within.</summary>
    public IEnumerable<CalendarGrip> GripsOf(PriceRule rule)
    {
        foreach (var (end, at) in new[] { ("from", rule.When.From), ("until", rule.When.Until) })
            if (at is { } moment && moment >= _from && moment <= _until)
                yield return new CalendarGrip(end, moment, Text(Share(moment) - 3.5), (int)Math.Round((moment - _from).TotalDays));
    }

    /// <summary>Where a moment lies, from the left edge.</summary>
    public double Place(DateTimeOffset at) => Math.Clamp(Share(at), 0, Width);

    private static DateTimeOffset At(DateTime local, TimeZoneInfo zone) => new(local, zone.GetUtcOffset(local));

    private double Share(DateTimeOffset at) => (at - _from) / (_until - _from) * Width;

    private string X(DateTimeOffset at) => Text(Share(at));

    private static string Text(double number) => number.ToString("0.#", CultureInfo.InvariantCulture);
}
