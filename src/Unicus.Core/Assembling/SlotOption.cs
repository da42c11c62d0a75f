namespace Unicus.Core.Assembling;

using System.Collections.Immutable;
using Unicus.Core.Options;

/// <summary>One way to fill a slot with one part, in one variant.</summary>
/// <param name="Candidate">What fills the slot.</param>
/// <param name="Low">With the answers and units that come to least.</param>
/// <param name="High">With those that come to most.</param>
/// <param name="Needs">What it takes for one set.</param>
/// <param name="IsExact">Whether both ends are those of some answers.</param>
internal sealed record SlotOption(
    Key Candidate,
    ImmutableArray<FrontPoint> Low,
    ImmutableArray<FrontPoint> High,
    ImmutableArray<LeafNeed> Needs,
    bool IsExact
);
