namespace Unicus.Core.Documents;

using System.Collections.Immutable;
using System.Globalization;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Rules;

/// <summary>Reads price rules from JSON and reports every fault with its place.</summary>
public sealed class PriceRuleReader(Currency currency)
{
    /// <summary>Rules in one list at most.</summary>
    public const int MostRules = 500;

    private const int MostUnits = 1_000_000;
    private const int LongestName = 120;

    private static readonly string[] Effects =
    [
        "reduce",
        "setUnit",
        "bands",
        "packs",
        "setBySku",
        "cheapestOff",
        "reduceBasket",
        "reduceDelivery",
    ];

    /// <summary>Reads a rule.</summary>
    /// <param name="node">Where it stands in a document; takes the faults.</param>
    /// <param name="options">The keys of the variant options of the product whose own rule it is; null for the shop's.</param>
    /// <param name="extras">The keys of that product's extras.</param>
    /// <returns>Null where it could not be read, with a fault.</returns>
    public PriceRule? Rule(Node node, IReadOnlySet<Key>? options = null, IReadOnlySet<Key>? extras = null)
    {
        if (!node.IsObject("a price rule"))
            return null;
        node.Only("key", "name", "scope", "when", "effect", "combine", "priority", "limits", "state", "reachesSets");
        node.Require("key", "effect");
        var key = node.Key("key");
        var effect = Effect(node.At("effect"));
        var when = When(node.At("when"));
        var rule = new PriceRule(
            key ?? default,
            node.Has("name") ? (node.Text("name", LongestName) ?? "").Trim() : key?.Text ?? "",
            effect ?? new PriceEffect.ReduceDelivery(100)
        )
        {
            Currency = currency,
            Scope = Scope(node.At("scope"), options, extras),
            When = when,
            Combine = Choice(node, "combine", Combine.Best, ("best", Combine.Best), ("adds", Combine.Adds), ("alone", Combine.Alone)),
            Priority = node.Has("priority") ? node.Whole("priority", 0, MostUnits) ?? PriceRule.UsualPriority : PriceRule.UsualPriority,
            Limits = Limits(node.At("limits")),
            State = Choice(node, "state", RuleState.On, ("draft", RuleState.Draft), ("on", RuleState.On)),
            ReachesSets = node.Flag("reachesSets") ?? true,
        };
        if (effect is null || key is null)
            return null;
        if (effect.Stage is PriceStage.Quantity or PriceStage.CheapestOff && rule.Combine != Combine.Best)
            node.At("combine").Fault("Bands, packs and cheapest off do not combine: leave this out.");
        if (when.BasketAtLeast is not null && effect.Stage < PriceStage.Basket)
            node.At("when").At("basketAtLeast").Fault("Only reductions of the basket and of delivery can ask for a basket amount.");
        return rule;
    }

    /// <summary>Reads a scope; everything where there is none.</summary>
    public static PriceScope ReadScope(Node node) => Scope(node, null, null);

    private PriceEffect? Effect(Node node)
    {
        if (!node.Exists || !node.IsObject("an effect"))
            return null;
        node.Only(Effects);
        var given = Effects.Where(node.Has).ToList();
        if (given.Count != 1)
        {
            node.Fault($"An effect is one of {string.Join(", ", Effects)}.");
            return null;
        }
        var inner = node.At(given[0]);
        if (given[0] == "setUnit")
            return Amount(node, "setUnit") is { } unit ? new PriceEffect.SetUnit(unit) : null;
        if (given[0] != "packs" && !inner.IsObject("an object"))
            return null;
        return given[0] switch
        {
            "reduce" => Off(inner) is { } off ? new PriceEffect.Reduce(off.Percent, off.Amount) : null,
            "reduceBasket" => Off(inner) is { } off ? new PriceEffect.ReduceBasket(off.Percent, off.Amount) : null,
            "bands" => Bands(inner),
            "packs" => Packs(node),
            "setBySku" => BySku(inner),
            "cheapestOff" => Cheapest(inner),
            _ => DeliveryOff(inner),
        };
    }

    /// <summary>What is taken off: a percentage or an amount.</summary>
    private readonly record struct Reduction(decimal? Percent, long? Amount);

    private Reduction? Off(Node node)
    {
        node.Only("percent", "amount");
        if (node.Has("percent") == node.Has("amount"))
        {
            node.Fault("A reduction has a percent or an amount.");
            return null;
        }
        if (node.Has("percent"))
            return Percent(node, "percent") is { } percent ? new Reduction(percent, null) : null;
        var amount = Amount(node, "amount");
        if (amount == 0)
            node.At("amount").Fault("A reduction is more than 0.");
        return amount is > 0 ? new Reduction(null, amount) : null;
    }

    private PriceEffect.Bands? Bands(Node node)
    {
        node.Only("mode", "across", "rows");
        node.Require("mode", "rows");
        var mode = Choice(node, "mode", BandMode.AllUnits, ("all-units", BandMode.AllUnits), ("incremental", BandMode.Incremental));
        var across = Choice(node, "across", false, ("line", false), ("product", true));
        var rows = ImmutableArray.CreateBuilder<BandRow>();
        foreach (var item in node.Items("rows", 100))
        {
            if (!item.IsObject("a band"))
                continue;
            item.Only("from", "unit", "percent");
            item.Require("from");
            if (item.Has("unit") == item.Has("percent"))
                item.Fault("A band has a unit price or a percent.");
            var from = item.Whole("from", 2, MostUnits);
            if (from <= rows.LastOrDefault()?.From)
                item.At("from").Fault("Bands rise: each begins above the one before.");
            var unit = item.Has("unit") ? Amount(item, "unit") : null;
            var percent = item.Has("percent") ? Percent(item, "percent") : null;
            if (from is { } first && (unit is not null || percent is not null))
                rows.Add(new BandRow(first, unit, unit is null ? percent : null));
        }
        if (rows.Count == 0)
            node.Fault("Bands have at least one row.");
        return rows.Count == 0 ? null : new PriceEffect.Bands(mode, across, rows.ToImmutable());
    }

    private PriceEffect.Packs? Packs(Node effect)
    {
        var packs = new List<Pack>();
        foreach (var item in effect.Items("packs", 100))
        {
            if (!item.IsObject("a pack"))
                continue;
            item.Only("units", "total");
            item.Require("units", "total");
            if (item.Whole("units", 2, MostUnits) is not { } units || Amount(item, "total") is not { } total)
                continue;
            if (packs.Exists(p => p.Units == units))
                item.At("units").Fault($"The pack of {units} stands here twice.");
            packs.Add(new Pack(units, total));
        }
        if (packs.Count == 0)
            effect.At("packs").Fault("Packs have at least one row.");
        return packs.Count == 0 ? null : new PriceEffect.Packs([.. packs.OrderByDescending(p => p.Units)]);
    }

    private PriceEffect.SetBySku? BySku(Node node)
    {
        var prices = ImmutableSortedDictionary.CreateBuilder<string, long>(StringComparer.Ordinal);
        foreach (var (sku, value) in node.Members())
        {
            if (Amount(node, sku) is { } price && !prices.TryAdd(sku.Trim().ToUpperInvariant(), price))
                value.Fault($"{sku} stands here twice.");
        }
        if (prices.Count == 0)
            node.Fault("Prices by SKU name at least one SKU.");
        return prices.Count == 0 ? null : new PriceEffect.SetBySku(prices.ToImmutable());
    }

    private PriceEffect.CheapestOff? Cheapest(Node node)
    {
        node.Only("inEvery", "units", "percent");
        node.Require("inEvery", "units", "percent");
        var (every, units, percent) = (
            node.Whole("inEvery", 2, MostUnits),
            node.Whole("units", 1, MostUnits),
            node.Has("percent") ? Percent(node, "percent") : null
        );
        if (units >= every)
            node.At("units").Fault("Fewer units are reduced than are counted.");
        return every is { } m && units is { } n && percent is { } p && n < m ? new PriceEffect.CheapestOff(m, n, p) : null;
    }

    private static PriceEffect.ReduceDelivery? DeliveryOff(Node node)
    {
        node.Only("percent");
        node.Require("percent");
        return node.Has("percent") && Percent(node, "percent") is { } percent ? new PriceEffect.ReduceDelivery(percent) : null;
    }

    private static PriceScope Scope(Node node, IReadOnlySet<Key>? options, IReadOnlySet<Key>? extras)
    {
        if (!node.Exists || !node.IsObject("a scope"))
            return PriceScope.All;
        node.Only("products", "skus", "categories", "tags", "where", "through");
        var where = node.Has("where") ? ExtraReader.Condition(node.At("where"), 0) : null;
        if (where is not null && extras is not null && where.Questions.Any(extras.Contains))
            node.At("where").Fault("A scope looks at variant options only, not at extras.");
        else if (
            where is not null
            && options is not null
            && where.Questions.FirstOrDefault(q => !options.Contains(q)) is { Text: not null } gone
        )
            node.At("where").Fault($"There is no option {gone}.");
        return new PriceScope
        {
            Products = Capitals(node.Texts("products", 64)),
            Skus = Capitals(node.Texts("skus", 64)),
            Categories = node.Texts("categories", 80),
            Tags = node.Texts("tags", 80),
            Where = where,
            Through = node.Has("through") ? node.Text("through", 64)?.Trim().ToUpperInvariant() : null,
        };
    }

    private static ImmutableArray<string> Capitals(IEnumerable<string> codes) => [.. codes.Select(c => c.ToUpperInvariant())];

    private PriceWhen When(Node node)
    {
        if (!node.Exists || !node.IsObject("conditions"))
            return PriceWhen.Always;
        node.Only("from", "until", "quantityAtLeast", "basketAtLeast", "customerGroups", "coupon", "coupons", "weekdays");
        var (from, until) = (Moment(node, "from"), Moment(node, "until"));
        if (until <= from)
            node.At("until").Fault("It ends before it begins.");
        if (node.Has("coupon") && node.Has("coupons"))
            node.At("coupons").Fault("A rule asks for a word or for a list of codes, not for both.");
        return new PriceWhen
        {
            From = from,
            Until = until,
            QuantityAtLeast = node.Has("quantityAtLeast") ? node.Whole("quantityAtLeast", 1, MostUnits) : null,
            BasketAtLeast = node.Has("basketAtLeast") ? Amount(node, "basketAtLeast") : null,
            CustomerGroups = [.. Keys(node, "customerGroups")],
            Coupon = node.Has("coupon")
                ? node.Text("coupon", 64)?.Trim() is { Length: > 0 } word
                    ? word
                    : null
                : null,
            Coupons = node.Has("coupons") ? node.Key("coupons") : null,
            Weekdays = [.. Weekdays(node)],
        };
    }

    private static RuleLimits Limits(Node node)
    {
        if (!node.Exists || !node.IsObject("limits"))
            return RuleLimits.None;
        node.Only("perBuyer", "inAll");
        return new RuleLimits(
            node.Has("perBuyer") ? node.Whole("perBuyer", 1, MostUnits) : null,
            node.Has("inAll") ? node.Whole("inAll", 1, 1_000_000_000) : null
        );
    }

    /// <summary>A moment of RFC 3339; null where it is left out or wrong, with a fault.</summary>
    private static DateTimeOffset? Moment(Node node, string name)
    {
        if (!node.Has(name))
            return null;
        if (
            node.At(name).AsText() is { } text
            && text.Contains('T', StringComparison.OrdinalIgnoreCase)
            && DateTimeOffset.TryParse(text, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var at)
        )
            return DateTimeOffset.FromUnixTimeSeconds(at.ToUnixTimeSeconds());
        node.At(name).Fault("A moment is written 2027-03-01T00:00:00Z, and must exist.");
        return null;
    }

    private static IEnumerable<DayOfWeek> Weekdays(Node node)
    {
        foreach (var item in node.Items("weekdays", 7))
            if (ExtraReader.DayNamed(item.AsText()) is { } day)
                yield return day;
            else
                item.Fault("A weekday is one of mon, tue, wed, thu, fri, sat, sun.");
    }

    private static IEnumerable<Key> Keys(Node node, string name)
    {
        foreach (var item in node.Items(name))
            if (item.AsText() is { } text && Key.TryParse(text, out var key))
                yield return key;
            else
                item.Fault("A key is lower-case letters, digits and hyphens.");
    }

    private static T Choice<T>(Node node, string name, T usual, params (string Word, T Value)[] choices)
    {
        if (!node.Has(name))
            return usual;
        var text = node.At(name).AsText();
        foreach (var (word, value) in choices)
            if (word == text)
                return value;
        node.At(name).Fault($"This is one of {string.Join(", ", choices.Select(c => c.Word))}.");
        return usual;
    }

    private static decimal? Percent(Node node, string name)
    {
        if (node.At(name).AsNumber() is > 0 and <= 100 and var percent && decimal.Round(percent, 6) == percent)
            return percent;
        node.At(name).Fault("A percentage off is above 0 and at most 100, with at most six decimal places.");
        return null;
    }

    private long? Amount(Node node, string name) => node.Money(name, currency) is { } money ? MinorUnits.Of(money) : null;
}
