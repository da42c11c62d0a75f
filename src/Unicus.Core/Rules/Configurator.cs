using System.Collections.Immutable;
using System.Numerics;

namespace Unicus.Core;

/// <summary>What is given for one option: open (absent), or a value.</summary>
public sealed record Answers(ImmutableDictionary<Key, Key> Given)
{
    public static Answers None { get; } = new(ImmutableDictionary<Key, Key>.Empty);

    public static Answers Of(Combination combination) => new(combination.Pairs.ToImmutableDictionary(p => p.Option, p => p.Value));

    public Answers With(Key option, Key value) => new(Given.SetItem(option, value));
}

/// <summary>What a question looks like with the answers given.</summary>
/// <param name="Possible">One flag a value, in the order of the values.</param>
/// <param name="Alone">The one value left when no other is possible, so that the question answers itself; else null.</param>
public sealed record QuestionState(Option Option, Key? Answer, ImmutableArray<bool> Possible, Key? Alone);

/// <summary>A subset-minimal set of answers that cannot stand together.</summary>
public sealed record Conflict(ImmutableArray<Key> Answers, bool NotMade);

/// <summary>The engine's whole reply to a set of answers.</summary>
/// <param name="Count">How many valid complete configurations agree with the answers.</param>
/// <param name="Complete">Whether every question is answered and the whole is valid.</param>
/// <param name="Agreeing">The numbers of the made combinations that agree.</param>
public sealed record ConfigurationState(
    ImmutableArray<QuestionState> Questions, BigInteger Count, bool Complete, Conflict? Conflict, IReadOnlyList<int> Agreeing)
{
    public bool Valid => Count > 0;
}

/// <summary>Answers exactly what may still be picked, why not, and how many configurations remain.</summary>
/// <remarks>
/// While a product has variant options only, its valid configurations are its offered combinations; they are kept as one array of
/// numbers per product and scanned once per answer. See the folder's README.
/// </remarks>
public sealed class Configurator
{
    private readonly MadeSet _made;
    private readonly int[] _offered;

    /// <param name="offered">The numbers of the combinations that are made and not retired, ascending.</param>
    public Configurator(MadeSet made, IEnumerable<int> offered) => (_made, _offered) = (made, [.. offered]);

    public IReadOnlyList<Option> Options => _made.Options;

    /// <summary>Says what is possible with these answers.</summary>
    /// <exception cref="ArgumentException">An answer names an option or a value that the product does not have.</exception>
    public ConfigurationState Answer(Answers answers)
    {
        var given = Places(answers);
        var possible = Options.Select(o => new bool[o.Values.Length]).ToArray();
        var agreeing = new List<int>();
        foreach (var number in _offered)
        {
            // With one answer differing, the combination still proves its value possible for that one question.
            var differing = -1;
            var differences = 0;
            for (var i = 0; i < given.Length && differences < 2; i++)
                if (given[i] >= 0 && _made.ValueAt(number, i) != given[i]) (differing, differences) = (i, differences + 1);
            if (differences == 0)
            {
                agreeing.Add(number);
                for (var i = 0; i < given.Length; i++) possible[i][_made.ValueAt(number, i)] = true;
            }
            else if (differences == 1)
            {
                possible[differing][_made.ValueAt(number, differing)] = true;
            }
        }
        var questions = Options.Select((option, i) => new QuestionState(option, answers.Given.TryGetValue(option.Key, out var v) ? v : null,
            [.. possible[i]], possible[i].Count(p => p) == 1 ? option.Values[Array.IndexOf(possible[i], true)].Key : null));
        var complete = agreeing.Count > 0 && given.All(g => g >= 0);
        return new ConfigurationState([.. questions], agreeing.Count, complete, agreeing.Count > 0 ? null : Smallest(given), agreeing);
    }

    /// <summary>Why a value cannot be picked beside the answers given to the other questions; null when it can.</summary>
    public Conflict? Why(Answers answers, Key option, Key value)
    {
        var given = Places(answers.With(option, value));
        return Agrees(given) ? null : Smallest(given);
    }

    /// <summary>Drops answers one by one, the earliest first, as int as what remains still cannot stand.</summary>
    private Conflict Smallest(int[] given)
    {
        var kept = (int[])given.Clone();
        for (var i = 0; i < kept.Length; i++)
        {
            if (kept[i] < 0) continue;
            var value = kept[i];
            kept[i] = -1;
            if (Agrees(kept)) kept[i] = value;
        }
        return new Conflict([.. Options.Where((_, i) => kept[i] >= 0).Select(o => o.Key)], NotMade: Options.All(o => o.Values.Length > 0));
    }

    private bool Agrees(int[] given)
    {
        foreach (var number in _offered)
        {
            var agrees = true;
            for (var i = 0; i < given.Length && agrees; i++) agrees = given[i] < 0 || _made.ValueAt(number, i) == given[i];
            if (agrees) return true;
        }
        return false;
    }

    private int[] Places(Answers answers)
    {
        foreach (var (option, _) in answers.Given)
            if (Options.All(o => o.Key != option)) throw new ArgumentException($"There is no option {option}.", nameof(answers));
        return [.. Options.Select(o => !answers.Given.TryGetValue(o.Key, out var value) ? -1
            : o.PlaceOf(value) is >= 0 and var place ? place
            : throw new ArgumentException($"{o.Key} has no value {value}.", nameof(answers)))];
    }
}
