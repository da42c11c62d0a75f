using System.Collections.Immutable;
using System.Runtime.CompilerServices;

namespace Unicus.Core;

/// <summary>What the parts of a set come to at least and at most; amounts in minor units.</summary>
/// <param name="Low">Of the sum of the parts, or of what picks add to a fixed price.</param>
/// <param name="FloorLow">Σ cost × (100 + tax rate) of the leaves at the low end; null where a cost is not known.</param>
/// <param name="IsExact">Whether there are picks that have each end.</param>
internal sealed record PartsEnds(long Low, long High, decimal? FloorLow, decimal? FloorHigh, bool IsExact)
{
    /// <summary>The same with one more slot, filled once.</summary>
    public PartsEnds With(SlotOption low, SlotOption high) =>
        new(Low + low.Low, High + high.High, FloorLow + low.Floor, FloorHigh + high.Floor, IsExact && low.IsExact && high.IsExact);
}

/// <summary>One way to fill a slot with one part.</summary>
/// <param name="Floor">As in <see cref="PartsEnds"/>, for all its units; null where a cost is not known.</param>
/// <param name="Needs">What it takes for one set.</param>
internal sealed record SlotOption(Key Candidate, long Low, long High, decimal? Floor, ImmutableArray<LeafNeed> Needs, bool IsExact);

/// <summary>The ways in which the slots of a set can be filled, with what each adds to its price.</summary>
internal sealed class SlotOptions(Edition edition, StandingTerms terms)
{
    private const int MostVariants = 400;
    private const int MostSteps = 20_000;

    private readonly Dictionary<(Key Slot, string Followed), List<SlotOption>> _kept = [];
    private readonly Dictionary<string, decimal> _rates = [];

    /// <summary>The ends over all picks of slots that are open; null where one cannot be filled.</summary>
    public PartsEnds? Ends(Configuration shown, PartAnswers said)
    {
        var ends = new PartsEnds(0, 0, 0, 0, true);
        foreach (var (slot, picks) in Visible(shown))
        {
            // A variant of each candidate, the cheapest or the dearest; then as few or as many candidates as may be.
            var candidates = ByCandidate(OptionsOf(slot, shown, said, picks));
            var (least, most) = Limits(slot, picks, candidates.Count);
            if (candidates.Count < least)
                return null;
            if (least == 1 && most == 1)
            {
                // Mostly there is one pick: it is found without putting all in order.
                var (low, high) = (candidates[0].Cheapest, candidates[0].Dearest);
                foreach (var (cheapest, dearest) in candidates)
                    (low, high) = (cheapest.Low < low.Low ? cheapest : low, dearest.High > high.High ? dearest : high);
                ends = ends.With(low, high);
                continue;
            }
            var cheap = candidates.Select(c => c.Cheapest).OrderBy(o => o.Low).Take(least).ToList();
            var dear = candidates.Select(c => c.Dearest).OrderByDescending(o => o.High).Take(most).ToList();
            ends = new PartsEnds(
                ends.Low + cheap.Sum(o => o.Low),
                ends.High + dear.Sum(o => o.High),
                Plus(ends.FloorLow, cheap),
                Plus(ends.FloorHigh, dear),
                ends.IsExact && cheap.Concat(dear).All(o => o.IsExact)
            );
        }
        return ends;
    }

    /// <summary>The cheapest picks of which one set can be sold now; null where there are none.</summary>
    /// <remarks>Slot by slot, the cheapest first, and never deeper than something as cheap that was found.</remarks>
    public PartsEnds? Cheapest(VariantOnSale set, Configuration shown, LeafStock stock)
    {
        var slots = new List<List<List<SlotOption>>>();
        foreach (var (slot, picks) in Visible(shown))
        {
            var options = OptionsOf(slot, shown, PartAnswers.None, picks)
                .Where(o => !NeedsParts || stock.Of(o.Needs).CanSell(1))
                .OrderBy(o => o.Low)
                .ToList();
            var (least, _) = Limits(slot, picks, options.Select(o => o.Candidate).Distinct().Count());
            slots.Add([.. Several(options, least)]);
        }
        var rest = new long[slots.Count + 1];
        for (var i = slots.Count - 1; i >= 0; i--)
            if (slots[i].Count == 0)
                return null;
            else
                rest[i] = rest[i + 1] + slots[i].Min(o => o.Sum(p => p.Low));
        if (edition.Product.Parts!.Stock == SetStock.Own && !stock.Of(set.Variant).CanSell(1))
            return null;
        var hasOwn = edition.Product.Parts!.Stock == SetStock.Own || (edition.Product.Parts.IsMadeUp && stock.Of(set.Variant).CanSell(1));
        var (best, steps) = ((PartsEnds?)null, 0);
        void Fill(int at, ImmutableList<SlotOption> chosen, long low)
        {
            if (best is not null && low + rest[at] >= best.Low || steps++ > MostSteps)
                return;
            if (at == slots.Count)
            {
                if (hasOwn || SetDemand.Most([.. chosen.SelectMany(c => c.Needs)], stock.CapacityOf) is null or > 0)
                    best = new PartsEnds(low, low, Plus(0, chosen), Plus(0, chosen), true);
                return;
            }
            foreach (var way in slots[at])
                Fill(at + 1, chosen.AddRange(way), low + way.Sum(o => o.Low));
        }
        Fill(0, [], 0);
        return best;
    }

    private bool NeedsParts => edition.Product.Parts!.Stock == SetStock.Parts;

    /// <summary>The ways to take so many different candidates, the cheapest first; at most some hundreds.</summary>
    private static IEnumerable<List<SlotOption>> Several(List<SlotOption> options, int least)
    {
        if (least == 0)
            return
            [
                [],
            ];
        if (least == 1)
            return options.Select(o => new List<SlotOption> { o });
        return Pick(0, least).Take(MostVariants);

        IEnumerable<List<SlotOption>> Pick(int from, int left)
        {
            if (left == 0)
            {
                yield return [];
                yield break;
            }
            for (var i = from; i < options.Count; i++)
                foreach (var others in Pick(i + 1, left - 1))
                    if (others.TrueForAll(o => o.Candidate != options[i].Candidate))
                        yield return [options[i], .. others];
        }
    }

    /// <summary>The slots that are shown, each with its picks; null picks are open.</summary>
    private IEnumerable<(FilledSlot Slot, Key[]? Picks)> Visible(Configuration shown)
    {
        var visibility = new Visibility(edition.Configurator.Book, shown);
        foreach (var slot in edition.Slots)
        {
            if (slot.Question is not { } question)
                yield return (slot, [.. slot.Candidates.Select(c => c.Key)]);
            else if (visibility.IsShown(question.Key))
                yield return (
                    slot,
                    shown[question.Key] switch
                    {
                        Answer.Value v => [v.Key],
                        Answer.Ticks t => [.. t.Keys],
                        Answer.None => [],
                        _ => null,
                    }
                );
        }
    }

    private static (int Least, int Most) Limits(FilledSlot slot, Key[]? picks, int all)
    {
        if (picks is not null)
            return (picks.Length, picks.Length);
        if (slot.Slot.Picks is not { } limits)
            return (slot.Slot.Optional ? 0 : 1, 1);
        return (slot.Slot.Optional ? 0 : Math.Max(1, limits.Min), limits.Max ?? Math.Max(1, all));
    }

    private static decimal? Plus(decimal? sum, IEnumerable<SlotOption> options) =>
        options.Aggregate(sum, (s, o) => s is { } a && o.Floor is { } b ? a + b : null);

    /// <summary>The cheapest and the dearest variant of each candidate; those of one stand together.</summary>
    private static List<(SlotOption Cheapest, SlotOption Dearest)> ByCandidate(IEnumerable<SlotOption> options)
    {
        var ends = new List<(SlotOption Cheapest, SlotOption Dearest)>();
        foreach (var option in options)
        {
            if (ends.Count == 0 || ends[^1].Cheapest.Candidate != option.Candidate)
                ends.Add((option, option));
            else if (option.Low < ends[^1].Cheapest.Low)
                ends[^1] = (option, ends[^1].Dearest);
            if (option.High > ends[^1].Dearest.High)
                ends[^1] = (ends[^1].Cheapest, option);
        }
        return ends;
    }

    /// <summary>The ways with the candidates that are picked; null for all.</summary>
    private IEnumerable<SlotOption> OptionsOf(FilledSlot slot, Configuration shown, PartAnswers said, Key[]? picks)
    {
        var all = OptionsOf(slot, shown, said);
        return picks is null ? all : all.Where(o => picks.Contains(o.Candidate));
    }

    /// <summary>Every candidate in every variant that it may have.</summary>
    private List<SlotOption> OptionsOf(FilledSlot slot, Configuration shown, PartAnswers said)
    {
        var followed = slot.Slot.Pick is SlotPick.Follows f && shown[f.Option] is Answer.Value v ? v.Key.Text! : "";
        if (_kept.TryGetValue((slot.Slot.Key, followed), out var kept))
            return kept;
        var isOpen = said.BySlot.IsEmpty && slot.Slot.Pick is not SlotPick.Follows;
        if (isOpen && Plain.TryGetValue(slot, out var plain) && plain.IsOf(edition, terms.Run.Trade, slot, terms.Range))
            return _kept[(slot.Slot.Key, followed)] = plain.Options;
        var goods = isOpen ? PlainGoods(slot) : null;
        var options = new List<SlotOption>();
        foreach (var candidate in slot.Candidates)
            options.AddRange(Of(slot, candidate, shown, said));
        if (goods is not null)
            Plain.AddOrUpdate(slot, new PlainOptions(edition, terms.Run.Trade, goods, options));
        return _kept[(slot.Slot.Key, followed)] = options;
    }

    /// <summary>Ways to fill slots of which nothing was said, kept as long as the candidates are the same.</summary>
    private static readonly ConditionalWeakTable<FilledSlot, PlainOptions> Plain = [];

    private sealed record PlainOptions(Edition Set, TradeTerms Trade, Edition[] Goods, List<SlotOption> Options)
    {
        public bool IsOf(Edition set, TradeTerms trade, FilledSlot slot, PublishedRange range)
        {
            if (!ReferenceEquals(Set, set) || !ReferenceEquals(Trade, trade))
                return false;
            for (var i = 0; i < Goods.Length; i++)
                if (!ReferenceEquals(Goods[i], PartOnSale.EditionOf(slot.Candidates[i], range)))
                    return false;
            return true;
        }
    }

    /// <summary>The goods of the candidates; null where one is not on sale, or hangs on parts of its own.</summary>
    private Edition[]? PlainGoods(FilledSlot slot)
    {
        var goods = new Edition[slot.Candidates.Length];
        for (var i = 0; i < goods.Length; i++)
            if (
                PartOnSale.Of(slot.Candidates[i], terms.Range) is
                { Edition: { Product: { IsSet: false, IsGroup: false }, UnitSpans: not null } edition }
            )
                goods[i] = edition;
            else
                return null;
        return goods;
    }

    private IEnumerable<SlotOption> Of(FilledSlot slot, Candidate candidate, Configuration shown, PartAnswers said)
    {
        var units = slot.Slot.Quantity;
        if (AssembledSet.Unanswered(slot, candidate, edition, shown, said, terms.Range) is { } plain)
        {
            var (fewest, largest) = units.Decided is { } fixedUnits ? (fixedUnits, fixedUnits) : (units.Min, units.Max);
            foreach (var span in plain)
                yield return Option(slot, candidate, OfPlain(span), fewest, largest);
            yield break;
        }
        var picked = AssembledSet.Part(slot, candidate, edition, shown, said, Filling.None, terms, new EnteredSets(edition.ProductId));
        if (picked is not { Problem: null, Standing: { } standing })
            yield break;
        var (least, most) = picked.Units is { } decided ? (decided, decided) : (units.Min, units.Max);
        foreach (var variant in Variants(standing))
            if ((standing.Edition.Product.IsSet ? OfSet(standing, variant) : OfPlain(standing, variant)) is { } unit)
                yield return Option(slot, candidate, unit, least, most);
    }

    private SlotOption Option(FilledSlot slot, Candidate candidate, UnitOfPart part, int least, int most)
    {
        var (low, high) = (Left(slot.Slot, part.Low, part.List), Left(slot.Slot, part.High, part.ListHigh));
        if (edition.Product.Parts!.Price is SetPrice.Fixed)
            (low, high) = (Added(candidate, part.Low - part.List), Added(candidate, part.High - part.ListHigh));
        return new SlotOption(
            candidate.Key,
            low * least,
            high * most,
            part.Floor * least,
            least == 1 ? part.Needs : [.. part.Needs.Select(n => n with { PerUnit = n.PerUnit * least })],
            part.IsExact && (least == most || part.Floor is null)
        );
    }

    private static long Added(Candidate candidate, long answers) =>
        answers + (candidate.Entry.Extra is { } extra ? MinorUnits.Of(extra) : 0);

    /// <summary>The variants that a part may have; of very many the cheapest and the dearest.</summary>
    private static IEnumerable<MatrixVariant> Variants(Standing standing)
    {
        if (standing.Variant is { } one)
            return [one];
        var offered = standing.Edition.Configurator.Offered(standing.Answers).ToList();
        if (offered.Count <= MostVariants)
            return offered;
        var priced = offered.Where(v => v.Price.Figure is not null).OrderBy(v => v.Price.Figure!.Value).ToList();
        return priced.Take(MostVariants / 2).Concat(priced.TakeLast(MostVariants / 2)).Distinct();
    }

    /// <summary>What counts of a unit whose list price and answers come to so much.</summary>
    private static long Left(Slot slot, long price, long list)
    {
        var answers = price - list;
        var left =
            slot.Included ? answers
            : slot.SetUnit is { } unit ? Math.Min(price, MinorUnits.Of(unit) + answers)
            : slot.Reduce?.Remains(Math.Max(0, price)) ?? price;
        return Math.Max(0, left);
    }

    /// <summary>One unit of a part.</summary>
    /// <param name="List">Its list price, in minor units.</param>
    /// <param name="ListHigh">Its list price at the high end.</param>
    /// <param name="Low">With the answers that add least.</param>
    private sealed record UnitOfPart(
        long List,
        long ListHigh,
        long Low,
        long High,
        decimal? Floor,
        ImmutableArray<LeafNeed> Needs,
        bool IsExact
    );

    private UnitOfPart? OfPlain(Standing standing, MatrixVariant variant)
    {
        var given = variant.Values.Pairs.Aggregate(standing.Answers, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));
        return variant.Price.Figure is not null && standing.Edition.Configurator.Span(given, terms.Range.Figures) is { } span
            ? OfPlain(new UnitSpan(new(standing.Edition, variant), MinorUnits.Of(span.Lowest), MinorUnits.Of(span.Highest)))
            : null;
    }

    private UnitOfPart OfPlain(UnitSpan span)
    {
        var variant = span.Goods.Variant;
        decimal? floor = null;
        if (variant.Cost.Figure is { } cost)
            floor = MinorUnits.Of(cost) * (100 + RateOf(edition.Product.Parts!.TaxClass ?? span.TaxClass));
        var list = MinorUnits.Of(variant.Price.Figure!.Value);
        var isExact = span.Lowest == span.Highest || floor is null;
        return new UnitOfPart(list, list, span.Lowest, span.Highest, floor, span.Needs, isExact);
    }

    private decimal RateOf(string? taxClass)
    {
        if (!terms.Run.Trade.PricesIncludeTax)
            return 0;
        if (!_rates.TryGetValue(taxClass ?? "", out var rate))
            _rates[taxClass ?? ""] = rate = Floors.HighestRate(terms.Run.Trade, taxClass);
        return rate;
    }

    private UnitOfPart? OfSet(Standing standing, MatrixVariant variant)
    {
        var given = variant.Values.Pairs.Aggregate(standing.Answers, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));
        // What is in it goes by its list price; rules that reach it stay outside.
        var bare = terms with { Run = terms.Run with { Buying = Buying.Nobody } };
        if (new SetSpan(standing.Edition, bare).Ends(given, standing.Parts) is not { } ends)
            return null;
        var inner = new SlotOptions(standing.Edition, bare);
        var goods = new VariantOnSale(standing.Edition, variant);
        var cheapest = inner.Ends(standing.Edition.Configurator.Shown(given), standing.Parts);
        var needs = standing is { Variant: not null, Needs.Ok: true, Assembled.IsDecided: true }
            ? standing.Needs.Value
            : inner.NeedsOfCheapest(goods, given, standing.Parts);
        return new UnitOfPart(
            ends.Lowest,
            ends.Highest,
            ends.Lowest,
            ends.Highest,
            cheapest?.FloorLow,
            needs,
            ends.IsExact && cheapest?.FloorLow is null
        );
    }

    private ImmutableArray<LeafNeed> NeedsOfCheapest(VariantOnSale goods, Configuration given, PartAnswers said)
    {
        var shown = edition.Configurator.Shown(given);
        var needs = ImmutableArray.CreateBuilder<LeafNeed>();
        foreach (var (slot, picks) in Visible(shown))
        {
            var candidates = ByCandidate(OptionsOf(slot, shown, said, picks));
            var (least, _) = Limits(slot, picks, candidates.Count);
            foreach (var option in candidates.Select(c => c.Cheapest).OrderBy(o => o.Low).Take(least))
                needs.AddRange(option.Needs);
        }
        return edition.Product.Parts!.Stock switch
        {
            SetStock.Own => [new LeafNeed(LeafPath.Own, goods, 1, "")],
            SetStock.OwnThenParts => [new LeafNeed(LeafPath.Own, goods, 1, "") { Apart = needs.ToImmutable() }],
            _ => needs.ToImmutable(),
        };
    }
}
