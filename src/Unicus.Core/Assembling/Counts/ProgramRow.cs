namespace Unicus.Core.Assembling.Counts;

/// <summary>A bound on a sum: Σ a·x ≤ most.</summary>
internal sealed record ProgramRow(IReadOnlyDictionary<int, long> Of, long Most)
{
    public static ProgramRow AtMost(int variable, long most) => new(new Dictionary<int, long> { [variable] = 1 }, most);

    public static ProgramRow AtLeast(int variable, long least) => new(new Dictionary<int, long> { [variable] = -1 }, -least);
}
