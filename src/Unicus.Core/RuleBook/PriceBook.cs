namespace Unicus.Core.RuleBook;

using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Products;
using Unicus.Core.Range;

/// <summary>The price rules of a shop, at a version; it never changes.</summary>
public sealed class PriceBook
{
    private readonly ConcurrentDictionary<string, RulesInForce> _inForce = new();
    private readonly IReadOnlyList<Category> _tree;
    private readonly Guid _id = Guid.NewGuid();

    /// <summary>Makes a book of shop-wide rules; products bring their own.</summary>
    /// <param name="rules">The rules.</param>
    /// <param name="tree">All categories, for scopes.</param>
    public PriceBook(IEnumerable<PriceRule> rules, IReadOnlyList<Category> tree)
    {
        Rules = [.. rules.OrderBy(r => r, PriceRule.Order)];
        _tree = tree;
    }

    /// <summary>A book without rules.</summary>
    public static PriceBook Empty { get; } = new([], []);

    /// <summary>The shop's rules, in their order; drafts too.</summary>
    public ImmutableArray<PriceRule> Rules { get; }

    /// <summary>The customer groups of the shop.</summary>
    public ImmutableArray<CustomerGroup> Groups { get; init; } = [];

    /// <summary>The groups that a buyer means who names a key or a code, letter case ignored; none where there is none.</summary>
    public IEnumerable<Key> GroupsCalled(string? name) =>
        name is null
            ? []
            : Groups
                .Where(g =>
                    string.Equals(g.Key.Text, name.Trim(), StringComparison.OrdinalIgnoreCase)
                    || string.Equals(g.Code, name.Trim(), StringComparison.OrdinalIgnoreCase)
                )
                .Select(g => g.Key);

    /// <summary>The rules in force at a moment.</summary>
    /// <param name="at">The moment.</param>
    /// <param name="day">The day of the week of that moment in the shop's time zone.</param>
    public RulesInForce At(DateTimeOffset at, DayOfWeek day)
    {
        var holding = Rules.Select(r => IsInForce(r, at, day)).ToArray();
        // A product's own rules have dates too, so what is kept for an edition hangs on the moment's stretch of its own.
        var key = string.Concat(holding.Select(h => h ? '1' : '0'));
        return _inForce.GetOrAdd(key, _ => new RulesInForce([.. Rules.Where((_, i) => holding[i])], _tree));
    }

    /// <summary>Another text whenever a product may be priced by other rules.</summary>
    public string StampAt(Product product, DateTimeOffset at, DayOfWeek day) =>
        $"{_id:N} {string.Concat(Rules.Concat(product.PriceRules).Select(r => IsInForce(r, at, day) ? '1' : '0'))}";

    /// <summary>The rules whose scope holds something of a product, its own included; in force or not.</summary>
    public IEnumerable<PriceRule> Reaching(Edition edition) => RulesOf(edition).All.Select(r => r.Rule);

    /// <inheritdoc cref="Reaching"/>
    internal EditionRules RulesOf(Edition edition) => EditionRules.Of(Rules.Concat(edition.Product.PriceRules), edition, _tree);

    /// <summary>The next moment after this one at which other rules may reach a product; null where there is none.</summary>
    /// <param name="edition">The product.</param>
    /// <param name="after">As they would be.</param>
    /// <param name="zone">The shop's time zone, in which weekdays change.</param>
    public DateTimeOffset? NextChange(Edition edition, DateTimeOffset after, TimeZoneInfo zone) =>
        NextChange([.. Reaching(edition).Where(r => r.State == RuleState.On)], after, zone);

    /// <summary>The next moment after this one at which others of some rules are in force.</summary>
    /// <param name="reaching">Rules that are switched on.</param>
    /// <inheritdoc cref="NextChange(Edition, DateTimeOffset, TimeZoneInfo)"/>
    /// <param name="after">As they would be.</param>
    /// <param name="zone">The shop's.</param>
    internal static DateTimeOffset? NextChange(List<PriceRule> reaching, DateTimeOffset after, TimeZoneInfo zone)
    {
        var dates = reaching.SelectMany(r => new[] { r.When.From, r.When.Until }).Where(m => m > after).Min();
        if (!reaching.Exists(r => !r.When.Weekdays.IsEmpty && !(after >= r.When.Until)))
            return dates;
        var midnight = StartOfDay(TimeZoneInfo.ConvertTime(after, zone).Date.AddDays(1), zone);
        return dates < midnight ? dates : midnight;
    }

    /// <summary>The moment at which a day begins in a time zone; where its first hour is left out, the first that there is.</summary>
    public static DateTimeOffset StartOfDay(DateTime day, TimeZoneInfo zone)
    {
        var local = day.Date;
        while (zone.IsInvalidTime(local))
            local = local.AddMinutes(15);
        return new DateTimeOffset(local, zone.GetUtcOffset(local)).ToUniversalTime();
    }

    internal static bool IsInForce(PriceRule rule, DateTimeOffset at, DayOfWeek day) =>
        rule.State == RuleState.On && rule.When.Holds(at, day);
}

/// <summary>The shop's rules that are in force at some moment, made ready for products as these are asked about.</summary>
public sealed class RulesInForce
{
    private readonly ConditionalWeakTable<Edition, ForProduct> _products = new();
    private readonly IReadOnlyList<Category> _tree;

    internal RulesInForce(ImmutableArray<PriceRule> rules, IReadOnlyList<Category> tree) => (Rules, _tree) = (rules, tree);

    /// <summary>In their order.</summary>
    public ImmutableArray<PriceRule> Rules { get; }

    /// <summary>The rules that reach a product, its own included.</summary>
    internal EditionRules Of(Edition edition, DateTimeOffset at, DayOfWeek day) =>
        _products.GetValue(edition, e => new ForProduct(Rules, e, _tree)).At(at, day);

    private sealed class ForProduct(ImmutableArray<PriceRule> shop, Edition edition, IReadOnlyList<Category> tree)
    {
        private readonly ConcurrentDictionary<string, EditionRules> _kept = new();

        public EditionRules At(DateTimeOffset at, DayOfWeek day)
        {
            var own = edition.Product.PriceRules;
            var key = own.IsEmpty ? "" : string.Concat(own.Select(r => PriceBook.IsInForce(r, at, day) ? '1' : '0'));
            return _kept.GetOrAdd(key, k => EditionRules.Of(shop.Concat(own.Where((_, i) => k[i] == '1')), edition, tree));
        }
    }
}
