namespace Unicus.Core.Proof;

using System.Collections.Immutable;
using Unicus.Core.Assembling;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Pricing;
using Unicus.Core.Products;
using Unicus.Core.Range;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>A way to put one set together, in minor units.</summary>
/// <param name="List">L: what the set costs by its list price, its own answers left aside.</param>
/// <param name="Cost">What all that is in it costs the merchant.</param>
/// <param name="Gross">Σ cost × (100 + tax rate) of all that is in it, which its floor is made of.</param>
/// <param name="Once">What answers of parts add once for a line.</param>
/// <param name="OnceCost">What they cost once for a line.</param>
/// <param name="Picks">What fills its slots; null behind the last.</param>
internal sealed record SetWay(long List, long Cost, decimal Gross, long Once, long OnceCost, SetWayPick? Picks)
{
    /// <summary>Nothing is in it yet.</summary>
    public static SetWay Empty { get; } = new(0, 0, 0, 0, 0, null);

    /// <summary>Whether it cannot have a higher margin than the other, floor included.</summary>
    public bool IsWorseOrSame(SetWay other) => List <= other.List && Cost >= other.Cost && Once <= other.Once && OnceCost >= other.OnceCost;

    /// <summary>This and another together.</summary>
    public SetWay With(SetWay other, SetWayPick? picks) =>
        new(List + other.List, Cost + other.Cost, Gross + other.Gross, Once + other.Once, OnceCost + other.OnceCost, picks);
}

/// <summary>What fills a slot in such a way, and the picks before it.</summary>
/// <param name="Slot">The slot.</param>
/// <param name="Answer">The part with its variant and answers; null where the slot stays empty.</param>
/// <param name="Before">The pick before it; null: it is the first.</param>
internal sealed record SetWayPick(Slot Slot, PartAnswer? Answer, SetWayPick? Before);

/// <summary>The ways to put a set together of which none is worse for the margin than another: over candidates, variants, units and
/// answers of parts, through every level.</summary>
/// <remarks>
/// Rules over picks and variants that follow the set's are left aside, so some of the ways may not be sold: what holds for all of them
/// is never optimistic. A set that costs less in its list price and more in its parts has no higher margin by any rules, nor, within a
/// minor unit, by the floor.
/// </remarks>
/// <param name="terms">What prices go by.</param>
/// <param name="range">Where parts are looked up.</param>
/// <param name="today">The shop's day, which dates are counted from.</param>
/// <param name="all">Whether ways are kept too that others are worse than, each sum once.</param>
internal sealed class WorstSets(TradeTerms terms, PublishedRange range, DateOnly today, bool all = false)
{
    /// <summary>So many ways are kept at most; beyond, several are put together, and the bound is no longer exact.</summary>
    private const int Most = 200;

    private const int MostVariants = 2_000;

    /// <summary>Candidates by how many of them may be picked: a slot that offers more ways to pick several is not proven.</summary>
    private const int MostPicks = 1_000;
    private const int EveryQuantityUpTo = 6;

    private readonly HashSet<decimal> _rates = [];

    /// <summary>Whether nothing was put together as a bound.</summary>
    public bool IsExact { get; private set; } = true;

    /// <summary>The highest tax rate of anything that may be in it, in per cent.</summary>
    public decimal HighestRate => _rates.DefaultIfEmpty(0).Max();

    /// <summary>Whether everything that may be in it is taxed alike.</summary>
    public bool HasOneRate => _rates.Count <= 1;

    /// <summary>The ways; empty where it cannot be put together; null where a cost is not known, or rules act inside, which is not
    /// reckoned with.</summary>
    public IReadOnlyList<SetWay>? Of(Edition set) => Of(set, null, 0);

    private IReadOnlyList<SetWay>? Of(Edition set, string? taxClass, int level)
    {
        var parts = set.Product.Parts!;
        if (parts.RulesReachParts || level > SetParts.MostLevels)
            return null;
        List<SetWay> ways = [SetWay.Empty];
        foreach (var slot in set.Slots)
        {
            if (Filled(parts, slot, taxClass ?? parts.TaxClass, level) is not { } fillings)
                return null;
            ways = Kept([.. ways.SelectMany(w => fillings.Select(f => w.With(f, Joined(w.Picks, f.Picks))))]);
        }
        return
        [
            .. ways.Select(w =>
                parts.Price switch
                {
                    SetPrice.Fixed f => w with { List = Math.Max(0, MinorUnits.Of(f.Amount) + w.List) },
                    SetPrice.Sum { Reduce: { } reduce } => w with { List = reduce.Remains(w.List) },
                    _ => w,
                }
            ),
        ];
    }

    private static SetWayPick? Joined(SetWayPick? before, SetWayPick? more) =>
        more is null ? before : more with { Before = Joined(before, more.Before) };

    /// <summary>The ways to fill a slot; their list price is what they add to that of the set.</summary>
    private List<SetWay>? Filled(SetParts set, FilledSlot filled, string? taxClass, int level)
    {
        var slot = filled.Slot;
        var counts = filled.Question is null ? PickCounts.Just(slot.Optional ? 0 : 1) : PickCounts.Of(slot, filled.Candidates.Length);
        // By how many candidates are picked so far.
        var byCount = new List<SetWay>[Math.Min(counts.Most, filled.Candidates.Length) + 1];
        if (filled.Candidates.Length * byCount.Length > MostPicks)
            return null;
        byCount[0] = [SetWay.Empty with { Picks = new SetWayPick(slot, null, null) }];
        foreach (var candidate in filled.Candidates)
        {
            if (PartOnSale.Of(candidate, range) is not { } part || part.Edition.Product.IsGroup)
                continue;
            if (Ways(set, slot, candidate, part, taxClass, level) is not { } ways)
                return null;
            for (var count = byCount.Length - 1; count >= 1; count--)
                if (byCount[count - 1] is { } fewer)
                    byCount[count] = Kept([
                        .. byCount[count] ?? [],
                        .. fewer.SelectMany(f => ways.Select(w => f.With(w, w.Picks! with { Before = f.Picks }))),
                    ]);
        }
        return Kept([.. byCount.Where((_, count) => counts.Allows(count)).OfType<List<SetWay>>().SelectMany(w => w)]);
    }

    /// <summary>The ways in which one candidate fills a slot.</summary>
    private List<SetWay>? Ways(SetParts set, Slot slot, Candidate candidate, PartOnSale part, string? taxClass, int level)
    {
        var edition = part.Edition;
        var inner = edition.Product.IsSet ? Of(edition, taxClass, level + 1) : null;
        if (edition.Product.IsSet && inner is null)
            return null;
        var worst = new WorstAnswers(edition.Configurator, range.Figures, today, all);
        var found = new List<SetWay>();
        var variants = part.Only is { } only ? [only] : edition.Matrix.Offered.Take(MostVariants + 1).ToList();
        IsExact &= variants.Count <= MostVariants;
        foreach (var variant in variants)
        {
            var rate = MarginBasis.Dearest(terms, taxClass ?? new VariantOnSale(edition, variant).TaxClass).Contained;
            IEnumerable<SetWay> bare;
            if (inner is not null)
                bare = inner;
            else if (variant.Price.Figure is not { } price)
                continue;
            else if (variant.Cost.Figure is not { } cost)
                return null;
            else
            {
                _rates.Add(rate);
                bare = [new SetWay(MinorUnits.Of(price), MinorUnits.Of(cost), MinorUnits.Of(cost) * (100 + rate), 0, 0, null)];
            }
            foreach (var way in bare)
                foreach (var answered in worst.Of(variant, MinorUnits.ToMoney(way.List, terms.Currency)))
                    found.AddRange(Priced(set, slot, candidate, way, answered, worst.ConfigurationOf(variant, answered, way.List), rate));
        }
        IsExact &= worst.IsExact && !edition.Product.Extras.Any(q => q.Values.Any(v => v.Part is not null));
        return Kept(found);
    }

    private IEnumerable<SetWay> Priced(
        SetParts set,
        Slot slot,
        Candidate candidate,
        SetWay part,
        AnsweredCost answered,
        Configuration answers,
        decimal rate
    )
    {
        var (list, each) = (part.List, answered.Adds);
        var left = Math.Max(
            0,
            slot.Included ? each
                : slot.SetUnit is { } price ? Math.Min(list + each, MinorUnits.Of(price) + each)
                : slot.Reduce?.Remains(Math.Max(0, list + each)) ?? list + each
        );
        var counts = set.Price is SetPrice.Fixed ? (candidate.Entry.Extra is { } extra ? MinorUnits.Of(extra) : 0) + each : left;
        var (unitCost, gross) = (part.Cost + answered.Cost, part.Gross + answered.Cost * (100 + Math.Min(rate, HighestRate)));
        foreach (var units in Quantities(slot.Quantity))
        {
            var answer = new PartAnswer(candidate.Key, answers, units, AnswersOf(part.Picks));
            yield return new SetWay(
                counts * units,
                unitCost * units,
                gross * units,
                part.Once + answered.Once,
                part.OnceCost + answered.OnceCost,
                new SetWayPick(slot, answer, null)
            );
        }
    }

    /// <summary>Between the least and the most the margin only rises or only falls.</summary>
    private static IEnumerable<int> Quantities(SlotQuantity quantity) =>
        quantity.Max - quantity.Min < EveryQuantityUpTo
            ? Enumerable.Range(quantity.Min, quantity.Max - quantity.Min + 1)
            : [quantity.Min, quantity.Max];

    /// <summary>What was picked, as answers for parts.</summary>
    public static PartAnswers AnswersOf(SetWayPick? picks)
    {
        var said = new Dictionary<Key, List<PartAnswer>>();
        for (var pick = picks; pick is not null; pick = pick.Before)
        {
            if (!said.TryGetValue(pick.Slot.Key, out var some))
                said[pick.Slot.Key] = some = [];
            if (pick.Answer is { } answer)
                some.Insert(0, answer);
        }
        return said.Count == 0
            ? PartAnswers.None
            : new PartAnswers(said.ToImmutableDictionary(s => s.Key, s => s.Value.ToImmutableArray()));
    }

    /// <summary>Those that no other is worse than.</summary>
    private List<SetWay> Kept(List<SetWay> found)
    {
        var kept = new List<SetWay>();
        if (all)
        {
            kept.AddRange(found.OrderBy(w => w.List).DistinctBy(w => (w.List, w.Cost, w.Once, w.OnceCost, w.Gross)));
            return kept.Count <= Most ? kept : Joined(kept);
        }
        // What comes in order of price is put together before there are too many to be looked through.
        foreach (var way in found.OrderBy(w => w.List).ThenByDescending(w => w.Cost))
        {
            var at = kept.FindIndex(k => k.IsWorseOrSame(way));
            if (at < 0)
            {
                kept.Add(way);
                if (kept.Count > 4 * Most)
                    kept = Joined(kept);
            }
            else if (way.Gross < kept[at].Gross)
                // Where tax rates differ the floor of what was dropped may be the lower one.
                kept[at] = kept[at] with { Gross = way.Gross };
        }
        return kept.Count <= Most ? kept : Joined(kept);
    }

    /// <summary>No more than may be kept, each the worst of several.</summary>
    private List<SetWay> Joined(List<SetWay> kept)
    {
        IsExact = false;
        return
        [
            .. kept.Chunk(1 + kept.Count / Most)
                .Select(some => new SetWay(
                    some.Min(w => w.List),
                    some.Max(w => w.Cost),
                    some.Min(w => w.Gross),
                    some.Min(w => w.Once),
                    some.Max(w => w.OnceCost),
                    some[0].Picks
                )),
        ];
    }
}
