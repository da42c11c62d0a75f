using System.Numerics;

namespace Unicus.Core;

/// <summary>Proves how low a margin rules for prices can push goods (domain.md, section 5): over all configurations, quantities, groups,
/// coupons and pages.</summary>
/// <remarks>
/// For one line alone the answer is exact. Of the answers only those are looked at that no others beat
/// (<see cref="WorstAnswers"/>); between two quantities at which a rule begins to act or a band starts, the margin only rises or only
/// falls, so these quantities bound all of them; what rounding of tax may change is then looked at quantity by quantity. Net of
/// tax means by the highest rate of any destination. For baskets of several lines <see cref="BasketBound"/> gives a bound that is never
/// optimistic.
/// </remarks>
/// <param name="terms">What prices go by; who buys is left aside.</param>
/// <param name="range">Where parts are looked up.</param>
public sealed class LowestMargin(RunTerms terms, PublishedRange range)
{
    /// <summary>Quantities of a line are looked at up to here.</summary>
    public const int MostUnits = 1000;

    /// <summary>The lowest margin of a product; null where no variant has both a price and a cost, and of a set where a cost of its
    /// parts is not known or rules act inside it.</summary>
    public ProvenMargin? Of(Edition edition) => edition.Product.IsSet ? OfSet(edition) : OfGoods(edition);

    private ProvenMargin? OfSet(Edition set)
    {
        var worst = new WorstSets(terms.Trade, range);
        if (worst.Of(set) is not { Count: > 0 } ways)
            return null;
        var search = new Search(set, terms, range);
        foreach (var variant in set.Matrix.Offered.Take(MostOfSet))
            search.Add(variant, ways, new Percentage(worst.HighestRate));
        if (search.Lowest() is not { } lowest)
            return null;
        var sold = Sold(lowest);
        // Another way may be held by its floor as well, and stand there by less than a minor unit above it.
        var least = sold?.IsHeld == true ? (set.Product.Floor ?? terms.Trade.Floor)?.Value : null;
        var isExact =
            worst is { IsExact: true, HasOneRate: true }
            && set.Matrix.OfferedCount <= MostOfSet
            && sold is not null
            && !(lowest.Margin > least);
        return new ProvenMargin(lowest, isExact, isExact ? lowest.Margin : Lower(search.Bound, least), 0)
        {
            ByRules = search.Baskets.Lowest,
            AtFloor = search.Baskets.AtFloor,
            IsPooled = search.Baskets.IsPooled,
        };
    }

    private const int MostOfSet = 200;

    private static decimal? Lower(decimal? bound, decimal? least) => bound is { } known ? Math.Min(known, least ?? known) : null;

    /// <summary>The line as it goes through a basket; null where none comes to just that.</summary>
    private LineRun? Sold(SoldAt sold) =>
        sold.Line(terms, range) is var (line, bought)
        && PriceRun.Of([line], bought, range, trace: false).Basket?.Lines is [var priced]
        && priced.Run.Total == sold.Total
        && priced.Cost is { } cost
        && MinorUnits.Of(cost) == sold.Cost
            ? priced.Run
            : null;

    private ProvenMargin? OfGoods(Edition edition)
    {
        var priced = edition.Matrix.Offered.Where(v => v.Price.Figure is not null).ToList();
        var known = priced.Where(v => v.Cost.Figure is not null).ToList();
        if (known.Count == 0)
            return null;
        var search = new Search(edition, terms, range);
        foreach (var variant in known)
            search.Add(variant);
        if (search.Lowest() is not { } lowest)
            return null;
        var isExact = search.IsExact(lowest);
        return new ProvenMargin(lowest, isExact, isExact ? lowest.Margin : search.Bound, priced.Count - known.Count)
        {
            ByRules = search.Baskets.Lowest,
            AtFloor = search.Baskets.AtFloor,
            IsPooled = search.Baskets.IsPooled,
        };
    }

    /// <summary>The margin of an amount, in per cent; null where nothing is paid net of tax.</summary>
    internal static decimal? MarginOf(long total, long cost, Percentage rate, bool includesTax, Currency currency)
    {
        var paid = MinorUnits.ToMoney(total, currency);
        var net = includesTax ? total - MinorUnits.Of(rate.ContainedIn(paid)) : total;
        return net <= 0 ? null : (net - cost) * 100m / net;
    }

    /// <summary>Goods and answers with a bound of their margin.</summary>
    private sealed record Candidate(MatrixVariant Variant, AnsweredCost Answered, long List, long? Floor, Percentage Rate)
    {
        public LineGoods Goods { get; } = LineGoods.Of(Variant, List, Floor);

        /// <summary>What all of one unit costs.</summary>
        public long Cost { get; init; }

        /// <summary>Of a set: how it is put together.</summary>
        public SetWay? Way { get; init; }

        /// <summary>What so many units cost.</summary>
        public long CostOf(int units) => Cost * units + Answered.OnceCost;
    }

    /// <summary>A candidate bought by somebody.</summary>
    /// <param name="Bound">No quantity has a lower margin.</param>
    private sealed record Ranked(Candidate Of, BuyingWith By, decimal Bound);

    /// <summary>The search over one product.</summary>
    private sealed class Search
    {
        private readonly Edition _edition;
        private readonly RunTerms _terms;
        private readonly WorstAnswers _answers;
        private readonly List<BuyingWith> _buyers;
        private readonly SortedSet<int> _quantities;
        private readonly int _period;

        /// <summary>What rounding of units may move besides, where a unit's price is a share of its line's.</summary>
        private readonly decimal _unitRounding;

        private readonly EditionRules _rules;
        private readonly Percentage[] _partRates;
        private readonly List<Ranked> _ranked = [];
        private readonly HashSet<(long, long, long?, decimal, string, AnsweredCost)> _seen = [];
        private bool _isExact = true;
        private SoldAt? _lowest;
        private List<(int From, int To)>? _stretches;

        public Search(Edition edition, RunTerms terms, PublishedRange range)
        {
            (_edition, _terms) = (edition, terms);
            _answers = new WorstAnswers(edition.Configurator, range.Figures);
            _rules = terms.Buying.Book.At(terms.Buying.At, terms.Buying.Day).Of(edition, terms.Buying.At, terms.Buying.Day);
            _buyers = [.. Buyers(_rules)];
            _quantities = [.. Quantities(_rules)];
            _period = Period(_rules);
            _unitRounding = _rules.ByStage[5].Length > 0 ? 1.5m : 0;
            _partRates =
            [
                .. edition
                    .Product.Extras.SelectMany(e => e.Values)
                    .Select(v => v.Part is { } part ? range.Part(part.Sku) : null)
                    .OfType<VariantOnSale>()
                    .SelectMany(p => p.Edition.Product.IsSet ? range.Brought(p).Value?.TaxClasses ?? [] : [p.TaxClass])
                    .Select(c => new Percentage(Floors.HighestRate(terms.Trade, c)))
                    .Distinct(),
            ];
            Baskets = new BasketBound(_rules);
        }

        public BasketBound Baskets { get; }

        /// <summary>Whether what was found is the lowest: nothing was put together as a bound, and its answers can be given.</summary>
        public bool IsExact(SoldAt lowest) => _isExact && _answers.IsExact && _edition.Configurator.Answer(lowest.Answers).Complete;

        /// <summary>A bound where the search is not exact.</summary>
        public decimal? Bound => _ranked.Count > 0 && _ranked.Min(r => r.Bound) is > decimal.MinValue and var bound ? bound : null;

        public void Add(MatrixVariant variant) =>
            Add(
                variant,
                MinorUnits.Of(variant.Price.Figure!.Value),
                MinorUnits.Of(variant.Cost.Figure!.Value),
                RateOf(variant),
                EditionPrices.FloorOf(_edition, variant, _terms.Trade),
                null
            );

        /// <summary>Adds a variant of a set with the ways to put it together.</summary>
        public void Add(MatrixVariant variant, IEnumerable<SetWay> ways, Percentage rate)
        {
            var margin = _edition.Product.Floor ?? _terms.Trade.Floor;
            foreach (var way in ways)
            {
                long? floor = margin is { } least ? (long)decimal.Ceiling(way.Gross / (100 - least.Value)) : null;
                Add(variant, way.List, way.Cost, rate, floor, way);
            }
        }

        private void Add(MatrixVariant variant, long list, long cost, Percentage rate, long? floor, SetWay? way)
        {
            var reached = string.Concat(
                _rules.All.Select(r =>
                    !r.Reaches(variant) ? "0"
                    : r.IsBySku ? variant.Sku.Text
                    : "1"
                )
            );
            foreach (var own in _answers.Of(variant, MinorUnits.ToMoney(list, _terms.Trade.Currency)))
            {
                var answered = way is null ? own : own with { Once = own.Once + way.Once, OnceCost = own.OnceCost + way.OnceCost };
                var candidate = new Candidate(variant, answered, list, floor, rate) { Cost = cost + answered.Cost, Way = way };
                if (!_seen.Add((candidate.List, candidate.Cost, floor, rate.Value, reached, answered with { State = null, Cost = 0 })))
                    continue;
                foreach (var buyer in _buyers)
                    if (Bounded(candidate, buyer) is { } bound)
                        _ranked.Add(new Ranked(candidate, buyer, bound));
                Baskets.Add(variant, candidate.List, answered, candidate.Cost, floor, Factor(rate));
            }
        }

        /// <summary>The lowest of all.</summary>
        public SoldAt? Lowest()
        {
            _lowest = null;
            foreach (var ranked in _ranked.OrderBy(r => r.Bound))
            {
                if (IsReached(ranked.Bound))
                    break;
                foreach (var (from, to) in Stretches())
                    Look(ranked, from, to);
            }
            return _lowest;
        }

        /// <summary>The stretches of quantities, in steps of the period, over which the margin only rises or only falls.</summary>
        private List<(int From, int To)> Stretches()
        {
            if (_stretches is not null)
                return _stretches;
            var found = new List<(int, int)>();
            foreach (var (first, behind) in _quantities.Zip(_quantities.Skip(1).Append(MostUnits + 1)))
                for (var from = first; from < Math.Min(behind, first + _period); from++)
                    found.Add((from, from + (behind - 1 - from) / _period * _period));
            return _stretches = found;
        }

        /// <summary>Looks at a stretch of quantities over which the margin only rises or only falls; halves it as long as rounding may make
        /// one of them lower than what was found.</summary>
        private void Look(Ranked ranked, int from, int to)
        {
            var rounding = 0.5m / from + _unitRounding;
            if (MarginAt(ranked.Of, ranked.By, from, rounding) is not { } first)
                return;
            if (MarginAt(ranked.Of, ranked.By, to, rounding) is not { } last || IsReached(Math.Min(first, last)))
                return;
            Take(Sold(ranked, from));
            Take(Sold(ranked, to));
            var middle = from + (to - from) / _period / 2 * _period;
            if (middle == from)
                return;
            Look(ranked, from, middle);
            Look(ranked, middle, to);
        }

        /// <summary>Whether something as low was found already.</summary>
        private bool IsReached(decimal margin) => _lowest is { Margin: null } || _lowest?.Margin <= margin;

        private void Take(SoldAt? sold)
        {
            if (sold is not null && IsLower(sold, _lowest))
                _lowest = sold;
        }

        /// <summary>The margin at a quantity, tax unrounded; null where that cannot be bought.</summary>
        /// <param name="rounding">What rounding of tax may take of a unit at most.</param>
        private decimal? MarginAt(Candidate of, BuyingWith by, int units, decimal rounding)
        {
            if (Total(of, by, units) is not { } total)
                return null;
            var net = (decimal)total / units * Factor(of.Rate) - rounding;
            return net > 0 ? (net - (decimal)of.CostOf(units) / units) * 100m / net : decimal.MinValue;
        }

        private static bool IsLower(SoldAt sold, SoldAt? lowest) =>
            lowest is null || (lowest.Margin is { } best && (sold.Margin is not { } margin || margin < best));

        private SoldAt? Sold(Ranked ranked, int units)
        {
            var of = ranked.Of;
            if (Total(of, ranked.By, units) is not { } total)
                return null;
            var cost = of.CostOf(units);
            var margin = MarginOf(total, cost, of.Rate, _terms.Trade.PricesIncludeTax, _terms.Trade.Currency);
            var goods = new VariantOnSale(_edition, of.Variant);
            var answers = _answers.ConfigurationOf(of.Variant, of.Answered);
            var parts = WorstSets.AnswersOf(of.Way?.Picks);
            return new SoldAt(goods, Picked(answers, parts), units, ranked.By, total, cost, margin) { Parts = parts };
        }

        /// <summary>Answers with the picks of slots.</summary>
        private Configuration Picked(Configuration answers, PartAnswers parts)
        {
            foreach (var slot in _edition.Slots)
                if (slot.Question is { } question)
                    answers = answers.With(
                        question.Key,
                        parts.BySlot.GetValueOrDefault(question.Key, []) switch
                        {
                            [] => new Answer.None(),
                            [var only] when question.Ask == Ask.One => new Answer.Value(only.Candidate),
                            var several => new Answer.Ticks([.. several.Select(p => p.Candidate)]),
                        }
                    );
            return answers;
        }

        /// <summary>A margin that no quantity is below; null where it cannot be bought.</summary>
        private decimal? Bounded(Candidate of, BuyingWith by)
        {
            decimal? lowest = null;
            foreach (var units in Stretches().SelectMany(s => new[] { s.From, s.To }).Distinct())
                if (MarginAt(of, by, units, 0.5m + _unitRounding) is { } margin)
                    lowest = Math.Min(lowest ?? decimal.MaxValue, margin);
            return lowest;
        }

        private decimal Factor(Percentage rate) => _terms.Trade.PricesIncludeTax ? 100m / (100 + rate.Value) : 1;

        private long? Total(Candidate of, BuyingWith by, int units)
        {
            var line = LineRun.Bare(of.Goods, of.Answered.Adds, units, of.Answered.Once);
            if (!line.IsChargeable || line.Total < 0)
                return null;
            var goods = new RunLine(new VariantOnSale(_edition, of.Variant), Configuration.Empty, units, [], by.Through);
            RuleRun.Of([line], [goods with { Through = by.Through ?? _edition.Product.Code.Text }], BuyingBy(by));
            return line.Total;
        }

        private Buying BuyingBy(BuyingWith by) =>
            _terms.Buying with
            {
                Groups = by.Group is { } group ? [group] : [],
                Coupons = by.Coupon is { } coupon ? [coupon] : [],
                UsedUp = [],
            };

        private Percentage RateOf(MatrixVariant variant)
        {
            var taxClass = _edition.Matrix.Figures.Resolve(variant.Variant.Own, variant.Values, f => f.TaxClass).Figure;
            var own = new Percentage(Floors.HighestRate(_terms.Trade, taxClass));
            if (_partRates.All(r => r.Value == own.Value))
                return own;
            _isExact = false;
            return new Percentage(Math.Max(own.Value, _partRates.Max(r => r.Value)));
        }

        /// <summary>Everybody that rules tell apart.</summary>
        private static IEnumerable<BuyingWith> Buyers(EditionRules rules)
        {
            var when = rules.All.Select(r => r.Rule.When).ToList();
            var groups = when.SelectMany(w => w.CustomerGroups).Distinct().Select(g => (Key?)g).Prepend(null);
            var coupons = when.Select(NamedCoupon.AskedBy).OfType<NamedCoupon>().Distinct().Prepend(null).ToList();
            var pages = rules.All.Select(r => r.Rule.Scope.Through).OfType<string>().Distinct().Prepend(null).ToList();
            return from g in groups from c in coupons from p in pages select new BuyingWith(g, c, p);
        }

        /// <summary>The quantities from which on a rule acts, or a band begins.</summary>
        private static IEnumerable<int> Quantities(EditionRules rules) =>
            rules
                .All.Select(r => r.Rule.When.QuantityAtLeast ?? 1)
                .Concat(rules.ByStage[4].Select(r => r.Rule.Effect).OfType<PriceEffect.Bands>().SelectMany(b => b.Rows.Select(r => r.From)))
                .Append(1)
                .Where(q => q is >= 1 and <= MostUnits);

        /// <summary>After so many units packs and reductions of the cheapest begin anew.</summary>
        private static int Period(EditionRules rules)
        {
            var every = rules
                .ByStage[4]
                .Select(r => r.Rule.Effect)
                .OfType<PriceEffect.Packs>()
                .Select(p => p.Rows[0].Units)
                .Concat(rules.ByStage[5].Select(r => ((PriceEffect.CheapestOff)r.Rule.Effect).InEvery));
            return every.Aggregate(1, (a, b) => (int)Math.Min(MostUnits, (long)a / (int)BigInteger.GreatestCommonDivisor(a, b) * b));
        }
    }
}
