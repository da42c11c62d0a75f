namespace Unicus.Core.Rules;

using System.Collections.Immutable;
using System.Globalization;
using Unicus.Core.Money;
using Unicus.Core.Options;

/// <summary>Answers as texts: keys of values, the words themselves, decimal numbers with a point, dates as 2027-05-03.</summary>
public static class AnswerText
{
    /// <summary>The texts of an answer, one or several; none where it is deliberately none.</summary>
    public static ImmutableArray<string> Write(Answer answer) =>
        answer switch
        {
            Answer.Value v => [v.Key.Text],
            Answer.Ticks t => [.. t.Keys.Select(k => k.Text)],
            Answer.Text t => [t.Words],
            Answer.Number n => [n.Size.ToString(CultureInfo.InvariantCulture)],
            Answer.Date d => [d.Day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)],
            _ => [],
        };

    /// <summary>Reads texts as an answer to a question; empty texts are deliberately none.</summary>
    /// <returns>The answer, or what is not understood. Limits are not looked at.</returns>
    public static Read<Answer> Read(Option question, IReadOnlyList<string> texts)
    {
        var given = texts.Where(t => t.Length > 0).ToList();
        if (given.Count == 0)
            return Of(new Answer.None());
        if (question.Ask != Ask.Several && given.Count > 1)
            return Read<Answer>.No($"{question.Label} takes one answer.");
        var text = given[0];
        switch (question.Ask)
        {
            case Ask.Text:
                return text.Trim().Length == 0 ? Of(new Answer.None()) : Of(new Answer.Text(text.ReplaceLineEndings("\n")));
            case Ask.Number:
                return TypedNumbers.Number(text, 3) is { Ok: true } read
                    ? Of(new Answer.Number(read.Value))
                    : Read<Answer>.No($"{question.Label}: “{Short(text)}” is not a number. Write it like 12 or 12.5.");
            case Ask.Date:
                return
                    DateOnly.TryParseExact(text.Trim(), "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var day)
                    || DateOnly.TryParse(text, CultureInfo.GetCultureInfo("en-GB"), out day)
                    ? Of(new Answer.Date(day))
                    : Read<Answer>.No($"{question.Label}: “{Short(text)}” is not a day. Write it as 2027-05-03.");
        }
        var keys = new List<Key>();
        foreach (var one in given)
        {
            if (!Key.TryParse(one, out var key) || question.Find(key) is null)
                return Read<Answer>.No($"{question.Label} has no value {Short(one)}.");
            keys.Add(key);
        }
        return question.Ask == Ask.Several ? Of(new Answer.Ticks([.. keys])) : Of(new Answer.Value(keys[0]));
    }

    /// <summary>The answers to extras as people read them: “Roof: gabled”; what is deliberately none is left out.</summary>
    public static IEnumerable<(string Label, string Answer)> Extras(IEnumerable<Option> questions, Configuration given) =>
        questions
            .Where(q => q.Role == OptionRole.Extra && given[q.Key] is not (null or Answer.None))
            .Select(q => (q.Label, ForPeople(q, given[q.Key]!)));

    /// <summary>The values that an answer picks, in the order of the list.</summary>
    public static IEnumerable<OptionValue> Picked(Option question, Answer? answer) =>
        answer switch
        {
            Answer.Value v when question.Find(v.Key) is { } value => [value],
            Answer.Ticks t => question.Values.Where(v => t.Keys.Contains(v.Key)),
            _ => [],
        };

    /// <summary>How people read an answer: “Cedar”, “Stand and strap”, “12 cm”.</summary>
    public static string ForPeople(Option question, Answer answer) =>
        answer switch
        {
            Answer.Value v => question.Ask == Ask.YesNo ? "yes" : question.Find(v.Key)?.Label ?? v.Key.Text,
            Answer.Ticks t => string.Join(", ", Picked(question, t).Select(v => v.Label)),
            Answer.Text t => $"“{t.Words}”",
            Answer.Number n => $"{n.Size.ToString(CultureInfo.InvariantCulture)}{(question.Number.Unit is { } unit ? $" {unit}" : "")}",
            Answer.Date d => d.Day.ToString("d MMMM yyyy", CultureInfo.InvariantCulture),
            _ => "none",
        };

    /// <summary>The answer that a question has beforehand; null if it has none.</summary>
    public static Answer? Default(Option question)
    {
        if (question.Default is { } key)
            return new Answer.Value(key);
        return !question.Preset.IsEmpty && Read(question, question.Preset) is { Ok: true, Value: not Answer.None and var answer }
            ? answer
            : null;
    }

    private static Read<Answer> Of(Answer answer) => Read<Answer>.Of(answer);

    private static string Short(string text) => text.Length > 40 ? text[..40] + "…" : text;
}
