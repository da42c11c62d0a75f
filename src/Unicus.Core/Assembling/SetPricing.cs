namespace Unicus.Core.Assembling;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Parts;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Answers;
using Unicus.Core.Products;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>A part of a set with its price; amounts in minor units.</summary>
/// <param name="Part">What was picked.</param>
/// <param name="Goods">Its variant.</param>
/// <param name="Answers">Those that count.</param>
/// <param name="Units">For one set.</param>
/// <param name="List">Of one unit: its list price.</param>
/// <param name="Each">Of one unit: what its answers add.</param>
/// <param name="Left">Of one unit: what of it counts in the sum, after the slot's own reduction.</param>
/// <param name="Weight">Of one unit: by what the line's total is shared out.</param>
/// <param name="Inner">Its own parts; null for goods without.</param>
internal sealed record PricedPart(
    PickedPart Part,
    VariantOnSale Goods,
    Configuration Answers,
    long Units,
    long List,
    long Each,
    long Left,
    long Weight,
    PricedSet? Inner
)
{
    /// <summary>What answers bring that is in stock by itself, with its list price.</summary>
    public ImmutableArray<BroughtPart> Brought { get; init; } = [];

    /// <summary>What the values of its answers cost a unit besides; what is charged once is reckoned for the line.</summary>
    public ValueCosts ValueCosts { get; init; }

    /// <summary>Answers that are charged once for the line.</summary>
    public ImmutableArray<WorkingStep> Once { get; init; } = [];

    /// <summary>Its slot.</summary>
    public Slot Slot => Part.Slot.Slot;
}

/// <summary>A set with the prices of its parts.</summary>
/// <param name="Parts">In their order.</param>
/// <param name="List">L, in minor units.</param>
/// <param name="Steps">How it is made up; they add up to it.</param>
internal sealed record PricedSet(ImmutableArray<PricedPart> Parts, long List, ImmutableArray<WorkingStep> Steps)
{
    /// <summary>Answers of parts that are charged once for the line, those of parts within parts too.</summary>
    public IEnumerable<WorkingStep> Once => Parts.SelectMany(p => p.Once.Concat(p.Inner?.Once ?? []));

    /// <summary>What the parts come to by themselves, in minor units.</summary>
    public long Alone => Parts.Sum(p => p.Units * (p.List + p.Each));
}

/// <summary>The list price of sets from their parts (domain.md, section 6).</summary>
/// <param name="terms">What prices go by; rules reach inside where a set says so.</param>
/// <param name="range">Where parts of answers are looked up.</param>
/// <param name="rulesReachParts">False: they stay outside, whatever a set says.</param>
internal sealed class SetPricing(RunTerms terms, PublishedRange range, bool rulesReachParts = true)
{
    private Currency Currency => terms.Trade.Currency;

    /// <summary>The price of a set; null where a part has none.</summary>
    /// <param name="edition">The product.</param>
    /// <param name="assembled">The set with its slots filled.</param>
    /// <param name="quantity">Sets in the line.</param>
    /// <remarks>What is open counts where its slot says: the cheapest variant, the least units.</remarks>
    public PricedSet? Of(Edition edition, AssembledSet assembled, int quantity)
    {
        var parts = ImmutableArray.CreateBuilder<PricedPart>();
        foreach (var picked in assembled.Parts)
            if (picked.Status is null)
                continue;
            else if (Part(edition, picked, quantity) is { } part)
                parts.Add(part);
            else
                return null;
        return Sum(edition.Product.Parts!, parts.ToImmutable());
    }

    /// <summary>Puts parts together.</summary>
    private PricedSet Sum(SetParts set, ImmutableArray<PricedPart> parts)
    {
        var steps = ImmutableArray.CreateBuilder<WorkingStep>();
        void Step(string label, long amount) => steps.Add(new WorkingStep(PriceStep.List, label, MinorUnits.ToMoney(amount, Currency)));
        if (set.Price is SetPrice.Fixed price)
        {
            var list = MinorUnits.Of(price.Amount);
            Step("Price of the set", list);
            foreach (var part in parts)
            {
                var extra = part.Part.Candidate.Entry.Extra is { } more ? MinorUnits.Of(more) : 0;
                var adds = part.Units * (extra + part.Each);
                if (adds != 0)
                    Step($"{part.Slot.Label}: {part.Part.Name}", adds);
                list += adds;
            }
            return new PricedSet(parts, Math.Max(0, list), steps.ToImmutable());
        }
        var sum = 0L;
        foreach (var part in parts)
        {
            sum += part.Units * part.Left;
            Step(
                $"{part.Part.Name}{(part.Units == 1 ? "" : $", {part.Units} × {MinorUnits.ToMoney(part.Left, Currency).ForPeople()}")}",
                part.Units * part.Left
            );
        }
        if (set.Price is not SetPrice.Sum { Reduce: { } reduce })
            return new PricedSet(parts, sum, steps.ToImmutable());
        var left = reduce.Remains(sum);
        Step(reduce.Percent is { } percent ? $"Together {new Percentage(percent)} % less" : "Together less", left - sum);
        return new PricedSet(parts, left, steps.ToImmutable());
    }

    private PricedPart? Part(Edition set, PickedPart picked, int quantity)
    {
        var status = picked.Status!;
        var edition = status.Edition;
        var units = picked.Units ?? picked.Slot.Slot.Quantity.Min;
        var configurator = edition.Configurator;
        var answers = configurator.Filled(status.Answers, restNone: false, today: null, selfAnswering: false, status.Reply);
        var inner = status.Assembled is { } assembled ? Of(edition, assembled, Times(quantity, units)) : null;
        if (status.Assembled is not null && inner is null)
            return null;
        if ((status.Variant ?? Cheapest(edition, answers, inner is not null)) is not { } variant)
            return null;
        answers = variant.Values.Pairs.Aggregate(answers, (g, p) => g[p.Option] is null ? g.With(p.Option, new Answer.Value(p.Value)) : g);
        var shown = configurator.Shown(answers);
        if ((inner?.List ?? (variant.Price.Figure is { } own ? MinorUnits.Of(own) : null)) is not { } list)
            return null;
        var amounts = new AnswerPricing(edition.Questions, range.Figures).Amounts(shown, MinorUnits.ToMoney(list, Currency)).ToList();
        var each = amounts.Where(a => !a.PerLine).Sum(a => MinorUnits.Of(a.Amount));
        var goods = new VariantOnSale(edition, variant);
        var isReached = rulesReachParts && set.Product.Parts!.RulesReachParts;
        var reached = isReached ? Inside(set, goods, list, each, inner, Times(quantity, units)) : list + each;
        var slot = picked.Slot.Slot;
        var left =
            slot.Included ? each
            : slot.SetUnit is { } price ? Math.Min(reached, MinorUnits.Of(price) + each)
            : slot.Reduce?.Remains(Math.Max(0, reached)) ?? reached;
        left = Math.Max(0, left);
        return new PricedPart(picked, goods, shown, units, list, each, left, slot.Included ? Math.Max(0, list + each) : left, inner)
        {
            Brought = BroughtPart.Of(edition, shown, range) is { Ok: true, Value: var brought } ? brought : [],
            ValueCosts = ValueCosts.Of(edition, shown),
            Once = [.. amounts.Where(a => a.PerLine).Select(a => a.Step() with { Label = $"{slot.Label}: {a.Step().Label}" })],
        };
    }

    /// <summary>More than can be ordered is no other number of units.</summary>
    private static int Times(int quantity, int units) => (int)Math.Min(int.MaxValue, (long)quantity * units);

    private static MatrixVariant? Cheapest(Edition edition, Configuration answers, bool isSet)
    {
        var offered = edition.Configurator.Offered(answers).Take(MostLooked).ToList();
        return isSet ? offered.FirstOrDefault() : offered.Where(v => v.Price.Figure is not null).MinBy(v => v.Price.Figure!.Value);
    }

    /// <summary>Variants of an open part that are looked at.</summary>
    private const int MostLooked = 2_000;

    /// <summary>What rules that are about a part, and not about the set, make of a unit of it within its own room.</summary>
    private long Inside(Edition set, VariantOnSale part, long list, long each, PricedSet? inner, int quantity)
    {
        var buying = terms.Buying;
        var ofSet = buying.Book.At(buying.At, buying.Day).Of(set, buying.At, buying.Day).All.Select(r => r.Rule).ToHashSet();
        var prices = EditionPrices.Of(part.Edition, terms, quantity, null, r => r.ReachesSets && !ofSet.Contains(r));
        if (prices is null)
            return list + each;
        var floor = inner is null ? EditionPrices.FloorOf(part.Edition, part.Variant, terms.Trade) : FloorOf(part.Edition, inner);
        return prices.Of(part.Variant, list, each, floor);
    }

    /// <summary>The floor of a set, F: what the leaves of one must bring at the least margin.</summary>
    /// <returns>In minor units; null where there is no floor, or the cost of a leaf is not known.</returns>
    public long? FloorOf(Edition edition, PricedSet set)
    {
        if ((edition.Product.Floor ?? terms.Trade.Floor) is not { } margin)
            return null;
        var leaves = Costs(set, edition.Product.Parts!.TaxClass, 1).ToList();
        return leaves.TrueForAll(l => l.Cost is not null)
            ? Floors.Of(leaves.Select(l => (l.Cost!.Value, RateOf(l.TaxClass))), margin)
            : null;
    }

    /// <summary>What the leaves of so many sets cost, each with its class.</summary>
    public static IEnumerable<(long? Cost, string? TaxClass)> Costs(PricedSet priced, string? taxClass, long units)
    {
        foreach (var part in priced.Parts)
        {
            var all = units * part.Units;
            if (part.Inner is { } inner)
                foreach (var leaf in Costs(inner, taxClass ?? part.Goods.Edition.Product.Parts!.TaxClass, all))
                    yield return leaf;
            else
                yield return (part.Goods.Figures.Cost is { } cost ? MinorUnits.Of(cost) * all : null, taxClass ?? part.Goods.TaxClass);
            if (part.ValueCosts.Each != 0)
                yield return (part.ValueCosts.Each * all, taxClass ?? part.Goods.TaxClass);
            foreach (var brought in part.Brought)
                if (brought.Set is { } set)
                {
                    var own = brought.Goods.Edition.Product.Parts!.TaxClass;
                    foreach (var leaf in Costs(set.Priced, taxClass ?? own, all * brought.PerUnit))
                        yield return leaf;
                }
                else
                    yield return (
                        brought.Goods.Figures.Cost is { } each ? MinorUnits.Of(each) * brought.PerUnit * all : null,
                        taxClass ?? brought.Goods.TaxClass
                    );
        }
    }

    private decimal RateOf(string? taxClass) => MarginBasis.Dearest(terms.Trade, taxClass).Contained;
}
