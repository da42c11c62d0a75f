namespace Unicus.Core.Assembling.Counts;

using System.Collections.Immutable;
using Unicus.Core.Range;

/// <summary>How many sets can be sold (domain.md, section 6).</summary>
/// <param name="IsOpen">Whether a pick is open, so that nothing is said of given picks.</param>
/// <param name="Available">With the given picks; null while one is open, or without limit.</param>
/// <param name="Most">Over all mixes of open picks; null where nothing limits.</param>
/// <param name="IsExact">Whether <paramref name="Most"/> is the largest for certain; otherwise at least so many can be sold.</param>
/// <param name="RunsOut">What would run short if one set more were asked for, in the order of the slots; empty while a pick is
/// open.</param>
public sealed record SetCounts(bool IsOpen, long? Available, long? Most, bool IsExact, ImmutableArray<VariantOnSale> RunsOut)
{
    /// <summary>Counts; null for a product whose parts are not sold together.</summary>
    public static SetCounts? Of(ConfigurationStatus status)
    {
        if (status.Assembled is not { } assembled)
            return null;
        var isOpen = status.Variant is null || !assembled.IsDecided && assembled.Problem is null || !status.Reply.Valid;
        if (isOpen)
        {
            var (most, isExact) = MixOfPicks.Most(status);
            return new SetCounts(true, null, most, isExact, []);
        }
        if (!status.Needs.Ok)
            return new SetCounts(false, 0, 0, true, []);
        var needs = status.Needs.Value;
        var available = SetDemand.Most(needs, status.Stock.CapacityOf);
        ImmutableArray<VariantOnSale> shortage = available is { } sets
            ? [.. SetDemand.RunsOut(needs, sets, status.Stock.CapacityOf).Select(t => t.Goods)]
            : [];
        return new SetCounts(false, available, available, true, shortage);
    }
}
