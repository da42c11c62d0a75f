namespace Unicus.Core.Range;

using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Rules;

/// <summary>What picked values cost the merchant besides their parts, in minor units.</summary>
/// <param name="Each">For a unit.</param>
/// <param name="Once">For the line: of values that are charged once.</param>
internal readonly record struct ValueCosts(long Each, long Once)
{
    /// <summary>Adds them up.</summary>
    /// <param name="edition">The product.</param>
    /// <param name="answers">Those that count.</param>
    public static ValueCosts Of(Edition edition, Configuration answers)
    {
        var (each, once) = (0L, 0L);
        foreach (var question in edition.Product.Extras)
            foreach (var value in AnswerText.Picked(question, answers[question.Key]))
                if (value is { Cost: { } cost, Surcharge: Surcharge.Once { Amount.IsZero: false } })
                    once += MinorUnits.Of(cost);
                else
                    each += value.Cost is { } c ? MinorUnits.Of(c) : 0;
        return new ValueCosts(each, once);
    }

    /// <summary>Of a line with so many units.</summary>
    public long For(long units) => Each * units + Once;
}
