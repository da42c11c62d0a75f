namespace Unicus.Core.Money;

/// <summary>Something a person can get wrong: where it is and what to do about it.</summary>
/// <param name="Where">A JSON pointer into the document (RFC 6901, as a fragment: <c>#/base/price</c>), or a field's name.</param>
/// <param name="What">A sentence that says what is wrong and what would be right.</param>
public sealed record Fault(string Where, string What)
{
    /// <summary>What goes with it for programs, such as the conflict of answers; null: nothing.</summary>
    public System.Text.Json.Nodes.JsonObject? With { get; init; }
}

/// <summary>What became of a typed text: a value, or the reason why there is none.</summary>
public readonly record struct Read<T>(T? Value, string? Problem)
{
    /// <summary>Whether there is a value.</summary>
    public bool Ok => Problem is null;

    /// <summary>A value that was read.</summary>
    public static Read<T> Of(T? value) => new(value, null);

    /// <summary>Why nothing could be read, in a sentence.</summary>
    public static Read<T> No(string problem) => new(default, problem);
}
