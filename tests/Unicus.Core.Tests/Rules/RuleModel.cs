using System.Collections.Immutable;

namespace Unicus.CoreTests;

/// <summary>A model of questions and rules.</summary>
internal sealed record RuleModel(ImmutableArray<Option> Questions, ImmutableArray<SelectionRule> Rules, ImmutableArray<Combination> NotMade)
{
    public RuleBook Book => new(Questions, Rules);
    public MadeSet Made => new([.. Questions.Where(q => q.Role == OptionRole.Variant)], NotMade);
}
