namespace Unicus.Core.Pricing.Answers;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Rules;

/// <summary>What a part that comes with a value sells for, costs and is called.</summary>
public sealed record PartFigures(Money? Price, Money? Cost, string Name);

/// <summary>What one answer adds to a price.</summary>
/// <param name="Question">What is asked.</param>
/// <param name="Answer">What was answered.</param>
/// <param name="Value">The value of a list that adds it; null where the question itself does.</param>
/// <param name="PartPrice">The list price of one of the parts that come with the value; null where it is a surcharge.</param>
/// <param name="Amount">What it comes to.</param>
/// <param name="PerLine">Whether it is added once for the whole line; otherwise for each unit.</param>
public sealed record AnswerAmount(Option Question, Answer Answer, OptionValue? Value, Money? PartPrice, Money Amount, bool PerLine)
{
    /// <summary>The amount as a line of the working.</summary>
    public WorkingStep Step() => new(PriceStep.Answer, Label(), Amount, PerLine);

    private string Label()
    {
        if (Value is null)
            return OfQuestion();
        var label = Question.Ask == Ask.YesNo ? Question.Label : $"{Question.Label}: {Wording.LowerFirst(Value.Label)}";
        return PartPrice is { } price && Value.Part is { Quantity: > 1 } part
            ? $"{label}, {part.Quantity} × " + $"{price.ForPeople()}"
            : label;
    }

    private string OfQuestion() =>
        Answer switch
        {
            Answer.Text t when Question.Surcharge is Surcharge.PerCharacter => Characters(AnswerPricing.Characters(t.Words)),
            Answer.Number or Answer.Date => $"{Question.Label}: {AnswerText.ForPeople(Question, Answer)}",
            _ => Question.Label,
        };

    private string Characters(int count) => $"{Question.Label}: {count:N0} {(count == 1 ? "character" : "characters")}";
}

/// <summary>What answers to extras add to a price (stage 2).</summary>
/// <param name="questions">What is asked, in its order.</param>
/// <param name="parts">The figures of a part by its SKU; null where there is none on sale.</param>
public sealed class AnswerPricing(IReadOnlyList<Option> questions, Func<string, PartFigures?> parts)
{
    /// <summary>One amount for each answer that adds something, in the order of the questions.</summary>
    /// <param name="given">Answers of questions that are shown; others must not be among them.</param>
    /// <param name="list">The list price of one unit, which percentages are of.</param>
    public IEnumerable<AnswerAmount> Amounts(Configuration given, Money list)
    {
        foreach (var question in questions)
        {
            if (question.Role == OptionRole.Variant || given[question.Key] is not { } answer || answer is Answer.None)
                continue;
            if (question.Surcharge is { } own && OfQuestion(question, own, answer, given, list) is { IsZero: false } amount)
                yield return new AnswerAmount(question, answer, null, null, amount, own is Surcharge.Once);
            foreach (var value in AnswerText.Picked(question, answer))
            {
                if (value.Surcharge is { } surcharge && OfValue(surcharge, list) is { IsZero: false } adds)
                    yield return new AnswerAmount(question, answer, value, null, adds, surcharge is Surcharge.Once);
                if (value.Part is { } part && parts(part.Sku)?.Price is { IsZero: false } price)
                    yield return new AnswerAmount(question, answer, value, price, price * part.Quantity, false);
            }
        }
    }

    /// <summary>One step of the working for each answer that adds something.</summary>
    /// <inheritdoc cref="Amounts"/>
    public IEnumerable<WorkingStep> Steps(Configuration given, Money list) => Amounts(given, list).Select(a => a.Step());

    /// <summary>What the answers cost the merchant for one unit.</summary>
    public Money Cost(Configuration given, Currency currency) =>
        Values(given)
            .Select(v =>
                (v.Cost ?? Money.Zero(currency))
                + (v.Part is { } part && parts(part.Sku)?.Cost is { } cost ? cost * part.Quantity : Money.Zero(currency))
            )
            .Sum(currency);

    /// <summary>The parts that one unit takes, each SKU once.</summary>
    public ImmutableArray<ValuePart> Parts(Configuration given) =>
        [
            .. Values(given)
                .Select(v => v.Part)
                .OfType<ValuePart>()
                .GroupBy(p => p.Sku)
                .Select(g => new ValuePart(g.Key, g.Sum(p => p.Quantity))),
        ];

    /// <summary>Why an answer cannot be priced: a measure beyond the last bound of its table, or more money than can be charged. Null
    /// where it can.</summary>
    public string? Problem(Configuration given)
    {
        foreach (var question in questions)
            if (given[question.Key] is { } answer && Problem(question, answer, given) is { } problem)
                return problem;
        return null;
    }

    private string? Problem(Option question, Answer answer, Configuration given)
    {
        switch (question.Surcharge, answer)
        {
            case (Surcharge.Table table, Answer.Number n) when Column(table, given) is { } column && table.Look(n.Size, column) is null:
                return table.By is { } by && n.Size <= table.Rows[^1].Max
                    ? $"{questions.First(q => q.Key == by).Label} {column} is beyond the last band of prices."
                    : $"{question.Label} {n.Size} is beyond the last band of prices, {table.Rows[^1].Max}.";
            case (Surcharge.PerMeasure s, Answer.Number n) when Math.Abs(s.Rate.Amount * n.Size) > Money.Most:
                return $"{question.Label} {n.Size} comes to more than can be charged.";
            default:
                return null;
        }
    }

    /// <summary>What a unit of a part sells for; null where there is none on sale.</summary>
    internal Money? PartPrice(string sku) => parts(sku)?.Price;

    /// <summary>The percentages of the list price that these answers add.</summary>
    internal IReadOnlyList<Percentage> Rates(Configuration given, Func<Option, bool> counts) =>
        [
            .. Counted(counts)
                .SelectMany(q => AnswerText.Picked(q, given[q.Key]!).Select(v => v.Surcharge).Append(q.Surcharge))
                .OfType<Surcharge.Percent>()
                .Select(p => p.Rate),
        ];

    private IEnumerable<Option> Counted(Func<Option, bool> counts) => questions.Where(q => q.Role == OptionRole.Extra && counts(q));

    private static Money? OfValue(Surcharge surcharge, Money list) =>
        surcharge switch
        {
            Surcharge.PerUnit s => s.Amount,
            Surcharge.Once s => s.Amount,
            Surcharge.Percent s => s.Rate.Of(list),
            _ => null,
        };

    internal static Money? OfQuestion(Option question, Surcharge surcharge, Answer answer, Configuration given, Money list) =>
        (surcharge, answer) switch
        {
            (Surcharge.PerCharacter s, Answer.Text t) => PerCharacter(s, t.Words),
            (Surcharge.PerMeasure s, Answer.Number n) => new Money(s.Rate.Amount * n.Size, s.Rate.Currency),
            (Surcharge.Table s, Answer.Number n) => Column(s, given) is { } column ? s.Look(n.Size, column) : null,
            _ => OfValue(surcharge, list),
        };

    /// <summary>A character is a text element that is not white space; empty text costs nothing.</summary>
    private static Money? PerCharacter(Surcharge.PerCharacter surcharge, string text)
    {
        var count = Characters(text);
        if (count == 0)
            return null;
        var amount = surcharge.Rate * count;
        return surcharge.Minimum is { } least && least > amount ? least : amount;
    }

    internal static int Characters(string text)
    {
        var elements = System.Globalization.StringInfo.GetTextElementEnumerator(text);
        var count = 0;
        while (elements.MoveNext())
            if (!string.IsNullOrWhiteSpace(elements.GetTextElement()))
                count++;
        return count;
    }

    /// <summary>The measure that chooses the column; 0 for a table of one measure, null while the second number is not given.</summary>
    private static decimal? Column(Surcharge.Table table, Configuration given) =>
        table.By is not { } by ? 0
        : given[by] is Answer.Number n ? n.Size
        : null;

    private IEnumerable<OptionValue> Values(Configuration given) =>
        questions.Where(q => q.Role == OptionRole.Extra).SelectMany(q => AnswerText.Picked(q, given[q.Key]));
}
