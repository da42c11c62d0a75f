namespace Unicus.Core.Rules;

using System.Collections.Immutable;
using System.Numerics;
using Unicus.Core.Options;

/// <summary>What one question looks like with the answers given.</summary>
/// <param name="Question">What is asked.</param>
/// <param name="Shown">Whether it is asked at all.</param>
/// <param name="Required">Whether it must be answered.</param>
/// <param name="Answer">What was answered; null: nothing yet.</param>
/// <param name="Possible">One flag a value, in order: whether some valid complete configuration has it and agrees with the answers to all
/// other questions. Empty for what is typed.</param>
/// <param name="NonePossible">The same with the question left unanswered while shown.</param>
public sealed record QuestionReply(
    Option Question,
    bool Shown,
    bool Required,
    Answer? Answer,
    ImmutableArray<bool> Possible,
    bool NonePossible
);

/// <summary>The engine's reply to a set of answers.</summary>
/// <param name="Questions">In their order.</param>
/// <param name="Count">How many valid complete configurations agree with every answer given.</param>
/// <param name="Complete">Whether everything shown that needs an answer has one, and the whole is valid.</param>
public sealed record RulesReply(ImmutableArray<QuestionReply> Questions, BigInteger Count, bool Complete)
{
    /// <summary>Whether any valid complete configuration agrees.</summary>
    public bool Valid => Count > 0;
}
