namespace Unicus.Core.Products;

using System.Collections.Immutable;
using Unicus.Core.Options;
using Unicus.Core.Rules;
using Unicus.Core.Variants;

/// <summary>What follows from answers by the rules alone.</summary>
/// <param name="Reply">What the rules say.</param>
/// <param name="Shown">The answers that count.</param>
/// <param name="Variant">The one that is decided; null while there are several, or none.</param>
/// <param name="Open">The needed questions that have no answer yet.</param>
internal sealed record AnswersLook(RulesReply Reply, Configuration Shown, MatrixVariant? Variant, ImmutableArray<Option> Open)
{
    public static AnswersLook Of(Configurator configurator, Configuration given)
    {
        var reply = configurator.Answer(given);
        return new AnswersLook(
            reply,
            configurator.Shown(given),
            configurator.Decided(reply),
            [.. reply.Questions.Where(IsOpen).Select(q => q.Question)]
        );
    }

    private static bool IsOpen(QuestionReply q) =>
        q is { Shown: true, Required: true, Answer: null or Answer.None }
        && (q.Question.Role == OptionRole.Extra || q.Possible.Count(p => p) != 1);
}
