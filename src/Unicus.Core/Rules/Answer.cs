namespace Unicus.Core.Rules;

using System.Collections.Immutable;
using Unicus.Core.Options;

/// <summary>What was picked or typed for one question. An absent answer is an open question.</summary>
public abstract record Answer
{
    private Answer() { }

    /// <summary>Deliberately none.</summary>
    public sealed record None : Answer;

    /// <summary>One value of a list.</summary>
    public sealed record Value(Key Key) : Answer;

    /// <summary>At least one value of a list.</summary>
    public sealed record Ticks(ImmutableArray<Key> Keys) : Answer
    {
        /// <summary>Whether the same values are ticked, in any order.</summary>
        public bool Equals(Ticks? other) => other is not null && Keys.ToHashSet().SetEquals(other.Keys);

        /// <inheritdoc/>
        public override int GetHashCode() => Keys.Length;
    }

    /// <summary>A text as typed.</summary>
    public sealed record Text(string Words) : Answer;

    /// <summary>A number.</summary>
    public sealed record Number(decimal Size) : Answer;

    /// <summary>A day.</summary>
    public sealed record Date(DateOnly Day) : Answer;
}

/// <summary>All answers given, in the order they were given; the last ones are the first to be changed where they cannot stand
/// together.</summary>
public sealed record Configuration(ImmutableArray<(Key Question, Answer Answer)> Given)
{
    /// <summary>No answers.</summary>
    public static Configuration Empty { get; } = new([]);

    /// <summary>The values of a variant as answers.</summary>
    public static Configuration Of(Combination values) => new([.. values.Pairs.Select(p => (p.Option, (Answer)new Answer.Value(p.Value)))]);

    /// <summary>The answer to a question; null while it is open.</summary>
    public Answer? this[Key question]
    {
        get
        {
            foreach (var (key, answer) in Given)
                if (key == question)
                    return answer;
            return null;
        }
    }

    /// <summary>The same with one answer given last, in place of a former one to its question.</summary>
    public Configuration With(Key question, Answer answer) => new(Without(question).Given.Add((question, answer)));

    /// <summary>The configuration without the answer to a question.</summary>
    public Configuration Without(Key question) => new(Given.RemoveAll(g => g.Question == question));
}
