namespace Unicus.Core.Assembling;

using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Products;

/// <summary>What the answers of parts may cost the merchant, each cost with its tax, as floors reckon.</summary>
internal sealed class AnswerCosts(ConfigurationTerms terms)
{
    private readonly Dictionary<string, decimal> _rates = [];

    /// <summary>What they cost at least and at most for a unit.</summary>
    /// <param name="Least">The lower end.</param>
    /// <param name="Most">The upper end.</param>
    /// <param name="IsKnown">Whether the costs of all parts that they may bring are.</param>
    public readonly record struct Ends(decimal Least, decimal Most, bool IsKnown);

    public Ends Of(Product product, decimal rate)
    {
        var costs = new Ends(0, 0, true);
        if (product.Extras.IsEmpty)
            return costs;
        foreach (var question in product.Extras)
        {
            var values = question.Values.Select(v => CostOf(v, rate)).ToList();
            var isKnown = values.TrueForAll(v => v is not null);
            var (least, most) = (
                values.DefaultIfEmpty(0).Min(v => Math.Min(0, v ?? 0)),
                values.DefaultIfEmpty(0).Max(v => Math.Max(0, v ?? 0))
            );
            if (question.Ask == Ask.Several)
                (least, most) = (values.Sum(v => Math.Min(0, v ?? 0)), values.Sum(v => Math.Max(0, v ?? 0)));
            costs = new Ends(costs.Least + least, costs.Most + most, costs.IsKnown && isKnown);
        }
        return costs;
    }

    /// <summary>What a value costs with its tax, that of a part at the highest there is; null where the cost of a part is not
    /// known.</summary>
    private decimal? CostOf(OptionValue value, decimal rate)
    {
        var own = value is { Cost: { } cost, Surcharge: not Surcharge.Once } ? MinorUnits.Of(cost) * (100 + rate) : 0;
        if (value.Part is not { } part)
            return own;
        return terms.Range.Figures(part.Sku)?.Cost is { } each
            ? own + MinorUnits.Of(each) * part.Quantity * (100 + terms.Run.Trade.TaxClasses.Max(c => (decimal?)RateOf(c.Key.Text)) ?? 0)
            : null;
    }

    /// <summary>The rate at which floors count a tax class, in per cent; 0 where prices are without tax.</summary>
    public decimal RateOf(string? taxClass)
    {
        if (!terms.Run.Trade.PricesIncludeTax)
            return 0;
        if (!_rates.TryGetValue(taxClass ?? "", out var rate))
            _rates[taxClass ?? ""] = rate = MarginBasis.Dearest(terms.Run.Trade, taxClass).Rate.Value;
        return rate;
    }
}
