using Microsoft.AspNetCore.Http.Extensions;
using Microsoft.Extensions.Primitives;

namespace Unicus.Web.Shop;

/// <summary>What a form or an address says: the answers that can stand, and what was typed that cannot be taken.</summary>
/// <param name="Faulty">By question: the text as it was typed and what is wrong with it.</param>
public sealed record SentAnswers(Configuration Given, IReadOnlyDictionary<Key, (string Typed, string Problem)> Faulty)
{
    /// <summary>Ticks of lists of which more are needed: they are no answer yet, and stay ticked.</summary>
    public IReadOnlyDictionary<Key, Answer.Ticks> Partial { get; init; } = new Dictionary<Key, Answer.Ticks>();
}

/// <summary>Answers in forms and addresses: <c>o-timber=cedar</c>, once for each tick; empty means deliberately none.</summary>
public static class BuyForm
{
    public const string Prefix = "o-";

    /// <summary>Reads answers; what is unknown or cannot stand beside those before it is left out.</summary>
    public static SentAnswers Read(Configurator configurator, IEnumerable<KeyValuePair<string, StringValues>> sent, DateOnly today)
    {
        var byName = sent.Where(s => s.Key.StartsWith(Prefix, StringComparison.Ordinal))
            .GroupBy(s => s.Key[Prefix.Length..])
            .ToDictionary(g => g.Key, g => g.SelectMany(s => s.Value.ToArray()).OfType<string>().ToList());
        var given = Configuration.Empty;
        var faulty = new Dictionary<Key, (string, string)>();
        var partial = new Dictionary<Key, Answer.Ticks>();
        // What was only picked beforehand gives way to what was picked, so it comes last.
        foreach (
            var question in configurator.Questions.OrderBy(q =>
                byName.TryGetValue(q.Key.Text, out var t) && AnswerText.Read(q, t) is { Ok: true, Value: { } a } && IsBeforehand(q, a)
            )
        )
        {
            if (!byName.TryGetValue(question.Key.Text, out var texts))
                continue;
            var read = AnswerText.Read(question, texts);
            if (read is { Ok: true, Value: Answer.Ticks ticks } && ticks.Keys.Length < question.Picks.Min)
            {
                partial[question.Key] = ticks;
                continue;
            }
            var problem = read.Ok ? AnswerLimits.Problem(question, read.Value!, today) : read.Problem;
            if (problem is null && question.Role == OptionRole.Extra && !question.IsPicked)
                problem = configurator.PriceProblem(given.With(question.Key, read.Value!));
            if (problem is not null)
            {
                if (!question.IsPicked || question.Ask == Ask.Several)
                    faulty[question.Key] = (texts.LastOrDefault(t => t.Length > 0) ?? "", problem);
                continue;
            }
            if (read.Value is Answer.None && (question.Role == OptionRole.Variant || question.Required))
                continue;
            var next = given.With(question.Key, read.Value!);
            if (configurator.Rules.IsValid(next))
                given = next;
        }
        return new SentAnswers(given, faulty) { Partial = partial };
    }

    /// <summary>Whether an extra's answer is the one that is picked beforehand.</summary>
    public static bool IsBeforehand(Option question, Answer answer) =>
        question.Role == OptionRole.Extra && AnswerText.Default(question) == answer;

    private static string Characters(Option question, string typed)
    {
        var so = typed.Length == 0 ? "up to" : $"{AnswerLimits.Length(typed):N0} of";
        var which = question.Characters is { } some ? $" of {some}" : "";
        return $"{so} {question.MaxLength ?? Option.LongestText:N0} characters{which}";
    }

    /// <summary>What may be typed, and how much of it is: “9 of 24 characters”.</summary>
    public static string Limits(Option question, string typed) =>
        question.Ask switch
        {
            Ask.Text => Characters(question, typed),
            Ask.Number => Numbers(question.Number),
            Ask.Date when !question.Date.NotOn.IsEmpty => $"not on {string.Join(" or ", question.Date.NotOn.Select(d => $"{d}s"))}",
            _ => "",
        };

    private static string Numbers(NumberLimits limits)
    {
        var (min, max, step, _) = limits;
        var range = (min, max) switch
        {
            ({ } a, { } b) => $"{a} to {b}",
            ({ } a, null) => $"{a} or more",
            (null, { } b) => $"up to {b}",
            _ => "",
        };
        return step is { } s && s != 1 ? $"{range}, in steps of {s}".TrimStart(',', ' ') : range;
    }

    /// <summary>Answers as they stand in an address, in the order of their questions' keys.</summary>
    public static string Query(Configuration given, TypedQuantity? quantity = null, AssembledSet? parts = null)
    {
        var query = new QueryBuilder();
        foreach (var (question, answer) in given.Given.OrderBy(g => g.Question))
        {
            var texts = AnswerText.Write(answer);
            if (texts.IsEmpty)
                query.Add(Prefix + question.Text, "");
            foreach (var text in texts)
                query.Add(Prefix + question.Text, text);
        }
        foreach (var (name, value) in PartForm.Pairs(parts))
            query.Add(name, value);
        if (quantity is { IsLeast: false })
            query.Add("quantity", quantity.Typed);
        return query.ToString();
    }
}
