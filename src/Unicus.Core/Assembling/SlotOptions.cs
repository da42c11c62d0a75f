namespace Unicus.Core.Assembling;

using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Pricing;
using Unicus.Core.Products;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Rules;
using Unicus.Core.Stock;
using Unicus.Core.Variants;

/// <summary>What the parts of a set come to at both ends.</summary>
internal sealed record PartsEnds(PriceFront Low, PriceFront High);

/// <summary>The ways in which the slots of a set can be filled, with what each adds to its price.</summary>
/// <param name="edition">The product.</param>
/// <param name="terms">By what it is reckoned.</param>
/// <param name="isHeld">Whether a floor may hold the price, so that what parts cost matters.</param>
/// <param name="taxClass">The class of the set that it stands in, which names one for all of it; null: its own parts'.</param>
internal sealed class SlotOptions(Edition edition, ConfigurationTerms terms, bool isHeld, string? taxClass = null)
{
    /// <summary>The class that everything in it is taxed by; null: each part by its own.</summary>
    private readonly string? _taxClass = taxClass ?? edition.Product.Parts?.TaxClass;

    /// <summary>Whether typed questions of parts that are open count at the answers that add the least.</summary>
    public bool FillsTyped { get; init; }

    private const int MostVariants = 400;
    private const int MostSteps = 20_000;

    private readonly Dictionary<(Key Slot, string Followed), List<SlotOption>> _kept = [];
    private readonly AnswerCosts _costs = new(terms);

    /// <summary>The ends over all picks of slots that are open; null where one cannot be filled.</summary>
    public PartsEnds? Ends(Configuration shown, PartAnswers said)
    {
        if (!isHeld)
            return SumsOnly(shown, said);
        var (low, high) = (new PriceFront([FrontPoint.None], true), new PriceFront([FrontPoint.None], true));
        foreach (var (slot, picks) in Visible(shown))
        {
            var candidates = SlotFronts.ByCandidate(OptionsOf(slot, shown, said, picks));
            var counts = Counts(slot, picks, candidates.Count);
            if (candidates.Count < counts.Least)
                return null;
            low = SlotFronts.Filled(low, candidates, counts, o => o.Low, PriceFront.Lowest);
            high = SlotFronts.Filled(high, candidates, counts, o => o.High, PriceFront.Highest);
        }
        return new PartsEnds(low, high);
    }

    /// <summary>The ends where no floor holds the price: each slot takes its own cheapest or dearest picks.</summary>
    private PartsEnds? SumsOnly(Configuration shown, PartAnswers said)
    {
        var (low, high) = (0L, 0L);
        foreach (var (slot, picks) in Visible(shown))
        {
            var candidates = SlotFronts.SumsByCandidate(OptionsOf(slot, shown, said, picks));
            var counts = Counts(slot, picks, candidates.Count);
            if (candidates.Count < counts.Least)
                return null;
            if (counts is { MayBeNone: false, Most: 1 })
            {
                // Mostly there is one pick: it is found without putting all in order.
                var (cheapest, dearest) = candidates[0];
                foreach (var candidate in candidates)
                    (cheapest, dearest) = (Math.Min(cheapest, candidate.Cheapest), Math.Max(dearest, candidate.Dearest));
                (low, high) = (low + cheapest, high + dearest);
                continue;
            }
            low += candidates.Select(c => c.Cheapest).Order().Take(counts.Least).Sum();
            // Where there are fewer than must be picked, the slot stays empty.
            if (candidates.Count >= counts.Fewest)
                high += candidates.Select(c => c.Dearest).OrderDescending().Take(counts.Most).Sum();
        }
        return new PartsEnds(new PriceFront([new FrontPoint(low, 0)], true), new PriceFront([new FrontPoint(high, 0)], true));
    }

    /// <summary>The lowest price of which one set can be sold now; null where there is none.</summary>
    /// <param name="set">The set.</param>
    /// <param name="shown">The answers that count.</param>
    /// <param name="stock">What there is.</param>
    /// <param name="price">What parts come to as a price of the set; it never falls when either figure rises.</param>
    /// <remarks>Slot by slot, the cheapest first, and never deeper than something as cheap that was found.</remarks>
    public long? Cheapest(VariantOnSale set, Configuration shown, StockOutlook stock, Func<FrontPoint, long> price)
    {
        if (edition.Product.Parts!.Stock == SetStock.Own && !stock.Of(set.Variant).CanSell(1))
            return null;
        var slots = new List<List<FilledWay>>();
        foreach (var (slot, picks) in Visible(shown))
        {
            var options = OptionsOf(slot, shown, PartAnswers.None, picks)
                .Where(o => !NeedsParts || stock.Of(o.Needs).CanSell(1))
                .OrderBy(o => o.Low[0].Sum)
                .ToList();
            var counts = Counts(slot, picks, options.Select(o => o.Candidate).Distinct().Count());
            // More picks than are needed only make a set cheaper where one has no known cost.
            var wanted =
                isHeld && options.Exists(o => o.Low.Any(p => p.Gross is null))
                    ? Enumerable.Range(0, counts.Most + 1).Where(counts.Allows)
                    : [counts.Least];
            slots.Add([.. wanted.SelectMany(count => FilledWay.Several(options, count)).SelectMany(FilledWay.Of)]);
            if (slots[^1].Count == 0)
                return null;
        }
        var rest = new FrontPoint[slots.Count + 1];
        rest[^1] = FrontPoint.None;
        for (var i = slots.Count - 1; i >= 0; i--)
            rest[i] = rest[i + 1].With(new FrontPoint(slots[i].Min(w => w.Point.Sum), slots[i].MinBy(w => w.Point.Held)!.Point.Gross));
        var hasOwn = edition.Product.Parts!.Stock == SetStock.Own || (edition.Product.Parts.IsMadeUp && stock.Of(set.Variant).CanSell(1));
        var (best, steps) = ((long?)null, 0);
        void Fill(int at, ImmutableList<SlotOption> chosen, FrontPoint soFar)
        {
            if (best <= price(soFar.With(rest[at])) || steps++ > MostSteps)
                return;
            if (at == slots.Count)
            {
                if (hasOwn || SetDemand.Most([.. chosen.SelectMany(c => c.Needs)], stock.CapacityOf) is null or > 0)
                    best = price(soFar);
                return;
            }
            foreach (var way in slots[at])
                Fill(at + 1, chosen.AddRange(way.Options), soFar.With(way.Point));
        }
        Fill(0, [], FrontPoint.None);
        return best;
    }

    private bool NeedsParts => edition.Product.Parts!.Stock == SetStock.Parts;

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

    private static PickCounts Counts(FilledSlot slot, Key[]? picks, int all) =>
        picks is null ? PickCounts.Of(slot.Slot, all) : PickCounts.Just(picks.Length);

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
        var isOpen = said.BySlot.IsEmpty && slot.Slot.Pick is not SlotPick.Follows && !(FillsTyped && AsksForTyped(slot));
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
                PartOnSale.Of(slot.Candidates[i], terms.Range) is { Edition: { Product: { IsSet: false, IsGroup: false } } edition }
                && UnitSpan.Of(edition) is not null
            )
                goods[i] = edition;
            else
                return null;
        return goods;
    }

    private IEnumerable<SlotOption> Of(FilledSlot slot, Candidate candidate, Configuration shown, PartAnswers said)
    {
        var units = slot.Slot.Quantity;
        if (!(FillsTyped && AsksForTyped(slot)) && AssembledSet.Unanswered(slot, candidate, edition, shown, said, terms.Range) is { } plain)
        {
            var (fewest, largest) = units.Decided is { } fixedUnits ? (fixedUnits, fixedUnits) : (units.Min, units.Max);
            foreach (var span in plain)
                yield return Option(slot, candidate, OfPlain(span), fewest, largest);
            yield break;
        }
        var picked = AssembledSet.Part(slot, candidate, edition, shown, said, Filling.None, terms, new EnteredSets(edition.ProductId));
        if (picked is not { Problem: null, Status: { } status })
            yield break;
        var (least, most) = picked.Units is { } decided ? (decided, decided) : (units.Min, units.Max);
        foreach (var variant in Variants(status))
            if ((status.Edition.Product.IsSet ? OfSet(status, variant) : OfPlain(status, variant)) is { } unit)
                yield return Option(slot, candidate, unit, least, most);
    }

    private SlotOption Option(FilledSlot slot, Candidate candidate, UnitOfPart part, int least, int most)
    {
        FrontPoint Units(UnitPoint unit, int units) =>
            new(
                units
                    * (
                        edition.Product.Parts!.Price is SetPrice.Fixed
                            ? Added(candidate, unit.Answers)
                            : Left(slot.Slot, unit.List + unit.Answers, unit.List)
                    ),
                unit.Gross * units
            );
        return new SlotOption(
            candidate.Key,
            PriceFront.Lowest(part.Low.Select(p => Units(p, least))).Points,
            PriceFront.Highest(part.High.Select(p => Units(p, most))).Points,
            least == 1
                ? part.Needs
                : [.. part.Needs.Select(n => n with { PerUnit = (int)Math.Min(int.MaxValue, (long)n.PerUnit * least) })],
            part.IsExact
        );
    }

    private static long Added(Candidate candidate, long answers) =>
        answers + (candidate.Entry.Extra is { } extra ? MinorUnits.Of(extra) : 0);

    /// <summary>The variants that a part may have; of very many the cheapest and the dearest.</summary>
    private static IEnumerable<MatrixVariant> Variants(ConfigurationStatus status)
    {
        if (status.Variant is { } one)
            return [one];
        var offered = status.Edition.Configurator.Offered(status.Answers).ToList();
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

    /// <summary>One unit of a part at one of its ends.</summary>
    /// <param name="List">Its list price, in minor units.</param>
    /// <param name="Answers">What its answers add.</param>
    /// <param name="Gross">As in <see cref="FrontPoint"/>.</param>
    private readonly record struct UnitPoint(long List, long Answers, decimal? Gross);

    /// <summary>One unit of a part.</summary>
    private sealed record UnitOfPart(
        ImmutableArray<UnitPoint> Low,
        ImmutableArray<UnitPoint> High,
        ImmutableArray<LeafNeed> Needs,
        bool IsExact
    );

    private UnitOfPart? OfPlain(ConfigurationStatus status, MatrixVariant variant)
    {
        var given = variant.Values.Pairs.Aggregate(status.Answers, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));
        if (variant.Price.Figure is null)
            return null;
        var configurator = status.Edition.Configurator;
        var ways = FillsTyped ? configurator.WithTyped(given, terms.Stock.Today) : [given];
        var spans = ways.Select(w => configurator.Span(w, terms.Range.Figures)).OfType<PriceSpan>().ToList();
        return spans.Count == 0
            ? null
            : OfPlain(
                new UnitSpan(
                    new(status.Edition, variant),
                    spans.Min(s => MinorUnits.Of(s.Lowest)),
                    spans.Max(s => MinorUnits.Of(s.Highest))
                )
            );
    }

    /// <summary>Whether what may fill a slot asks for something typed that adds to its price.</summary>
    private bool AsksForTyped(FilledSlot slot) =>
        slot.Candidates.Any(c =>
            PartOnSale.Of(c, terms.Range) is { } part
            && (part.Edition.Product.IsSet || part.Edition.Product.Extras.Any(q => !q.IsPicked && q.Surcharge is not null))
        );

    private UnitOfPart OfPlain(UnitSpan span)
    {
        var variant = span.Goods.Variant;
        var list = MinorUnits.Of(variant.Price.Figure!.Value);
        var rate = _costs.RateOf(_taxClass ?? span.TaxClass);
        var answers = _costs.Of(span.Goods.Edition.Product, rate);
        decimal? bare = variant.Cost.Figure is { } cost ? MinorUnits.Of(cost) * (100 + rate) : null;
        return new UnitOfPart(
            [new UnitPoint(list, span.Lowest - list, answers.IsKnown ? bare + answers.Least : null)],
            [new UnitPoint(list, span.Highest - list, bare + answers.Most)],
            span.Needs,
            bare is null || answers is { IsKnown: true, Least: 0, Most: 0 }
        );
    }

    private UnitOfPart? OfSet(ConfigurationStatus status, MatrixVariant variant)
    {
        var given = variant.Values.Pairs.Aggregate(status.Answers, (g, p) => g.With(p.Option, new Answer.Value(p.Value)));
        // What is in it goes by its list price; rules that reach it stay outside.
        var bare = terms with { Run = terms.Run with { Buying = RuleContext.Nobody } };
        if (new SetSpan(status.Edition, bare, isHeld, _taxClass) { FillsTyped = FillsTyped }.Units(given, status.Parts) is not { } ends)
            return null;
        var inner = new SlotOptions(status.Edition, bare, isHeld, _taxClass) { FillsTyped = FillsTyped };
        var needs = status is { Variant: not null, Needs.Ok: true, Assembled.IsDecided: true }
            ? status.Needs.Value
            : inner.NeedsOfCheapest(new VariantOnSale(status.Edition, variant), given, status.Parts);
        ImmutableArray<UnitPoint> Points(IEnumerable<SetUnit> units) => [.. units.Select(u => new UnitPoint(u.List, u.Answers, u.Gross))];
        return new UnitOfPart(Points(ends.Low), Points(ends.High), needs, ends.IsExact);
    }

    private ImmutableArray<LeafNeed> NeedsOfCheapest(VariantOnSale goods, Configuration given, PartAnswers said)
    {
        var shown = edition.Configurator.Shown(given);
        var needs = ImmutableArray.CreateBuilder<LeafNeed>();
        foreach (var (slot, picks) in Visible(shown))
        {
            var candidates = SlotFronts.ByCandidate(OptionsOf(slot, shown, said, picks));
            var least = Counts(slot, picks, candidates.Count).Least;
            foreach (var option in candidates.Select(c => c.MinBy(o => o.Low[0].Sum)!).OrderBy(o => o.Low[0].Sum).Take(least))
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
