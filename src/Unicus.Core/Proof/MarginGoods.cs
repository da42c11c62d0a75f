namespace Unicus.Core.Proof;

using Unicus.Core.Assembling;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Parts;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Stages;
using Unicus.Core.Products;
using Unicus.Core.Range;
using Unicus.Core.RuleBook;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>Goods with answers, of which the lowest margin is looked for.</summary>
/// <param name="Variant">Which variant it is.</param>
/// <param name="Answered">What its answers add and cost.</param>
/// <param name="List">L, in minor units.</param>
/// <param name="Floor">F of one unit, in minor units; null where nothing limits rules.</param>
/// <param name="Rate">The highest tax rate of any destination, in per cent.</param>
internal sealed record MarginCandidate(MatrixVariant Variant, AnsweredCost Answered, long List, long? Floor, Percentage Rate)
{
    /// <summary>As a line runs.</summary>
    public LineGoods Goods { get; } = LineGoods.Of(Variant, List, Floor);

    /// <summary>The same where no floor limits rules.</summary>
    public LineGoods Unheld { get; } = LineGoods.Of(Variant, List, null);

    /// <summary>What all of one unit costs.</summary>
    public long Cost { get; init; }

    /// <summary>Of a set: how it is put together.</summary>
    public SetWay? Way { get; init; }

    /// <summary>What so many units cost.</summary>
    public long CostOf(int units) => Cost * units + Answered.OnceCost;

    /// <summary>What the floor leaves of so many units at least, in minor units.</summary>
    public decimal HeldOf(int units) =>
        Math.Max(0, Floor is { } floor ? (Math.Min(List, floor) + Answered.Adds) * units + Answered.Once : 0);

    /// <summary>The quantities in which it is sold and its answers leave a price; none where the second is below the first.</summary>
    public (int Least, int Most) Quantities
    {
        get
        {
            var (each, once) = (List + Answered.Adds, Answered.Once);
            var (least, most) = (
                (long)Variant.Selling.Least,
                Math.Min(Variant.Selling.MaximumPerOrder ?? int.MaxValue, (long)LowestMargin.MostUnits)
            );
            if (each > 0 && once < 0)
                least = Math.Max(least, (-once + each - 1) / each);
            else if (each < 0)
                most = Math.Min(most, once < 0 ? 0 : once / -each);
            else if (each == 0 && once < 0)
                most = 0;
            return ((int)Math.Min(least, int.MaxValue), (int)most);
        }
    }
}

/// <summary>The goods of one product among which a lowest margin is: of every variant the answers and, of a set, the ways to put it
/// together that no other one is worse than.</summary>
internal sealed class MarginGoods
{
    private readonly Edition _edition;
    private readonly RunTerms _terms;
    private readonly WorstAnswers _answers;
    private readonly Percentage[] _partRates;
    private readonly HashSet<(long, long, long?, decimal, string, AnsweredCost, (int, int))> _seen = [];
    private readonly EditionRules _rules;
    private bool _isExact = true;

    /// <param name="edition">The product.</param>
    /// <param name="terms">By what it is reckoned.</param>
    /// <param name="range">Where parts are looked up.</param>
    /// <param name="all">Whether answers are kept too that others are worse than.</param>
    public MarginGoods(Edition edition, RunTerms terms, PublishedRange range, bool all)
    {
        (_edition, _terms) = (edition, terms);
        _answers = new WorstAnswers(edition.Configurator, range.Figures, terms.Buying.Today, all);
        _rules = terms.Buying.Book.RulesOf(edition);
        _partRates =
        [
            .. edition
                .Product.Extras.SelectMany(e => e.Values)
                .Select(v => v.Part is { } part ? range.Part(part.Sku) : null)
                .OfType<VariantOnSale>()
                .SelectMany(p => p.Edition.Product.IsSet ? range.Brought(p).Value?.TaxClasses ?? [] : [p.TaxClass])
                .Select(c => MarginBasis.Dearest(terms.Trade, c).Rate)
                .Distinct(),
        ];
    }

    public List<MarginCandidate> Candidates { get; } = [];

    /// <summary>Variants with a price and no known cost.</summary>
    public int Unknown { get; set; }

    /// <summary>Whether nothing was put together as a bound.</summary>
    public bool IsExact
    {
        get => _isExact && _answers.IsExact;
        set => _isExact = value;
    }

    /// <summary>Adds a variant, with every way of answering that may be worst.</summary>
    public void Add(MatrixVariant variant, long list, long cost, Percentage rate, long? floor, SetWay? way)
    {
        var reached = string.Concat(_rules.All.Select(r => ReachOf(r, variant)));
        foreach (var own in _answers.Of(variant, MinorUnits.ToMoney(list, _terms.Trade.Currency)))
        {
            var answered = way is null ? own : own with { Once = own.Once + way.Once, OnceCost = own.OnceCost + way.OnceCost };
            var candidate = new MarginCandidate(variant, answered, list, floor, rate) { Cost = cost + answered.Cost, Way = way };
            // Of answers that bring a price below 0 others, that take less off, may be given: these are not looked at.
            _isExact &= answered.Adds >= 0 || list + answered.Adds + Math.Min(0, answered.Once) > 0;
            var key = (
                list,
                candidate.Cost,
                floor,
                rate.Value,
                reached,
                answered with
                {
                    State = null,
                    Cost = 0,
                    Typed = null,
                },
                candidate.Quantities
            );
            if (candidate.Quantities is var (least, most) && least <= most && _seen.Add(key))
                Candidates.Add(candidate);
        }
    }

    /// <summary>The highest rate of a variant and of the parts that its answers may bring.</summary>
    public Percentage RateOf(MatrixVariant variant)
    {
        var own = MarginBasis.Dearest(_terms.Trade, new VariantOnSale(_edition, variant).TaxClass).Rate;
        if (_partRates.All(r => r.Value == own.Value))
            return own;
        _isExact = false;
        return new Percentage(Math.Max(own.Value, _partRates.Max(r => r.Value)));
    }

    /// <summary>The answers of a candidate, with the picks of slots.</summary>
    public Configuration ConfigurationOf(MarginCandidate of)
    {
        var answers = _answers.ConfigurationOf(of.Variant, of.Answered, of.List);
        var parts = WorstSets.AnswersOf(of.Way?.Picks);
        foreach (var slot in _edition.Slots)
            if (slot.Question is { } question)
                answers = answers.With(question.Key, Picked(question, parts.BySlot.GetValueOrDefault(question.Key, [])));
        return answers;
    }

    private static Answer Picked(Option question, IReadOnlyList<PartAnswer> picks) =>
        picks switch
        {
            [] => new Answer.None(),
            [var only] when question.Ask == Ask.One => new Answer.Value(only.Candidate),
            var several => new Answer.Ticks([.. several.Select(p => p.Candidate)]),
        };

    /// <summary>Another text for variants that a rule treats differently.</summary>
    private static string ReachOf(ReachingRule rule, MatrixVariant variant) =>
        !rule.Reaches(variant) ? "0"
        : rule.IsBySku ? variant.Sku.Text
        : "1";
}
