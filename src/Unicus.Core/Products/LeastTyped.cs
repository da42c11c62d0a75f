namespace Unicus.Core.Products;

using System.Collections.Immutable;
using Unicus.Core.Money;
using Unicus.Core.Options;
using Unicus.Core.Pricing;
using Unicus.Core.Pricing.Answers;
using Unicus.Core.Rules;

/// <summary>A way of answering typed questions.</summary>
/// <param name="Adds">What it adds to a unit, in minor units.</param>
/// <param name="Once">What it adds once for a line, in minor units.</param>
/// <param name="Answers">The answers that it is about.</param>
internal sealed record TypedWay(long Adds, long Once, ImmutableArray<(Key Question, Answer Answer)> Answers)
{
    /// <summary>Nothing is answered.</summary>
    public static TypedWay Nothing { get; } = new(0, 0, []);

    /// <summary>Both together.</summary>
    public TypedWay With(TypedWay other) => new(Adds + other.Adds, Once + other.Once, Answers.AddRange(other.Answers));
}

/// <summary>The allowed answers to typed questions that add the least.</summary>
/// <remarks>
/// Within a band of a table nothing changes, and a price by measure rises or falls evenly, so of numbers only the ends of what is allowed
/// and of the bands are looked at. A table of two measures ties two questions together; what is tied is looked at together.
/// </remarks>
/// <param name="questions">Of the product.</param>
/// <param name="today">The shop's day, which dates are counted from.</param>
/// <param name="all">Whether every answer that may add something else is looked at.</param>
internal sealed class LeastTyped(IReadOnlyList<Option> questions, DateOnly today, bool all = false)
{
    /// <summary>Of numbers and texts so many are listed out at most.</summary>
    private const int MostListed = 300;

    /// <summary>Answers to tied questions are listed out up to so many together.</summary>
    private const int MostTogether = 100_000;

    /// <summary>Just behind the bound of a band, where no step says what comes next.</summary>
    private const decimal Behind = 0.000001m;

    private readonly Dictionary<Key, ImmutableArray<Answer>> _allowed = [];

    /// <summary>The least that a question adds where it is asked: 0 where it may be left out and adds nothing less.</summary>
    /// <param name="question">What is asked.</param>
    /// <param name="needed">Whether it needs an answer.</param>
    /// <param name="list">The list price of a unit, in minor units.</param>
    /// <returns>In minor units; for the line where its surcharge is due once.</returns>
    public long Of(Option question, bool needed, long list)
    {
        IEnumerable<Answer?> columns = question.Surcharge is Surcharge.Table { By: { } by } ? Columns(Find(by)!) : [null];
        var least = columns.SelectMany(c => Allowed(question).Select(a => Adds(question, a, c, list))).Min();
        return needed ? least ?? 0 : Math.Min(0, least ?? 0);
    }

    /// <summary>The answers that are looked at, an open one too where it may be.</summary>
    public IEnumerable<Answer?> Alternatives(Option question, bool needed, IEnumerable<decimal> bounds)
    {
        var behind = bounds
            .SelectMany(b =>
                new[] { AtMost(question, b), AtLeast(question, b), AtLeast(question, b + Behind), AtMost(question, b - Behind) }
            )
            .Select(n => (Answer)new Answer.Number(n))
            .Where(a => question.Ask == Ask.Number && AnswerLimits.Problem(question, a, today) is null);
        var all = Allowed(question).Concat(behind).Distinct().Cast<Answer?>();
        return needed ? all : all.Prepend(null);
    }

    /// <summary>The answers that add the least together.</summary>
    /// <param name="given">Answers of some of them that stay as they are.</param>
    /// <param name="asked">The typed questions to answer.</param>
    /// <param name="needed">Which of them need an answer.</param>
    /// <param name="list">The list price of a unit, in minor units.</param>
    /// <returns>Needed ones have an answer where one is allowed; others have one where that takes something off.</returns>
    public IEnumerable<(Key Question, Answer Answer)> Answers(
        IReadOnlyCollection<Option> asked,
        Func<Option, bool> needed,
        long list,
        Configuration? given = null
    )
    {
        foreach (var tied in Tied(asked))
            foreach (var (question, answer) in Cheapest(tied, needed, list, given).Where(a => a.Answer is not null))
                yield return (question.Key, answer!);
    }

    /// <summary>Whether no answer was left out that may add something else.</summary>
    public bool IsWhole { get; private set; } = true;

    /// <summary>Every way of answering that adds something else.</summary>
    /// <inheritdoc cref="Answers"/>
    public List<TypedWay> Ways(IReadOnlyCollection<Option> asked, Func<Option, bool> needed, long list)
    {
        List<TypedWay> ways = [TypedWay.Nothing];
        foreach (var tied in Tied(asked))
        {
            var own = Listed(tied, needed, list);
            IsWhole &= (long)ways.Count * own.Count <= MostTogether;
            if (IsWhole)
                ways = [.. ways.SelectMany(w => own.Select(w.With)).DistinctBy(w => (w.Adds, w.Once))];
        }
        return ways;
    }

    /// <summary>Whether different answers to a question may add something else.</summary>
    public bool Differs(Option question, bool needed, long list) => Listed([question], _ => needed, list).Count > 1;

    private List<TypedWay> Listed(List<Option> tied, Func<Option, bool> needed, long list)
    {
        IEnumerable<ImmutableArray<Answer?>> listed =
        [
            [],
        ];
        var count = 1L;
        foreach (var question in tied)
        {
            List<Answer?> own = [.. needed(question) ? [] : new Answer?[] { null }, .. Allowed(question)];
            count *= own.Count;
            listed = listed.SelectMany(a => own.Select(a.Add));
        }
        IsWhole &= count <= MostTogether;
        return count > MostTogether
            ? [.. Cheapest(tied, needed, list).Select(_ => TypedWay.Nothing).Take(1)]
            : [.. listed.Select(a => Way(tied, a, list)).OfType<TypedWay>().DistinctBy(w => (w.Adds, w.Once))];
    }

    /// <summary>What answers add; null where they cannot be priced.</summary>
    private static TypedWay? Way(List<Option> tied, ImmutableArray<Answer?> answers, long list)
    {
        var way = TypedWay.Nothing;
        for (var i = 0; i < tied.Count; i++)
        {
            if (answers[i] is not { } answer)
                continue;
            if (Adds(tied[i], answer, ColumnOf(tied, answers, i), list) is not { } adds)
                return null;
            var isOnce = tied[i].Surcharge is Surcharge.Once;
            way = way.With(new TypedWay(isOnce ? 0 : adds, isOnce ? adds : 0, [(tied[i].Key, answer)]));
        }
        return way;
    }

    private static Answer? ColumnOf(List<Option> tied, ImmutableArray<Answer?> answers, int of) =>
        tied[of].Surcharge is Surcharge.Table { By: { } by } && tied.FindIndex(q => q.Key == by) is >= 0 and var at ? answers[at] : null;

    /// <summary>Questions that tables tie together.</summary>
    private static List<List<Option>> Tied(IReadOnlyCollection<Option> asked)
    {
        var groups = new List<List<Option>>();
        foreach (var question in asked)
        {
            var mine = groups.Where(g => g.Exists(o => IsBy(o, question) || IsBy(question, o))).ToList();
            groups.RemoveAll(mine.Contains);
            groups.Add([.. mine.SelectMany(g => g), question]);
        }
        return groups;
    }

    private static bool IsBy(Option table, Option column) => table.Surcharge is Surcharge.Table { By: { } by } && by == column.Key;

    private List<(Option Question, Answer? Answer)> Cheapest(
        List<Option> tied,
        Func<Option, bool> needed,
        long list,
        Configuration? given = null
    )
    {
        List<Answer?> Ways(Option question) =>
            given?[question.Key] is { } fixedAnswer ? [fixedAnswer is Answer.None ? null : fixedAnswer]
            : needed(question) ? [.. Allowed(question)]
            : [null, .. Allowed(question)];
        var ways = tied.Select(Ways).ToList();
        if (ways.Exists(w => w.Count == 0) || ways.Aggregate(1L, (n, w) => Math.Min(MostTogether + 1, n * w.Count)) > MostTogether)
            return [.. tied.Select((q, i) => (q, needed(q) ? ways[i].FirstOrDefault() : given?[q.Key]))];
        IEnumerable<ImmutableArray<Answer?>> together =
        [
            [],
        ];
        foreach (var way in ways)
            together = together.SelectMany(a => way.Select(a.Add));
        var best = together.Where(a => Way(tied, a, list) is not null).MinBy(a => Way(tied, a, list) is { } way ? way.Adds + way.Once : 0);
        return [.. tied.Select((q, i) => (q, best.IsDefault ? ways[i][0] : best[i]))];
    }

    /// <summary>What an answer adds; null where it cannot be priced.</summary>
    /// <param name="question">What is asked.</param>
    /// <param name="answer">What was answered.</param>
    /// <param name="column">The answer to the question that its table looks at besides; null while that has none.</param>
    /// <param name="list">Of one unit, in minor units.</param>
    private static long? Adds(Option question, Answer answer, Answer? column, long list)
    {
        if (question.Surcharge is not { } surcharge)
            return 0;
        if (surcharge is Surcharge.Table { By: { } by } table)
            return column is not Answer.Number second ? 0
                : answer is Answer.Number first && table.Look(first.Size, second.Size) is { } amount ? MinorUnits.Of(amount)
                : null;
        if (surcharge is Surcharge.Table rows)
            return answer is Answer.Number n && rows.Look(n.Size, 0) is { } found ? MinorUnits.Of(found) : null;
        // What cannot be charged at all is refused.
        if (
            surcharge is Surcharge.PerMeasure measure
            && answer is Answer.Number size
            && Math.Abs(measure.Rate.Amount * size.Size) > Money.Most
        )
            return null;
        return surcharge is Surcharge.Percent p ? ConfigurationCost.Share(list, p.Rate)
            : AnswerPricing.OfQuestion(question, surcharge, answer, Configuration.Empty, default) is { } money ? MinorUnits.Of(money)
            : 0;
    }

    /// <summary>The answers to the question that a table looks at besides; none where it may be left out.</summary>
    private IEnumerable<Answer?> Columns(Option by) => by.Required ? Allowed(by) : Allowed(by).Cast<Answer?>().Prepend(null);

    private Option? Find(Key key) => questions.FirstOrDefault(q => q.Key == key);

    /// <summary>The answers that are looked at.</summary>
    private ImmutableArray<Answer> Allowed(Option question)
    {
        if (!_allowed.TryGetValue(question.Key, out var allowed))
            _allowed[question.Key] = allowed = question.Ask switch
            {
                Ask.Text => [.. Texts(question)],
                Ask.Number => [.. Numbers(question)],
                Ask.Date => [.. Days(question)],
                _ => [],
            };
        return allowed;
    }

    /// <summary>The shortest and the longest text.</summary>
    private IEnumerable<Answer> Texts(Option question)
    {
        var letter = question.Characters?.FirstOrDefault(c => !char.IsWhiteSpace(c)) is { } c and not '\0' ? c : 'x';
        var longest = question.MaxLength ?? Option.LongestText;
        var isListed = all && question.Surcharge is Surcharge.PerCharacter;
        IsWhole &= !isListed || longest <= MostListed;
        var lengths = isListed ? Enumerable.Range(1, Math.Min(longest, MostListed)).Append(longest) : [1, longest];
        return lengths.Where(n => n >= 1).Distinct().Select(n => new Answer.Text(new string(letter, n)));
    }

    /// <summary>The first day that is allowed.</summary>
    private IEnumerable<Answer> Days(Option question)
    {
        var first = today.AddDays(question.Date.EarliestInDays ?? 0);
        return Enumerable
            .Range(0, 7)
            .Select(first.AddDays)
            .Where(day => AnswerLimits.Problem(question, new Answer.Date(day), today) is null)
            .Take(1)
            .Select(day => new Answer.Date(day));
    }

    private IEnumerable<Answer> Numbers(Option question)
    {
        var (low, high) = (question.Number.Min ?? -Option.LargestNumber, question.Number.Max ?? Option.LargestNumber);
        var bounds = questions
            .Select(q => q.Surcharge)
            .OfType<Surcharge.Table>()
            .SelectMany(t => t.By == question.Key ? t.Rows.SelectMany(r => r.Columns).Select(c => c.Max) : [])
            .Concat(question.Surcharge is Surcharge.Table own ? own.Rows.Select(r => r.Max) : []);
        return Steps(question, low, high)
            .Concat(bounds)
            .Where(b => b >= low && b <= high)
            .SelectMany(b => new[] { AtMost(question, b), AtLeast(question, b + Behind) })
            .Append(AtLeast(question, low))
            .Append(AtMost(question, high))
            .Append(AtLeast(question, Math.Clamp(0, low, high)))
            .Distinct()
            .Select(n => new Answer.Number(n))
            .Where(a => AnswerLimits.Problem(question, a, today) is null);
    }

    /// <summary>Every number that is priced by measure, where all are looked at.</summary>
    private IEnumerable<decimal> Steps(Option question, decimal low, decimal high)
    {
        if (!all || question.Surcharge is not Surcharge.PerMeasure)
            return [];
        IsWhole &= question.Number.Step is { } by && (high - low) / by < MostListed;
        return question.Number.Step is { } step ? Enumerable.Range(0, MostListed).Select(i => low + i * step) : [];
    }

    /// <summary>The largest number of its steps up to a bound.</summary>
    private static decimal AtMost(Option question, decimal bound) =>
        question.Number.Step is { } step ? Start(question) + Math.Floor((bound - Start(question)) / step) * step : bound;

    /// <summary>The smallest number of its steps from a bound on.</summary>
    private static decimal AtLeast(Option question, decimal bound) =>
        question.Number.Step is { } step ? Start(question) + Math.Ceiling((bound - Start(question)) / step) * step : bound;

    private static decimal Start(Option question) => question.Number.Min ?? 0;
}
