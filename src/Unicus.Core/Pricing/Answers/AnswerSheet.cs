namespace Unicus.Core.Pricing.Answers;

using System.Collections.Frozen;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Rules;

/// <summary>What picked answers to extras add, laid out once for a product so that a line is priced without looking at the
/// questions.</summary>
/// <remarks>Answers that bring parts, and typed ones that add something, are left to <see cref="AnswerPricing"/>.</remarks>
internal sealed class AnswerSheet
{
    private readonly FrozenDictionary<string, Question> _questions;

    /// <param name="questions">Of the product, in order.</param>
    public AnswerSheet(IEnumerable<Option> questions) =>
        _questions = questions
            .Where(q => q.Role == OptionRole.Extra)
            .Select((q, i) => new Question(q, i))
            .ToFrozenDictionary(q => q.Option.Key.Text);

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

    /// <summary>The steps of the working behind <see cref="Of"/>, as <see cref="AnswerPricing.Steps"/> gives them; only for answers that
    /// were added up.</summary>
    /// <inheritdoc cref="Of"/>
    public IEnumerable<WorkingStep> Steps(Configuration given, long list, Currency currency)
    {
        // Of most lines there is one at most.
        var (first, steps) = (default(PlacedStep), (List<PlacedStep>?)null);
        foreach (var (key, answer) in given.Given)
        {
            if (answer is Answer.None || !_questions.TryGetValue(key.Text, out var question))
                continue;
            Add(question, question.Own, answer);
            if (answer is Answer.Value one && question.Values.TryGetValue(one.Key.Text, out var value))
                Add(question, value, answer);
            else if (answer is Answer.Ticks ticks)
                foreach (var tick in ticks.Keys)
                    if (question.Values.TryGetValue(tick.Text, out var ticked))
                        Add(question, ticked, answer);
        }
        if (steps is null)
            return first.Step is { } only ? [only] : [];
        steps.Sort((a, b) => a.Place.CompareTo(b.Place));
        return steps.Select(s => s.Step);

        void Add(Question question, Adding adding, Answer answer)
        {
            if (adding.Step(question.Option, answer, list, currency) is not { } step)
                return;
            var placed = new PlacedStep((question.Place, adding.Place), step);
            if (first.Step is null)
                first = placed;
            else
                (steps ??= [first]).Add(placed);
        }
    }

    private readonly record struct PlacedStep((int Question, int Value) Place, WorkingStep Step);

    private sealed class Question(Option option, int place)
    {
        public Option Option => option;

        /// <summary>Among the extras.</summary>
        public int Place => place;

        public bool IsTypedCharge { get; } = option.Surcharge is Surcharge.PerCharacter or Surcharge.PerMeasure or Surcharge.Table;

        public Adding Own { get; } = Adding.Of(option.Surcharge, null, -1);

        public FrozenDictionary<string, Adding> Values { get; } =
            option.Values.Select((v, i) => Adding.Of(v.Surcharge, v, i)).ToFrozenDictionary(a => a.Value!.Key.Text);
    }

    /// <summary>What one value, or the question itself, adds.</summary>
    private sealed class Adding(long each, decimal percent, long once, OptionValue? value, int place)
    {
        private WorkingStep? _step;

        /// <summary>Null where it is the question itself.</summary>
        public OptionValue? Value => value;

        /// <summary>Among the values of its question.</summary>
        public int Place => place;

        public bool HasPart => value?.Part is not null;

        public static Adding Of(Surcharge? surcharge, OptionValue? value, int place) =>
            new(
                surcharge is Surcharge.PerUnit u ? MinorUnits.Of(u.Amount) : 0,
                surcharge is Surcharge.Percent p ? p.Rate.Value : 0,
                surcharge is Surcharge.Once o ? MinorUnits.Of(o.Amount) : 0,
                value,
                place
            );

        public Sum AddTo(Sum sum, long list) =>
            new(sum.Each + each + (percent == 0 ? 0 : ConfigurationCost.Share(list, new Percentage(percent))), sum.Once + once);

        /// <summary>Its step; one that hangs neither on the list price nor on what was typed is put into words once. Null where it
        /// adds nothing.</summary>
        /// <param name="question">What is asked.</param>
        /// <param name="answer">To the question.</param>
        /// <param name="list">Of one unit, in minor units.</param>
        /// <param name="currency">In which amounts are.</param>
        public WorkingStep? Step(Option question, Answer answer, long list, Currency currency)
        {
            if (_step is { } known && known.Amount.Currency == currency)
                return known;
            var sum = AddTo(default, list);
            if ((sum.Each | sum.Once) == 0)
                return null;
            var amount = MinorUnits.ToMoney(sum.Each + sum.Once, currency);
            var of = value is null ? answer : new Answer.Value(value.Key);
            var step = new AnswerAmount(question, of, value, null, amount, once != 0).Step();
            if (percent == 0 && of is (Answer.Value or Answer.Ticks))
                _step = step;
            return step;
        }
    }
}
