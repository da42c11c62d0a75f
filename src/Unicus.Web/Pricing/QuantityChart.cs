using System.Globalization;
using Unicus.Store;

namespace Unicus.Web.Pricing;

/// <summary>A stretch of the chart where buying more costs less, in pixels.</summary>
public sealed record ChartStretch(string Left, string Width, string Words);

/// <summary>A label on an axis.</summary>
public sealed record ChartTick(string At, string Text);

/// <summary>A line of the table beside the chart, for people.</summary>
public sealed record ChartRow(string Units, string Each, string Total);

/// <summary>What a unit and the line cost against the quantity, for a drawing.</summary>
public sealed class QuantityChart
{
    public const int Width = 380;
    public const int Height = 110;
    public const int Left = 46;
    private const int MostUnits = 1000;

    private readonly IReadOnlyList<QuantityPoint> _points;
    private readonly Currency _currency;

    private QuantityChart(VariantOnSale goods, IReadOnlyList<QuantityPoint> points, Currency currency)
    {
        (Goods, _points, _currency) = (goods.Figures.Name, points, currency);
        Each = Path(p => p.Each);
        Total = Path(p => p.Total);
        EachTicks = Ticks(points.Max(p => p.Each));
        TotalTicks = Ticks(points.Max(p => (decimal)p.Total));
        Stretches =
        [
            .. QuantityPrices
                .Dearer(points)
                .Select(s => new ChartStretch(
                    Text(X(s.From)),
                    Text(Math.Max(2, X(s.To + 1) - X(s.From))),
                    s.From == s.To ? $"{s.From:N0} cost more than {s.Larger:N0}" : $"{s.From:N0} to {s.To:N0} cost more than {s.Larger:N0}"
                )),
        ];
    }

    /// <summary>What is priced.</summary>
    public string Goods { get; }

    /// <summary>The steps of what one unit costs.</summary>
    public string Each { get; }

    /// <summary>The steps of what the line costs.</summary>
    public string Total { get; }

    public IReadOnlyList<ChartTick> EachTicks { get; }
    public IReadOnlyList<ChartTick> TotalTicks { get; }
    public IReadOnlyList<ChartStretch> Stretches { get; }

    /// <summary>The quantities at which a unit begins to cost something else, with that price.</summary>
    public IEnumerable<ChartRow> Rows
    {
        get
        {
            decimal? before = null;
            foreach (var point in _points)
            {
                if (before == point.Each)
                    continue;
                before = point.Each;
                yield return new ChartRow(point.Units.ToString("N0"), Money(point.Each), Money(point.Total));
            }
        }
    }

    /// <summary>The chart of a rule with quantities; null for others, and where nothing has a price.</summary>
    /// <param name="terms">With the rule in force.</param>
    public static QuantityChart? Of(PriceRule rule, VariantOnSale? goods, RunTerms terms)
    {
        var last = rule.Effect switch
        {
            PriceEffect.Bands b => b.Rows[^1].From,
            PriceEffect.Packs p => p.Rows[0].Units * 2,
            _ => 0,
        };
        if (last == 0 || goods is null)
            return null;
        var points = QuantityPrices.Of(goods, terms, Math.Min(MostUnits, last + last / 3 + 2), rule.Scope.Through);
        return points.Count < 2 ? null : new QuantityChart(goods, points, terms.Trade.Currency);
    }

    public IReadOnlyList<ChartTick> UnitTicks =>
        [.. Round(_points.Count).Select(u => new ChartTick(Text(X(u)), u.ToString("N0", CultureInfo.InvariantCulture)))];

    private static IEnumerable<int> Round(int most)
    {
        var step = Nice(most / 5m);
        for (var units = Math.Max(1, (int)step); units <= most; units += Math.Max(1, (int)step))
            yield return units;
    }

    /// <summary>The next larger of 1, 2, 5, 10, 20 …</summary>
    private static decimal Nice(decimal size)
    {
        var power = 1m;
        while (power * 10 < size)
            power *= 10;
        return new[] { 1m, 2m, 5m, 10m }.Select(f => f * power).First(s => s >= size);
    }

    private IReadOnlyList<ChartTick> Ticks(decimal most) =>
        [.. new[] { 0m, 0.5m, 1m }.Select(part => new ChartTick(Text(Y(part * most, most)), Money(part * most)))];

    private string Path(Func<QuantityPoint, decimal> figure)
    {
        var most = Math.Max(1, _points.Max(figure));
        var path = new System.Text.StringBuilder();
        foreach (var point in _points)
        {
            var (x, y) = (X(point.Units), Y(figure(point), most));
            path.Append(path.Length == 0 ? $"M{Text(x)} {Text(y)}" : $"L{Text(x)} {Text(y)}").Append($"H{Text(X(point.Units + 1))}");
        }
        return path.ToString();
    }

    private double X(int units) => Left + (double)(units - 1) / _points.Count * (Width - Left);

    private static double Y(decimal figure, decimal most) => 8 + (double)(1 - (most == 0 ? 0 : figure / most)) * (Height - 16);

    private string Money(decimal minor) => MinorUnits.ToMoney((long)Math.Round(minor), _currency).ForPeople();

    private static string Text(double number) => number.ToString("0.#", CultureInfo.InvariantCulture);
}
