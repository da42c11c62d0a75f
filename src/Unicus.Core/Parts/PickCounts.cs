namespace Unicus.Core.Parts;

/// <summary>How many candidates may fill a slot: none where it may stay empty, otherwise from the fewest to the most (domain.md, answers
/// of several).</summary>
/// <param name="MayBeNone">Whether it may stay empty.</param>
/// <param name="Fewest">Once anything is picked; 1 or more.</param>
/// <param name="Most">No less than <paramref name="Fewest"/> where the slot can be filled at all.</param>
internal readonly record struct PickCounts(bool MayBeNone, int Fewest, int Most)
{
    /// <summary>The counts of a slot.</summary>
    /// <param name="slot">The slot.</param>
    /// <param name="all">How many candidates there are.</param>
    public static PickCounts Of(Slot slot, int all) =>
        slot.Picks is { } limits ? new(slot.Optional, Math.Max(1, limits.Min), limits.Max ?? Math.Max(1, all)) : new(slot.Optional, 1, 1);

    /// <summary>Just so many.</summary>
    public static PickCounts Just(int count) => count == 0 ? new(true, 1, 0) : new(false, count, count);

    /// <summary>The fewest of all.</summary>
    public int Least => MayBeNone ? 0 : Fewest;

    /// <summary>Whether so many may be picked.</summary>
    public bool Allows(int count) => count == 0 ? MayBeNone : count >= Fewest && count <= Most;
}
