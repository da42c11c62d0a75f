using System.Collections.Immutable;

namespace Unicus.Web.Api;

/// <summary>What a call takes and replies, as <c>/openapi/v1.json</c> says it.</summary>
/// <param name="Summary">One sentence.</param>
public sealed record DescribedCall(string Summary)
{
    /// <summary>The schema of its body; null where it takes none.</summary>
    public string? Body { get; init; }

    /// <summary>Whether it may come without its body.</summary>
    public bool MayLackBody { get; init; }

    /// <summary>The schemas of its replies by status; null for a reply without a body.</summary>
    public ImmutableSortedDictionary<int, string?> Replies { get; init; } = ImmutableSortedDictionary<int, string?>.Empty;

    /// <summary>Why it refuses, by status, besides what every call may reply.</summary>
    public ImmutableSortedDictionary<int, string> Refusals { get; init; } = ImmutableSortedDictionary<int, string>.Empty;

    /// <summary>The schema of what it replies where it refuses with 409.</summary>
    public string Problem { get; init; } = "Problem";

    /// <summary>Whether its replies carry an entity tag, which <c>If-Match</c> of a call that changes something asks for.</summary>
    public bool IsTagged { get; init; }

    /// <summary>Whether it honours <c>Idempotency-Key</c>.</summary>
    public bool IsRepeatable { get; init; }
}

/// <summary>Says of calls what they take and reply.</summary>
public static class DescribingCalls
{
    /// <summary>Describes a call in a sentence and adds to it what else there is to say.</summary>
    public static RouteHandlerBuilder Describe(this RouteHandlerBuilder call, string summary, Func<DescribedCall, DescribedCall> more) =>
        call.WithMetadata(more(new DescribedCall(summary)));

    /// <summary>It takes a body of this schema.</summary>
    public static DescribedCall Takes(this DescribedCall call, string schema) => call with { Body = schema };

    /// <summary>It takes a body of this schema, or none.</summary>
    public static DescribedCall MayTake(this DescribedCall call, string schema) => call with { Body = schema, MayLackBody = true };

    /// <summary>It replies a body of this schema; without one where there is none.</summary>
    public static DescribedCall Gives(this DescribedCall call, int status, string? schema = null) =>
        call with
        {
            Replies = call.Replies.Add(status, schema),
        };

    /// <summary>It refuses for this reason.</summary>
    public static DescribedCall Refuses(this DescribedCall call, int status, string why) =>
        call with
        {
            Refusals = call.Refusals.Add(status, why),
        };

    /// <summary>Its replies carry an entity tag; where it changes something it honours <c>If-Match</c>.</summary>
    public static DescribedCall Tagged(this DescribedCall call) => call with { IsTagged = true };

    /// <summary>It honours <c>Idempotency-Key</c>.</summary>
    public static DescribedCall Repeatable(this DescribedCall call) => call with { IsRepeatable = true };
}
