using System.Globalization;

namespace Unicus.Web.Pricing;

/// <summary>A stretch of the price of a product: from a moment on it costs so much.</summary>
/// <param name="Why">The rules that act, in words; empty where none does.</param>
public sealed record PriceStretch(string Left, string Width, string Y, string Price, string From, string Why);

/// <summary>What one variant costs over time, as a step line beneath the rules that reach it.</summary>
public sealed class ProductCalendar
{
    public const int Height = 64;

    private ProductCalendar(string goods, IReadOnlyList<PriceStretch> stretches, string line) =>
        (Goods, Stretches, Line) = (goods, stretches, line);

    /// <summary>What is priced.</summary>
    public string Goods { get; }

    public IReadOnlyList<PriceStretch> Stretches { get; }

    /// <summary>The steps as a path.</summary>
    public string Line { get; }

    /// <summary>The calendar of a variant; null where it has no price.</summary>
    /// <param name="terms">What prices go by.</param>
    /// <param name="range">Where parts are looked up.</param>
    public static ProductCalendar? Of(
        VariantOnSale goods,
        RunTerms terms,
        PriceCalendar calendar,
        PriceRuleWords words,
        PublishedRange range
    )
    {
        var (from, until) = calendar.Span;
        var buying = terms.Buying;
        var spell = new PriceSpell(from, until, terms.Trade, buying.Zone, buying.Book);
        var stretches = Merged(PublicPrices.Of(goods.Edition, goods.Variant, spell).Reverse()).ToList();
        if (stretches.Count == 0 || stretches.TrueForAll(s => s.Price is null))
            return null;
        var (least, most) = (stretches.Min(s => s.Price ?? 0), stretches.Max(s => s.Price ?? 0));
        string Y(long price) => Text(most == least ? Height / 2d : 18 + (double)(most - price) / (most - least) * (Height - 30));
        var shown = new List<PriceStretch>();
        var line = new System.Text.StringBuilder();
        foreach (var (i, stretch) in stretches.Index())
        {
            var (left, right) = (calendar.Place(stretch.From), calendar.Place(i + 1 < stretches.Count ? stretches[i + 1].From : until));
            var y = Y(stretch.Price ?? 0);
            line.Append(i == 0 ? $"M{Text(left)} {y}" : $"V{y}").Append($"H{Text(right)}");
            shown.Add(
                new PriceStretch(
                    Text(left),
                    Text(right - left),
                    y,
                    MinorUnits.ToMoney(stretch.Price ?? 0, terms.Trade.Currency).ForPeople(),
                    i == 0 ? "at first" : $"from {words.Moment(stretch.From)}",
                    Why(goods, terms, range, stretch.From)
                )
            );
        }
        return new ProductCalendar(goods.Figures.Name, shown, line.ToString());
    }

    /// <summary>Stretches with the same price are one.</summary>
    private static IEnumerable<PublicPrice> Merged(IEnumerable<PublicPrice> oldestFirst)
    {
        PublicPrice? before = null;
        foreach (var stretch in oldestFirst)
        {
            if (before?.Price != stretch.Price || before is null)
                yield return stretch;
            before = stretch;
        }
    }

    /// <summary>The rules that win at a moment.</summary>
    private static string Why(VariantOnSale goods, RunTerms terms, PublishedRange range, DateTimeOffset at)
    {
        var then = terms with { Buying = terms.Buying with { At = at } };
        var line = new RunLine(goods, Configuration.Empty, 1, [], goods.Edition.Product.Code.Text);
        var working = LineWorking.Of(line, then, range);
        return string.Join(" and ", working?.Steps.Where(s => s.Step == PriceStep.Unit).Select(s => s.Label).Distinct() ?? []);
    }

    private static string Text(double number) => number.ToString("0.#", CultureInfo.InvariantCulture);
}
