namespace Unicus.Core.Rules;

using System.Collections.Immutable;
using Unicus.Core.Options;

/// <summary>Answers and rules that cannot stand together; without any one of them they can.</summary>
/// <param name="Answers">The answers that it is about.</param>
/// <param name="Rules">The rules that it is about.</param>
/// <param name="NotMade">Whether what is not made takes part.</param>
public sealed record RuleConflict(ImmutableArray<Key> Answers, ImmutableArray<Key> Rules, bool NotMade);

/// <summary>Finds a subset-minimal conflict by leaving out one member after the other.</summary>
/// <remarks>
/// A deletion filter: what can be left out while the rest still cannot stand is left out. First the answers, those given first before those
/// given last, so that the answers given last remain as the ones to change; that needs the finished diagram only. Then the rules, with the
/// few answers left. What is shown under the full rules is background, as are lists, picks and required marks. A typed answer that is left
/// out is open, which can make conditions false; so the filter runs again until nothing more can go. Rules that are too interwoven to be
/// told apart are all named.
/// </remarks>
public static class ConflictFinder
{
    /// <returns>The conflict, or null if the answers can be completed.</returns>
    public static RuleConflict? Find(CompiledRules rules, Configuration given)
    {
        if (rules.IsValid(given))
            return null;
        given = Needed(rules, given);
        try
        {
            return rules.Relaxed.Smallest(given);
        }
        catch (DiagramTooLargeException)
        {
            return new RuleConflict(
                [.. given.Given.Select(g => g.Question)],
                [.. rules.Book.Acting.Where(r => !r.IsNotMade).Select(r => r.Key)],
                rules.Made.Count < rules.Made.Combinations || rules.Book.Acting.Any(r => r.IsNotMade)
            );
        }
    }

    /// <summary>The answers without those that can be left out while all rules stand, the ones given first left out first.</summary>
    private static Configuration Needed(CompiledRules rules, Configuration given)
    {
        for (var before = -1; before != given.Given.Length;)
        {
            before = given.Given.Length;
            foreach (var (question, _) in given.Given)
                if (given.Without(question) is var fewer && !rules.IsValid(fewer))
                    given = fewer;
        }
        return given;
    }

    /// <summary>Why a value is not possible beside the answers to the other questions; null if it is.</summary>
    public static RuleConflict? Why(CompiledRules rules, Configuration given, Key question, Key value)
    {
        if (rules.Book.Find(question) is not { } option || option.Find(value) is null)
            throw new ArgumentException($"{question} has no value {value}.", nameof(value));
        // A value that is wanted is picked, not merely ticked beside what was ticked before.
        return Find(rules, given.With(question, option.Ask == Ask.Several ? new Answer.Ticks([value]) : new Answer.Value(value)));
    }
}
