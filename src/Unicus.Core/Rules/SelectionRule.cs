namespace Unicus.Core.Rules;

using System.Collections.Immutable;
using Unicus.Core.Options;

/// <summary>What must hold for a rule to act. Every comparison is false on an open or hidden question.</summary>
public abstract record Condition
{
    private Condition() { }

    /// <summary>The answer is one of these values; for several of a list: any of them is ticked.</summary>
    public sealed record Is(Key Question, ImmutableArray<Key> Values) : Condition;

    /// <summary>There is an answer at all.</summary>
    public sealed record Answered(Key Question) : Condition;

    /// <summary>A number is at least a bound.</summary>
    public sealed record AtLeast(Key Question, decimal Bound) : Condition;

    /// <summary>A number is at most a bound.</summary>
    public sealed record AtMost(Key Question, decimal Bound) : Condition;

    /// <summary>True of nothing at all.</summary>
    public sealed record All(ImmutableArray<Condition> Of) : Condition;

    /// <summary>False of nothing at all.</summary>
    public sealed record Any(ImmutableArray<Condition> Of) : Condition;

    /// <summary>The other does not hold.</summary>
    public sealed record Not(Condition Of) : Condition;

    /// <summary>Always.</summary>
    public static Condition Always { get; } = new All([]);

    /// <summary>The questions that it looks at, each once.</summary>
    public IEnumerable<Key> Questions => Leaves.Select(c => c.Asked).Distinct();

    /// <summary>The comparisons that it is made of.</summary>
    internal IEnumerable<Condition> Leaves =>
        this switch
        {
            All a => a.Of.SelectMany(c => c.Leaves),
            Any a => a.Of.SelectMany(c => c.Leaves),
            Not n => n.Of.Leaves,
            _ => [this],
        };

    private Key Asked =>
        this switch
        {
            Is i => i.Question,
            Answered a => a.Question,
            AtLeast l => l.Question,
            AtMost m => m.Question,
            _ => throw new InvalidOperationException("A kind of condition without a question of its own."),
        };

    /// <summary>The same condition about other values.</summary>
    /// <param name="becomes">For a question and a value of it the value that takes its place, or the same.</param>
    public Condition Following(Func<Key, Key, Key> becomes) =>
        this switch
        {
            Is i => i with { Values = [.. i.Values.Select(v => becomes(i.Question, v)).Distinct()] },
            All a => new All([.. a.Of.Select(c => c.Following(becomes))]),
            Any a => new Any([.. a.Of.Select(c => c.Following(becomes))]),
            Not n => new Not(n.Of.Following(becomes)),
            _ => this,
        };
}

/// <summary>What a rule does while its condition holds.</summary>
public abstract record Effect
{
    private Effect() { }

    /// <summary>These questions are hidden; wins over showing.</summary>
    public sealed record Hide(ImmutableArray<Key> Questions) : Effect;

    /// <summary>These questions are hidden unless one of the rules that show them holds.</summary>
    public sealed record Show(ImmutableArray<Key> Questions) : Effect;

    /// <summary>These questions need an answer while they are shown.</summary>
    public sealed record Require(ImmutableArray<Key> Questions) : Effect;

    /// <summary>These values cannot be picked.</summary>
    public sealed record Forbid(Key Question, ImmutableArray<Key> Values) : Effect;

    /// <summary>No other value may be picked; this never forces an answer.</summary>
    public sealed record AllowOnly(Key Question, ImmutableArray<Key> Values) : Effect;

    /// <inheritdoc cref="Condition.Following"/>
    public Effect Following(Func<Key, Key, Key> becomes) =>
        this switch
        {
            Forbid f => f with { Values = [.. f.Values.Select(v => becomes(f.Question, v)).Distinct()] },
            AllowOnly a => a with { Values = [.. a.Values.Select(v => becomes(a.Question, v)).Distinct()] },
            _ => this,
        };

    /// <summary>The questions that it acts on.</summary>
    public ImmutableArray<Key> Targets =>
        this switch
        {
            Hide h => h.Questions,
            Show s => s.Questions,
            Require r => r.Questions,
            Forbid f => [f.Question],
            AllowOnly a => [a.Question],
            _ => throw new InvalidOperationException("A kind of effect without questions."),
        };
}

/// <summary>“When … then …” over answers.</summary>
public sealed record SelectionRule(Key Key, Condition When, ImmutableArray<Effect> Then)
{
    /// <summary>Whether it is switched off: kept, but never acts.</summary>
    public bool Off { get; init; }

    /// <summary>The rule after a value was merged into another: it names the one that stays.</summary>
    /// <returns>The very same rule where it does not name the value.</returns>
    public SelectionRule Following(Key question, Key from, Key into)
    {
        var names = false;
        Key Becomes(Key q, Key value)
        {
            if (q != question || value != from)
                return value;
            names = true;
            return into;
        }
        var after = this with { When = When.Following(Becomes), Then = [.. Then.Select(t => t.Following(Becomes))] };
        return names ? after : this;
    }

    /// <summary>The key of the shared set that it comes from; null where it is the product's own.</summary>
    public Key? FromSet { get; init; }

    /// <summary>Whether nobody wrote it: it says what parts are not made for a value of the set.</summary>
    public bool IsNotMade { get; init; }
}
