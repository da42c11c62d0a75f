using System.Collections.Frozen;

namespace Unicus.Core;

/// <summary>What picked answers to extras add, laid out once for a product so that a line is priced without looking at the
/// questions.</summary>
/// <remarks>Answers that bring parts, and typed ones that add something, are left to <see cref="AnswerPricing"/>.</remarks>
internal sealed class AnswerSheet
{
    private readonly FrozenDictionary<string, Question> _questions;

    /// <param name="questions">Of the product, in order.</param>
    public AnswerSheet(IEnumerable<Option> questions) =>
        _questions = questions.Where(q => q.Role == OptionRole.Extra).ToFrozenDictionary(q => q.Key.Text, q => new Question(q));

    /// <summary>What answers add, in minor units.</summary>
    /// <param name="Each">To a unit.</param>
    /// <param name="Once">For the line.</param>
    public readonly record struct Sum(long Each, long Once);

    /// <summary>Adds answers up.</summary>
    /// <param name="given">Of questions that are shown.</param>
    /// <param name="list">The list price of a unit, in minor units.</param>
    /// <returns>Null where some of them have to be looked at one by one.</returns>
    public Sum? Of(Configuration given, long list)
    {
        var sum = default(Sum);
        foreach (var (key, answer) in given.Given)
        {
            if (answer is Answer.None || !_questions.TryGetValue(key.Text, out var question))
                continue;
            if (question.IsTypedCharge)
                return null;
            sum = question.Own.AddTo(sum, list);
            switch (answer)
            {
                case Answer.Value v when question.Values.TryGetValue(v.Key.Text, out var value):
                    if (value.HasPart)
                        return null;
                    sum = value.AddTo(sum, list);
                    break;
                case Answer.Ticks t:
                    foreach (var tick in t.Keys)
                    {
                        if (!question.Values.TryGetValue(tick.Text, out var ticked))
                            continue;
                        if (ticked.HasPart)
                            return null;
                        sum = ticked.AddTo(sum, list);
                    }
                    break;
            }
        }
        return sum;
    }

    private sealed class Question(Option option)
    {
        public bool IsTypedCharge { get; } = option.Surcharge is Surcharge.PerCharacter or Surcharge.PerMeasure or Surcharge.Table;

        public Adding Own { get; } = Adding.Of(option.Surcharge, false);

        public FrozenDictionary<string, Adding> Values { get; } =
            option.Values.ToFrozenDictionary(v => v.Key.Text, v => Adding.Of(v.Surcharge, v.Part is not null));
    }

    /// <summary>What one value, or the question itself, adds.</summary>
    private readonly record struct Adding(long Each, decimal Percent, long Once, bool HasPart)
    {
        public static Adding Of(Surcharge? surcharge, bool hasPart) =>
            new(
                surcharge is Surcharge.PerUnit u ? MinorUnits.Of(u.Amount) : 0,
                surcharge is Surcharge.Percent p ? p.Rate.Value : 0,
                surcharge is Surcharge.Once o ? MinorUnits.Of(o.Amount) : 0,
                hasPart
            );

        public Sum AddTo(Sum sum, long list) =>
            new(sum.Each + Each + (Percent == 0 ? 0 : ConfigurationCost.Share(list, new Percentage(Percent))), sum.Once + Once);
    }
}
