using System.Collections.Immutable;

namespace Unicus.Core;

/// <summary>What must hold for a rule to act. Every comparison is false on an open or hidden question.</summary>
public abstract record Condition
{
    private Condition() { }

    /// <summary>The answer is one of these values; for several of a list: any of them is ticked.</summary>
    public sealed record Is(Key Question, ImmutableArray<Key> Values) : Condition;

    /// <summary>There is an answer at all.</summary>
    public sealed record Answered(Key Question) : Condition;

    public sealed record AtLeast(Key Question, decimal Bound) : Condition;

    public sealed record AtMost(Key Question, decimal Bound) : Condition;

    /// <summary>True of nothing at all.</summary>
    public sealed record All(ImmutableArray<Condition> Of) : Condition;

    /// <summary>False of nothing at all.</summary>
    public sealed record Any(ImmutableArray<Condition> Of) : Condition;

    public sealed record Not(Condition Of) : Condition;

    /// <summary>Always.</summary>
    public static Condition Always { get; } = new All([]);

    /// <summary>The questions that it looks at, each once.</summary>
    public IEnumerable<Key> Questions => Leaves().Distinct();

    private IEnumerable<Key> Leaves() => this switch
    {
        Is i => [i.Question],
        Answered a => [a.Question],
        AtLeast l => [l.Question],
        AtMost m => [m.Question],
        All a => a.Of.SelectMany(c => c.Leaves()),
        Any a => a.Of.SelectMany(c => c.Leaves()),
        Not n => n.Of.Leaves(),
        _ => throw new InvalidOperationException("A kind of condition without questions."),
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

    public sealed record Forbid(Key Question, ImmutableArray<Key> Values) : Effect;

    /// <summary>No other value may be picked; this never forces an answer.</summary>
    public sealed record AllowOnly(Key Question, ImmutableArray<Key> Values) : Effect;

    /// <summary>The questions that it acts on.</summary>
    public ImmutableArray<Key> Targets => this switch
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

    /// <summary>The key of the shared set that it comes from; null where it is the product's own.</summary>
    public Key? FromSet { get; init; }
}
