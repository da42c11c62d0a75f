namespace Unicus.Core.Pricing.Answers;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Rules;

/// <summary>What answers to extras add, by level and state of the compiled rules, for finding the lowest and highest price. What never
/// changes is laid out once.</summary>
internal sealed class AnswerAmounts
{
    /// <summary>A part that comes with a value, by level and state.</summary>
    private sealed record PartAt(int Level, int State, ValuePart Part);

    private readonly CompiledRules _rules;
    private readonly long[]?[] _fixed;
    private readonly ImmutableArray<PartAt> _parts;
    private readonly ImmutableArray<Option> _typed;

    /// <param name="rules">The rules.</param>
    /// <param name="questions">What is asked, in its order.</param>
    /// <param name="list">The list price of each combination by its number; null where it has none or is not on offer.</param>
    public AnswerAmounts(CompiledRules rules, IReadOnlyList<Option> questions, long?[] list)
    {
        _rules = rules;
        _fixed = new long[]?[rules.Sizes.Count];
        var rates = new Percentage[]?[rules.Sizes.Count];
        var parts = ImmutableArray.CreateBuilder<PartAt>();
        foreach (var question in questions.Where(q => q.Role == OptionRole.Extra))
        {
            if (rules.Network.PlaceOf(question.Key) is not { Levels: > 0 } place)
                continue;
            foreach (var (i, value) in question.Values.Index())
            {
                var (level, state) = place.IsSeveral ? (place.First + i, RuleNetwork.On) : (place.First, i);
                if (value.Surcharge is Surcharge.PerUnit u)
                    (_fixed[level] ??= new long[rules.Sizes[level]])[state] = MinorUnits.Of(u.Amount);
                if (value.Surcharge is Surcharge.Percent p)
                    (rates[level] ??= new Percentage[rules.Sizes[level]])[state] = p.Rate;
                if (value.Part is { } part)
                    parts.Add(new PartAt(level, state, part));
            }
        }
        _parts = parts.ToImmutable();
        _typed = [.. questions.Where(q => q is { Role: OptionRole.Extra, IsPicked: false, Surcharge: not (null or Surcharge.Once) })];
        Picked = new ConfigurationCost(list, rates, []);
    }

    /// <summary>List price and percentages while nothing typed adds a percentage.</summary>
    public ConfigurationCost Picked { get; }

    /// <summary>List price and percentages, with those of what is typed.</summary>
    /// <returns><see cref="Picked"/> itself where it is the same.</returns>
    public ConfigurationCost Percentages(Configuration given)
    {
        var cost = Picked;
        foreach (var question in _typed)
        {
            if (question.Surcharge is not Surcharge.Percent typed || given[question.Key] is null or Answer.None)
                continue;
            if (!_rules.Network.Charged.TryGetValue(question.Key, out var charged))
                cost = cost with { Always = cost.Always.Add(typed.Rate) };
            else
            {
                var rates = (Percentage[]?[])cost.Percent.Clone();
                rates[charged] = [default, typed.Rate];
                cost = cost with { Percent = rates };
            }
        }
        return cost;
    }

    /// <summary>The amounts of all other kinds by level and state, and what is always added.</summary>
    /// <param name="pricing">Knows what parts sell for now.</param>
    /// <param name="given">The answers as they came.</param>
    public (long[]?[] ByLevel, long Always) Amounts(AnswerPricing pricing, Configuration given)
    {
        var (amounts, always) = (_fixed, 0L);
        if (!_parts.IsEmpty)
            amounts = (long[]?[])amounts.Clone();
        foreach (var (level, state, part) in _parts)
        {
            if (pricing.PartPrice(part.Sku) is not { } price)
                continue;
            if (ReferenceEquals(amounts[level], _fixed[level]))
                amounts[level] = (long[]?)_fixed[level]?.Clone() ?? new long[_rules.Sizes[level]];
            amounts[level]![state] += MinorUnits.Of(price * part.Quantity);
        }
        foreach (var question in _typed)
        {
            if (question.Surcharge is Surcharge.Percent || given[question.Key] is not { } answer || answer is Answer.None)
                continue;
            if (AnswerPricing.OfQuestion(question, question.Surcharge!, answer, given, default) is not { } typed)
                continue;
            if (!_rules.Network.Charged.TryGetValue(question.Key, out var charged))
                always += MinorUnits.Of(typed);
            else
            {
                if (ReferenceEquals(amounts, _fixed))
                    amounts = (long[]?[])amounts.Clone();
                amounts[charged] = [0, MinorUnits.Of(typed)];
            }
        }
        return (amounts, always);
    }
}
