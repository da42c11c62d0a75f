namespace Unicus.Core.Rules;

using System.Globalization;
using Unicus.Core.Options;

/// <summary>What answers must keep to, whatever the rules.</summary>
public static class AnswerLimits
{
    /// <summary>What is wrong with an answer to a question; null if nothing is.</summary>
    /// <param name="question">What is asked.</param>
    /// <param name="answer">What was answered.</param>
    /// <param name="today">The day that earliest and latest days are counted from.</param>
    public static string? Problem(Option question, Answer answer, DateOnly today) =>
        (question.Ask, answer) switch
        {
            (_, Answer.None) => null,
            (Ask.One or Ask.YesNo, Answer.Value v) => question.Find(v.Key) is null ? $"{question.Label} has no value {v.Key}." : null,
            (Ask.Several, Answer.Ticks t) => OfTicks(question, t),
            (Ask.Text, Answer.Text t) => OfText(question, t.Words),
            (Ask.Number, Answer.Number n) => OfNumber(question, n.Size),
            (Ask.Date, Answer.Date d) => OfDate(question, d.Day, today),
            _ => $"{question.Label} asks for {Wanted(question.Ask)}.",
        };

    /// <summary>Text elements as people count them: one letter with its accents, one emoji.</summary>
    public static int Length(string text) => new StringInfo(text).LengthInTextElements;

    private static string Wanted(Ask ask) =>
        ask switch
        {
            Ask.Several => "a list of values",
            Ask.Text => "a text",
            Ask.Number => "a number",
            Ask.Date => "a date",
            _ => "one value",
        };

    private static string? OfTicks(Option question, Answer.Ticks ticks)
    {
        foreach (var key in ticks.Keys)
            if (question.Find(key) is null)
                return $"{question.Label} has no value {key}.";
        var count = ticks.Keys.Distinct().Count();
        if (count != ticks.Keys.Length)
            return $"{question.Label} names a value twice.";
        var least = Math.Max(1, question.Picks.Min);
        if (count < least)
            return $"{question.Label}: pick at least {least}, or none.";
        return question.Picks.Max is { } most && count > most ? $"{question.Label}: at most {most} can be picked." : null;
    }

    private static string? OfText(Option question, string text)
    {
        var most = question.MaxLength ?? Option.LongestText;
        if (text.Length > most * 4 || Length(text) > most)
            return $"{question.Label} has at most {most:N0} characters.";
        if (text.Any(c => char.IsControl(c) && c != '\n'))
            return $"{question.Label} holds a control character.";
        return question.Characters is { } allowed && text.FirstOrDefault(c => !Allows(allowed, c)) is var c and not '\0'
            ? $"{question.Label} cannot have “{c}”: {allowed} can be used."
            : null;
    }

    private static bool Allows(string allowed, char c)
    {
        for (var i = 0; i < allowed.Length; i++)
        {
            if (i + 2 < allowed.Length && allowed[i + 1] == '-' && allowed[i] < allowed[i + 2])
            {
                if (c >= allowed[i] && c <= allowed[i + 2])
                    return true;
                i += 2;
            }
            else if (allowed[i] == c)
            {
                return true;
            }
        }
        return false;
    }

    private static string? OfNumber(Option question, decimal size)
    {
        var (min, max, step, unit) = question.Number;
        var of = unit is null ? "" : $" {unit}";
        if (Math.Abs(size) > Option.LargestNumber)
            return $"{question.Label} lies between −{Option.LargestNumber:N0} and {Option.LargestNumber:N0}{of}.";
        if (min is { } least && size < least)
            return $"{question.Label} is at least {least}{of}.";
        if (max is { } most && size > most)
            return $"{question.Label} is at most {most}{of}.";
        return step is { } s && (size - (min ?? 0)) % s != 0
            ? $"{question.Label} goes in steps of {s}{of}{(min is { } from && from != 0 ? $" from {from}" : "")}."
            : null;
    }

    private static string? OfDate(Option question, DateOnly day, DateOnly today)
    {
        var (earliest, latest, notOn) = question.Date;
        if (earliest is { } e && day < today.AddDays(e))
            return $"{question.Label}: {Day(today.AddDays(e))} is the earliest day.";
        if (latest is { } l && day > today.AddDays(l))
            return $"{question.Label}: {Day(today.AddDays(l))} is the latest day.";
        return notOn.Contains(day.DayOfWeek) ? $"{question.Label}: not on a {day.DayOfWeek}." : null;
    }

    private static string Day(DateOnly day) => day.ToString("d MMMM yyyy", CultureInfo.InvariantCulture);
}
