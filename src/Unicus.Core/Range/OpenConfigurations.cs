namespace Unicus.Core.Range;

using Unicus.Core.Options;
using Unicus.Core.Products;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>The valid configurations of some questions of a product, the others left open.</summary>
/// <param name="edition">The product.</param>
/// <param name="matters">Whether a question is gone through; those that rules name are in any case.</param>
internal sealed class OpenConfigurations(Edition edition, Func<Option, bool> matters)
{
    /// <summary>Configurations that are looked at.</summary>
    public const int MostLooked = 4_000;

    /// <summary>Of several of a list, so many values are ticked in every way.</summary>
    private const int MostTicked = 10;

    /// <summary>Whether all were given, as far as they were asked for.</summary>
    public bool IsWhole { get; private set; } = true;

    private Configurator Configurator => edition.Configurator;

    /// <summary>Each with the variant that it decides and the answers that count.</summary>
    public IEnumerable<(MatrixVariant Variant, Configuration Shown)> Of(Configuration given)
    {
        var named = Configurator.Book.Acting.SelectMany(r => r.When.Questions.Concat(r.Then.SelectMany(t => t.Targets))).ToHashSet();
        var questions = Configurator
            .Questions.Where(q => q.IsPicked && (q.Role == OptionRole.Variant || named.Contains(q.Key) || matters(q)))
            .ToList();
        if (questions.Any(q => q.Ask == Ask.Several && q.Values.Length > MostTicked))
            IsWhole = false;
        var looked = 0;
        foreach (var answers in Walk(given, questions, 0))
        {
            if (looked++ >= MostLooked)
            {
                IsWhole = false;
                yield break;
            }
            if (Configurator.Decided(Configurator.Answer(answers)) is { } variant)
                yield return (variant, Configurator.Shown(answers));
        }
    }

    private IEnumerable<Configuration> Walk(Configuration given, List<Option> questions, int at)
    {
        if (at == questions.Count)
        {
            yield return given;
            yield break;
        }
        var question = questions[at];
        foreach (var answer in given[question.Key] is null ? AnswersTo(question) : [null])
        {
            var with = answer is null ? given : given.With(question.Key, answer);
            if (!Configurator.Rules.IsValid(with))
                continue;
            foreach (var deeper in Walk(with, questions, at + 1))
                yield return deeper;
        }
    }

    private static IEnumerable<Answer?> AnswersTo(Option question)
    {
        if (question.Role == OptionRole.Extra)
            yield return new Answer.None();
        if (question.Ask != Ask.Several)
        {
            foreach (var value in question.Values)
                yield return new Answer.Value(value.Key);
            yield break;
        }
        var count = Math.Min(question.Values.Length, MostTicked);
        for (var bits = 1; bits < 1 << count; bits++)
            yield return new Answer.Ticks([.. question.Values.Take(count).Where((_, i) => (bits >> i & 1) == 1).Select(v => v.Key)]);
    }
}
