
namespace Unicus.Store;

/// <summary>How a use case ended: done, or refused with every fault at once and nothing written.</summary>
public record Outcome(IReadOnlyList<Fault> Faults)
{
    public bool Done => Faults.Count == 0;
    public static Outcome Ok { get; } = new([]);

    public static Outcome No(string where, string what) => new([new Fault(where, what)]);
}

/// <summary>An outcome that brings something when it is done.</summary>
public sealed record Outcome<T>(T? Result, IReadOnlyList<Fault> Faults) : Outcome(Faults)
{
    public static Outcome<T> Of(T result) => new(result, []);

    public static new Outcome<T> No(string where, string what) => new(default, [new Fault(where, what)]);
}

/// <summary>Who acts, for the ledger and the list of changes.</summary>
public sealed record Actor(string Name)
{
    /// <summary>Names a stay in one field: all that is saved during it is one change. Null where nothing is being typed.</summary>
    public string? Typing { get; init; }

    public static Actor Shopper { get; } = new("shopper");
}
