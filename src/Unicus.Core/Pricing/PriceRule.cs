namespace Unicus.Core.Pricing;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Rules;

/// <summary>How a rule acts beside the others of its stage (stages 3 and 6; elsewhere it is not looked at).</summary>
public enum Combine
{
    /// <summary>Competes with the other <em>best</em> ones; the lowest result wins.</summary>
    Best,

    /// <summary>Applies after them, to what the one before left.</summary>
    Adds,

    /// <summary>By itself, against all the others of its stage together.</summary>
    Alone,
}

/// <summary>Which goods a price rule is about; everything that is given must match, nothing given is everything.</summary>
public sealed record PriceScope
{
    /// <summary>Everything.</summary>
    public static PriceScope All { get; } = new();

    /// <summary>Product codes in capitals.</summary>
    public ImmutableArray<string> Products { get; init; } = [];

    /// <summary>SKUs in capitals.</summary>
    public ImmutableArray<string> Skus { get; init; } = [];

    /// <summary>Names of categories; one below a named one counts too.</summary>
    public ImmutableArray<string> Categories { get; init; } = [];

    /// <summary>Tags.</summary>
    public ImmutableArray<string> Tags { get; init; } = [];

    /// <summary>A condition over variant options; goods without an option that it names are outside. Null: none.</summary>
    public Condition? Where { get; init; }

    /// <summary>The code of the group or set page that the goods are bought through, in capitals; null: any.</summary>
    public string? Through { get; init; }

    /// <summary>Whether the other one names the same goods in the same order.</summary>
    public bool IsSame(PriceScope other) =>
        Products.SequenceEqual(other.Products)
        && Skus.SequenceEqual(other.Skus)
        && Categories.SequenceEqual(other.Categories)
        && Tags.SequenceEqual(other.Tags)
        && Through == other.Through
        && (Where, other.Where) switch
        {
            (null, null) => true,
            (Condition.Is a, Condition.Is b) => a.Question == b.Question && a.Values.SequenceEqual(b.Values),
            var (a, b) => a == b,
        };

    /// <summary>Whether it is about everything.</summary>
    public bool IsAll => Products.IsEmpty && Skus.IsEmpty && Categories.IsEmpty && Tags.IsEmpty && Where is null && Through is null;
}

/// <summary>When a price rule acts; everything that is given must hold.</summary>
public sealed record PriceWhen
{
    /// <summary>Always.</summary>
    public static PriceWhen Always { get; } = new();

    /// <summary>The first moment, inclusive; null: since ever.</summary>
    public DateTimeOffset? From { get; init; }

    /// <summary>The end, exclusive; null: for ever.</summary>
    public DateTimeOffset? Until { get; init; }

    /// <summary>Days of the week in the shop's time zone; empty: all.</summary>
    public ImmutableArray<DayOfWeek> Weekdays { get; init; } = [];

    /// <summary>The least number of units of the rule's goods in the basket; null: any.</summary>
    public int? QuantityAtLeast { get; init; }

    /// <summary>The least that the rule's goods come to after stage 5, in minor units and the shop's price mode; null: any.</summary>
    public long? BasketAtLeast { get; init; }

    /// <summary>Keys of customer groups, one of which the buyer must be in; empty: anyone.</summary>
    public ImmutableArray<Key> CustomerGroups { get; init; } = [];

    /// <summary>A word that the buyer must name, in any letter case; null: none.</summary>
    public string? Coupon { get; init; }

    /// <summary>The key of a list of codes that each work once, one of which the buyer must name; null: none.</summary>
    public Key? Coupons { get; init; }

    /// <summary>Whether the other one asks for the same.</summary>
    public bool IsSame(PriceWhen other) =>
        this with { Weekdays = [], CustomerGroups = [] } == other with { Weekdays = [], CustomerGroups = [] }
        && Weekdays.SequenceEqual(other.Weekdays)
        && CustomerGroups.SequenceEqual(other.CustomerGroups);

    /// <summary>Whether the buyer must name a coupon.</summary>
    public bool NeedsCoupon => Coupon is not null || Coupons is not null;

    /// <summary>Whether the rule is in force at a moment.</summary>
    /// <param name="at">The moment.</param>
    /// <param name="day">The day of the week of that moment in the shop's time zone.</param>
    public bool Holds(DateTimeOffset at, DayOfWeek day) => !(at < From) && !(at >= Until) && (Weekdays.IsEmpty || Weekdays.Contains(day));
}

/// <summary>How many times a rule may be used; a use counts if the rule acted on an order.</summary>
/// <param name="PerBuyer">By email, letter case ignored; null: any number.</param>
/// <param name="InAll">Null: any number.</param>
public sealed record RuleLimits(int? PerBuyer, int? InAll)
{
    /// <summary>No limits.</summary>
    public static RuleLimits None { get; } = new(null, null);
}

/// <summary>Whether a rule may act at all.</summary>
public enum RuleState
{
    /// <summary>Never acts.</summary>
    Draft,

    /// <summary>Acts while it is in force.</summary>
    On,
}

/// <summary>Where a rule stands at a moment.</summary>
public enum RulePhase
{
    /// <summary>Not switched on.</summary>
    Draft,

    /// <summary>Switched on, and its first moment is to come.</summary>
    Planned,

    /// <summary>In force.</summary>
    Running,

    /// <summary>Its end has passed.</summary>
    Over,
}

/// <summary>A rule that moves prices (domain.md, section 5). Amounts are whole minor units of the shop's currency.</summary>
/// <param name="Key">Unique in the shop, or in its product.</param>
/// <param name="Name">What people read.</param>
/// <param name="Effect">What it does.</param>
public sealed record PriceRule(Key Key, string Name, PriceEffect Effect)
{
    /// <summary>The priority of a rule that names none.</summary>
    public const int UsualPriority = 100;

    /// <summary>The code of the product whose own rule it is; null for the shop's.</summary>
    public string? Owner { get; init; }

    /// <summary>The currency of its amounts.</summary>
    public Currency Currency { get; init; } = Currency.Euro;

    /// <summary>The goods that it is about.</summary>
    public PriceScope Scope { get; init; } = PriceScope.All;

    /// <summary>When it acts.</summary>
    public PriceWhen When { get; init; } = PriceWhen.Always;

    /// <summary>How it acts beside others.</summary>
    public Combine Combine { get; init; }

    /// <summary>The lower, the earlier.</summary>
    public int Priority { get; init; } = UsualPriority;

    /// <summary>How many times it may be used.</summary>
    public RuleLimits Limits { get; init; } = RuleLimits.None;

    /// <summary>Whether it may act at all.</summary>
    public RuleState State { get; init; } = RuleState.On;

    /// <summary>Whether it acts on sets.</summary>
    public bool ReachesSets { get; init; } = true;

    /// <summary>As workings and rows name it: the shop's by its key, a product's own as <c>CODE/key</c>.</summary>
    public string Id => Owner is null ? Key.Text : $"{Owner}/{Key.Text}";

    /// <summary>The rule after a value was merged into another: its scope names the one that stays.</summary>
    public PriceRule Following(Key question, Key from, Key into) =>
        Scope.Where is { } where
            ? this with
            {
                Scope = Scope with { Where = where.Following((q, v) => q == question && v == from ? into : v) },
            }
            : this;

    /// <summary>Whether it is about SKUs that it names.</summary>
    public bool NamesSkus => !Scope.Skus.IsEmpty || Effect is PriceEffect.SetBySku;

    /// <summary>The SKUs that it names, in capitals.</summary>
    public IEnumerable<string> NamedSkus => Scope.Skus.Concat((Effect as PriceEffect.SetBySku)?.Prices.Keys ?? []);

    /// <summary>The rule with every SKU that it names under other names.</summary>
    /// <param name="names">The names of a SKU, all in capitals; the first to name one has it.</param>
    public PriceRule Naming(Func<string, IEnumerable<string>> names)
    {
        var effect = Effect;
        if (effect is PriceEffect.SetBySku by)
        {
            var prices = ImmutableSortedDictionary.CreateBuilder<string, long>();
            foreach (var (sku, price) in by.Prices)
                foreach (var name in names(sku))
                    prices.TryAdd(name, price);
            effect = by with { Prices = prices.ToImmutable() };
        }
        return this with { Scope = Scope with { Skus = [.. Scope.Skus.SelectMany(names).Distinct()] }, Effect = effect };
    }

    /// <summary>Where it stands at a moment.</summary>
    public RulePhase PhaseAt(DateTimeOffset at) =>
        State == RuleState.Draft ? RulePhase.Draft
        : at < When.From ? RulePhase.Planned
        : at >= When.Until ? RulePhase.Over
        : RulePhase.Running;

    /// <summary>Lower priority first, then key.</summary>
    public static IComparer<PriceRule> Order { get; } =
        Comparer<PriceRule>.Create(
            (a, b) =>
                a.Priority != b.Priority ? a.Priority.CompareTo(b.Priority)
                : string.CompareOrdinal(a.Key.Text, b.Key.Text) is not 0 and var byKey ? byKey
                : string.CompareOrdinal(a.Id, b.Id)
        );
}
