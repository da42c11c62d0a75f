namespace Unicus.Core.Products;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Answers;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>The ends of what a unit of a product costs with answers, found over its compiled rules.</summary>
/// <remarks>Worked out when first asked for, and kept by the percentages that answers add.</remarks>
internal sealed class PriceExtremes
{
    private readonly KeptAnswers<string, CostSpan> _spans = new(span => span.Bytes);
    private readonly KeptAnswers<string, CostFinder> _finders = new(_ => CostFinder.Bytes);
    private readonly Func<CompiledRules> _rules;
    private readonly ImmutableArray<Option> _questions;
    private readonly VariantMatrix _matrix;
    private readonly Lazy<AnswerAmounts> _amounts;
    private readonly Lazy<long[]> _listPrices;
    private readonly Lazy<CostFinder> _pickedFinder;
    private readonly Lazy<Fault?> _fault;

    /// <param name="rules">Compiled when they are first asked for.</param>
    /// <param name="questions">What is asked, in its order.</param>
    /// <param name="matrix">Its variants.</param>
    public PriceExtremes(Func<CompiledRules> rules, ImmutableArray<Option> questions, VariantMatrix matrix)
    {
        (_rules, _questions, _matrix) = (rules, questions, matrix);
        _amounts = new Lazy<AnswerAmounts>(() => new AnswerAmounts(Rules, questions, ListPrices()));
        _pickedFinder = new Lazy<CostFinder>(() => new CostFinder(Rules, _amounts.Value.Picked));
        _listPrices = new Lazy<long[]>(() => [.. _amounts.Value.Picked.List.OfType<long>().Distinct().Order()]);
        _fault = new Lazy<Fault?>(FindFault);
    }

    /// <summary>Why prices cannot be worked out exactly; null where they can.</summary>
    public Fault? Fault => _fault.Value;

    /// <summary>About how much memory the list prices take, in bytes.</summary>
    public long Bytes => _amounts.IsValueCreated ? 8L * _matrix.Made.Combinations : 0;

    private CompiledRules Rules => _rules();

    /// <summary>The lowest and highest price of a unit over the configurations whose states the masks allow, and the states of a cheapest
    /// one; null where there is none, or prices are too interwoven to say.</summary>
    /// <param name="given">For what is typed.</param>
    /// <param name="masks">By level, which answers agree.</param>
    /// <param name="pricing">What the answers add.</param>
    public CostExtremes? Find(Configuration given, bool[][] masks, AnswerPricing pricing)
    {
        var (amounts, always) = _amounts.Value.Amounts(pricing, given);
        try
        {
            return FinderOf(_amounts.Value.Percentages(given)).Find(masks, amounts) is { } found
                ? found with
                {
                    Lowest = found.Lowest + always,
                    Highest = found.Highest + always,
                }
                : null;
        }
        catch (DiagramTooLargeException)
        {
            return null;
        }
    }

    /// <summary>For a list price in minor units, a bound that no configuration of a variant with it is cheaper than.</summary>
    public Func<long, long> LeastOf(Configuration given, AnswerPricing pricing) => BoundOf(given, pricing, Math.Min);

    /// <summary>For a list price in minor units, a bound that no configuration of a variant with it is dearer than.</summary>
    public Func<long, long> MostOf(Configuration given, AnswerPricing pricing) => BoundOf(given, pricing, Math.Max);

    private Func<long, long> BoundOf(Configuration given, AnswerPricing pricing, Func<long, long, long> end)
    {
        var (amounts, always) = _amounts.Value.Amounts(pricing, given);
        var cost = _amounts.Value.Percentages(given);
        var needed = new int[Rules.Sizes.Count];
        foreach (var question in _questions.Where(q => q is { Required: true, Ask: Ask.One, Role: OptionRole.Extra }))
            if (!Rules.Book.IsConditional(question.Key) && Rules.Network.PlaceOf(question.Key) is { } place)
                needed[place.First] = question.Values.Length;
        return list =>
        {
            var bound = list + always + cost.Always.Sum(r => end(0, ConfigurationCost.Share(list, r)));
            for (var level = 0; level < needed.Length; level++)
            {
                if (amounts[level] is null && cost.Percent[level] is null)
                    continue;
                // A question that is always asked and needed has one of its values; any other may add nothing.
                var count = needed[level] > 0 ? needed[level] : Rules.Sizes[level];
                long? adds = needed[level] > 0 ? null : 0;
                for (var state = 0; state < count; state++)
                {
                    var share = cost.Percent[level] is { } rates ? ConfigurationCost.Share(list, rates[state]) : 0;
                    var amount = (amounts[level]?[state] ?? 0) + share;
                    adds = adds is { } soFar ? end(soFar, amount) : amount;
                }
                bound += adds ?? 0;
            }
            return bound;
        };
    }

    private CostFinder FinderOf(ConfigurationCost cost)
    {
        if (ReferenceEquals(cost, _amounts.Value.Picked))
            return _pickedFinder.Value;
        var key =
            string.Join(
                ' ',
                cost.Percent.Index()
                    .Where(l => l.Item is not null)
                    .Select(l => $"{l.Index}:{string.Join(',', l.Item!.Select(r => r.Value))}")
            ) + $"+{string.Join(' ', cost.Always)}";
        return _finders.GetOrMake(key, _ => new CostFinder(Rules, cost));
    }

    /// <summary>The list prices with percentages of them added, for finding the variant that is cheapest with these.</summary>
    /// <remarks>Where a higher list price is never cheaper for it, which is nearly always, the list prices alone tell.</remarks>
    public CostSpan Spans(IReadOnlyList<Percentage> rates)
    {
        if (Keeps(rates))
            rates = [];
        var plain = _amounts.Value.Picked with { Percent = new Percentage[]?[Rules.Sizes.Count], Always = [.. rates] };
        return _spans.GetOrMake(string.Join(' ', rates.Select(r => r.Value)), _ => new CostSpan(Rules, plain));
    }

    /// <summary>Whether of two list prices the lower stays the lower, or becomes the same, with these percentages of it
    /// added.</summary>
    private bool Keeps(IReadOnlyList<Percentage> rates)
    {
        if (rates.All(r => r.Value >= 0))
            return true;
        var before = long.MinValue;
        foreach (var list in _listPrices.Value)
        {
            var cost = list + rates.Sum(r => ConfigurationCost.Share(list, r));
            if (cost < before)
                return false;
            before = cost;
        }
        return true;
    }

    /// <summary>The list price of every combination on offer, by its number, in minor units.</summary>
    private long?[] ListPrices()
    {
        var prices = new long?[_matrix.Made.Combinations];
        foreach (var variant in _matrix.Offered)
            if (variant.Price.Figure is { } price)
                prices[variant.Number] = MinorUnits.Of(price);
        return prices;
    }

    private Fault? FindFault()
    {
        try
        {
            _pickedFinder.Value.Prepare(Rules.Masks(Configuration.Empty));
            return null;
        }
        catch (DiagramTooLargeException)
        {
            return new Fault(
                "",
                "Prices and percentages are too interwoven to be worked out exactly. Use amounts for some of the percentages, or "
                    + "fewer prices of their own."
            );
        }
    }
}
