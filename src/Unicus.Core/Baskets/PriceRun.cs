namespace Unicus.Core.Baskets;

using System.Collections.Immutable;
using Unicus.Core.Assembling;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Stages;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Rules;

/// <summary>A line with its price made.</summary>
/// <remarks>The line ran in whole minor units; what is asked of it is made of these when it is first asked for.</remarks>
public sealed class PricedLine
{
    private readonly LineRun _run;
    private readonly long _tax;
    private readonly RunTaxes _taxes;
    private PriceWorking? _working;
    private ImmutableArray<Leaf> _leaves;

    internal PricedLine(RunLine line, LineRun run, PricedSet? set, RunTaxes taxes)
    {
        (Line, _run, Set, _taxes) = (line, run, set, taxes);
        // A plain line is taxed as it is; another by what comes to its leaves.
        _tax = IsPlain
            ? taxes.Of(run.Of.TaxClass, run.Total + run.Share)
            : Leaves.GroupBy(l => taxes.InForce(l.TaxClass)).Sum(g => taxes.Of(g.Key, g.Sum(l => MinorUnits.Of(l.Allocated))));
    }

    /// <summary>What is priced.</summary>
    public RunLine Line { get; }

    /// <summary>Σ unit steps × quantity + Σ line steps is the total; empty where no trace was asked for.</summary>
    public PriceWorking Working => _working ??= _run.Working();

    /// <summary>One unit after stage 3 with its floor.</summary>
    public Money Unit => Of(_run.Unit);

    /// <summary>The line after stage 5, <em>once</em> surcharges included.</summary>
    public Money Total => Of(_run.Total);

    /// <summary>Its share of the basket's reductions; 0 or less.</summary>
    public Money Reduction => Of(_run.Share);

    /// <summary>Contained in, or added to, what is paid for it.</summary>
    public Money Tax => Of(_tax);

    /// <summary>What it takes, the goods themselves first; what is allocated to them adds up to what is paid for the line.</summary>
    public ImmutableArray<Leaf> Leaves => _leaves.IsDefault ? _leaves = ComeApart() : _leaves;

    /// <summary>The line's tax shared out among its leaves, in their order: of each class by what is allocated.</summary>
    public ImmutableArray<Money> LeafTaxes
    {
        get
        {
            var taxes = new Money[Leaves.Length];
            foreach (var same in Leaves.Index().GroupBy(l => _taxes.InForce(l.Item.TaxClass)))
            {
                var weights = same.Select(l => (decimal)Math.Max(0, MinorUnits.Of(l.Item.Allocated))).ToList();
                var tax = IsPlain ? Tax : Of(_taxes.Of(same.Key, same.Sum(l => MinorUnits.Of(l.Item.Allocated))));
                foreach (var (leaf, share) in same.Zip(Allocation.Share(tax, weights)))
                    taxes[leaf.Index] = share;
            }
            return [.. taxes];
        }
    }

    /// <summary>“Garden hive, deep, cedar”.</summary>
    public string Title => Line.Title;

    /// <summary>What the line costs the merchant; null where the cost of a leaf is not known.</summary>
    public Money? Cost => Leaves.All(l => l.Cost is not null) ? Leaves.Select(l => l.Cost!.Value).Sum(Total.Currency) : null;

    /// <summary>The answers to extras as people read them, “Roof: gabled”, those of parts behind their slots: “Plate, name: Ida”.</summary>
    public IEnumerable<(string Label, string Answer)> Extras =>
        AnswerText.Extras(Line.Goods.Edition.Questions, Line.Answers).Concat(Line.Assembled?.Extras ?? []);

    internal LineRun Run => _run;

    /// <summary>In minor units.</summary>
    internal long TaxAmount => _tax;

    /// <summary>The prices of the parts of a set; null for a product without.</summary>
    internal PricedSet? Set { get; }

    /// <summary>What the parts come to by themselves, for the whole line; null for a product without.</summary>
    public Money? PartsAlone => Set is { } set ? Of(set.Alone * Line.Quantity) : null;

    private bool IsPlain => Set is null && Line.Needs is [{ Path.IsOwn: true, PerUnit: 1 }];

    private Currency Currency => _run.Of.Currency;

    private Money Of(long minor) => MinorUnits.ToMoney(minor, Currency);

    private ImmutableArray<Leaf> ComeApart()
    {
        var values = ValueCosts.Of(Line.Goods.Edition, Line.Answers);
        var paid = _run.Total + _run.Share;
        if (Set is { } set)
            return LineLeaves.OfSet(Line, set, paid, values, Currency);
        Money? own =
            Line.IsOfGroup ? Of(values.For(Line.Quantity))
            : _run.Of.Cost is { } cost ? Of(cost * Line.Quantity + values.For(Line.Quantity))
            : null;
        return IsPlain
            ? [new Leaf(LeafPath.Own, Line.Goods, Line.Quantity, Of(paid), own)]
            : LineLeaves.OfGoods(Line, paid, _run.OwnWeight, own, Currency);
    }
}

/// <summary>The taxes of a destination by class; without one nothing is taxed.</summary>
internal sealed class RunTaxes(RunTerms terms)
{
    private readonly Dictionary<string, TaxRate> _rates = [];

    /// <inheritdoc cref="TradeTerms.InForce"/>
    public string? InForce(string? taxClass) => terms.Trade.InForce(taxClass);

    /// <summary>The tax of an amount, in minor units.</summary>
    public long Of(string? taxClass, long amount)
    {
        if (terms.Destination is not { } destination || taxClass is null)
            return 0;
        if (!_rates.TryGetValue(taxClass, out var rate))
            _rates[taxClass] = rate = new TaxRate(destination.RateOf(taxClass), terms.Trade.PricesIncludeTax);
        return rate.Of(amount);
    }
}

/// <summary>A priced basket.</summary>
/// <param name="Lines">In their order.</param>
/// <param name="Terms">By what it is reckoned.</param>
/// <param name="Subtotal">Σ line totals.</param>
/// <param name="Delivery">The charge of delivery, in the shop's price mode.</param>
/// <param name="Service">The way of delivery; null where nothing is sent or it is free everywhere.</param>
/// <param name="Tax">Of lines and delivery.</param>
/// <param name="Total">What is paid.</param>
public sealed record PricedBasket(
    ImmutableArray<PricedLine> Lines,
    RunTerms Terms,
    Money Subtotal,
    Money Delivery,
    DeliveryService? Service,
    Money Tax,
    Money Total
)
{
    /// <summary>The currency of all its amounts.</summary>
    public Currency Currency => Terms.Trade.Currency;

    /// <summary>The ways in which it can be sent, with what each costs.</summary>
    public ImmutableArray<OfferedService> Offered { get; init; } = [];

    /// <summary>What became of each coupon that was named.</summary>
    public ImmutableArray<CouponReply> Coupons { get; init; } = [];

    /// <summary>What reductions of the basket took off, by rule; they add up to what the lines' reductions come to.</summary>
    public ImmutableArray<RuleAmount> Reductions { get; init; } = [];

    /// <summary>Every rule that moved something, whatever its stage.</summary>
    public ImmutableArray<RuleAmount> Acted { get; init; } = [];

    /// <summary>The rules that are switched on, the goods' own included, of which something holds.</summary>
    public IEnumerable<PriceRule> RulesOf(Func<PriceRule, bool> holds) =>
        Terms
            .Buying.Book.Rules.Concat(Lines.Select(l => l.Line.Goods.Edition.Product).Distinct().SelectMany(p => p.PriceRules))
            .Where(r => r.State == RuleState.On && holds(r));
}

/// <summary>A way in which a basket can be sent.</summary>
/// <param name="Service">The way of delivery.</param>
/// <param name="Charge">After reductions of delivery, in the shop's price mode.</param>
public sealed record OfferedService(DeliveryService Service, Money Charge);

/// <summary>What a rule moved in a basket.</summary>
/// <param name="Rule">The rule.</param>
/// <param name="Amount">0 or less.</param>
public sealed record RuleAmount(PriceRule Rule, Money Amount);

/// <summary>The price of lines, stage by stage, in the order of domain.md, section 5: the one way to a price, for pages, proofs,
/// baskets, orders and the HTTP interface.</summary>
/// <remarks>Inside, all amounts are whole minor units of the shop's currency; rules act on them in <see cref="RuleRun"/>.</remarks>
public static class PriceRun
{
    /// <summary>The price of a basket.</summary>
    /// <param name="lines">In the order of the basket.</param>
    /// <param name="terms">By what it is reckoned.</param>
    /// <param name="range">Where parts are looked up.</param>
    /// <param name="trace">Whether workings are written.</param>
    /// <returns>The priced basket, or why a line or its delivery cannot be had, with the number of the line (−1 for the
    /// whole).</returns>
    public static PricedRun Of(IReadOnlyList<RunLine> lines, RunTerms terms, PublishedRange range, bool trace = true)
    {
        var faults = new List<LineFault>();
        var all = lines as RunLine[] ?? [.. lines];
        // Apart from each other: one array of all three would lie on the large heap for ten thousand lines.
        var running = new LineRun[all.Length];
        var sets = new Dictionary<int, PricedSet>();
        var start = new LineStart(terms, range, trace);
        for (var i = 0; i < all.Length; i++)
            if (start.Of(all[i], i) is not ({ } run, var set))
                faults.Add(new LineFault(i, $"{all[i].Goods.Variant.Sku} has no price."));
            else if (!run.IsChargeable)
                faults.Add(new LineFault(i, "It comes to more than can be charged."));
            else if (run.Total < 0)
                faults.Add(new LineFault(i, "Its answers would bring the price below 0."));
            else
            {
                running[i] = run;
                if (set is not null)
                    sets[i] = set;
            }
        if (faults.Count > 0)
            return new PricedRun(null, faults);
        var rules = RuleRun.Of(running, all, terms.Buying);
        var taxes = new RunTaxes(terms);
        var priced = ImmutableArray.CreateBuilder<PricedLine>(all.Length);
        for (var i = 0; i < all.Length; i++)
            priced.Add(new PricedLine(all[i], running[i], sets.GetValueOrDefault(i), taxes));
        return Sum(priced.MoveToImmutable(), terms, rules);
    }

    private static PricedRun Sum(ImmutableArray<PricedLine> lines, RunTerms terms, RuleRun rules)
    {
        var (currency, destination) = (terms.Trade.Currency, terms.Destination);
        var (totals, shares, taxes) = (0L, 0L, 0L);
        foreach (var line in lines)
            (totals, shares, taxes) = (totals + line.Run.Total, shares + line.Run.Share, taxes + line.TaxAmount);
        var subtotal = MinorUnits.ToMoney(totals, currency);
        var goods = subtotal + MinorUnits.ToMoney(shares, currency);
        var (delivery, service) = (Money.Zero(currency), (DeliveryService?)null);
        ImmutableArray<OfferedService> offered = [];
        if (destination is { Services.IsEmpty: false } && !terms.WithoutDelivery && ParcelOf(lines) is { } parcel)
        {
            Money Left(DeliveryService s, bool acts) =>
                MinorUnits.ToMoney(rules.Delivery(MinorUnits.Of(s.Charge(parcel, goods)!.Value), acts), currency);
            offered =
            [
                .. destination.Services.Where(s => s.Charge(parcel, goods) is not null).Select(s => new OfferedService(s, Left(s, false))),
            ];
            service = offered.Select(o => o.Service).FirstOrDefault(s => terms.Service is null || s.Key.Text == terms.Service);
            if (service is null)
                return PricedRun.No(-1, NotSent(parcel, destination, terms.Service));
            delivery = Left(service, true);
        }
        var tax = MinorUnits.ToMoney(taxes, currency);
        if (service is not null)
            tax += Taxation.Of(delivery, destination!.RateOf(service.TaxClass), terms.Trade.PricesIncludeTax);
        var total = goods + delivery + (terms.Trade.PricesIncludeTax ? Money.Zero(currency) : tax);
        var acted = rules.Uses.Where(u => u.Moved < 0).ToList();
        var own = lines.Select(l => l.Line.Goods.Edition.Product).Distinct().SelectMany(p => p.PriceRules);
        var basket = new PricedBasket(lines, terms, subtotal, delivery, service, tax, total)
        {
            Reductions = [.. acted.Where(u => u.Rule.Effect is PriceEffect.ReduceBasket).Select(Row)],
            Acted = [.. acted.Select(Row)],
            Offered = offered,
            Coupons = CouponReplies.Of(terms.Buying, rules.Uses, own, currency),
        };
        return new PricedRun(basket, []);

        RuleAmount Row(RuleUse use) => new(use.Rule, MinorUnits.ToMoney(use.Moved, currency));
    }

    /// <summary>What of the lines is sent; null where nothing is.</summary>
    private static Parcel? ParcelOf(ImmutableArray<PricedLine> lines)
    {
        var sent = lines.SelectMany(l => l.Leaves).Where(l => l.Goods.Variant.Selling.Shipped != false).ToList();
        if (sent.Count == 0)
            return null;
        var goods = sent.Select(l => l.Goods.Edition.Product).Distinct().Select(p => new ParcelGoods(p.Code.Text, p.Tags));
        var longest = sent.Select(l => l.Goods.SizeMm).OfType<SizeMm>().Select(s => Math.Max(s.Length, Math.Max(s.Width, s.Height)));
        return new Parcel(sent.Sum(l => l.Units * (l.Goods.WeightGrams ?? 0)), longest.DefaultIfEmpty(0).Max(), [.. goods]);
    }

    private static string NotSent(Parcel parcel, Destination destination, string? wanted) =>
        wanted is not null && destination.Services.All(s => s.Key.Text != wanted) ? $"There is no delivery {wanted} to {destination.Label}."
        : destination.Services.All(s => s.Rates.All(r => r.WeightUpToGrams < parcel.Grams))
            ? $"{parcel.Grams / 1000m:0.###} kg are too heavy to be sent to {destination.Label}."
        : $"This cannot be sent to {destination.Label}{(wanted is null ? "" : $" by {wanted}")}: it is too heavy or too long.";
}

/// <summary>Something that keeps a line from being priced.</summary>
/// <param name="Line">Its place in the basket from 0; −1 for the whole basket.</param>
/// <param name="What">A sentence.</param>
public sealed record LineFault(int Line, string What);

/// <summary>What came of a run: a priced basket, or every fault.</summary>
public sealed record PricedRun(PricedBasket? Basket, IReadOnlyList<LineFault> Faults)
{
    /// <summary>A run that came to nothing.</summary>
    public static PricedRun No(int line, string what) => new(null, [new LineFault(line, what)]);
}
