namespace Unicus.Core.Variants;

using System.Collections.Immutable;
using Unicus.Core.Options;

/// <summary>What becomes of units on hand when options change.</summary>
public enum StockFate
{
    /// <summary>They go to another SKU.</summary>
    Move,

    /// <summary>They are written off.</summary>
    WriteOff,

    /// <summary>They are counted down to 0, to be counted by variant later.</summary>
    CountLater,

    /// <summary>They are split evenly over several SKUs, the remainder with the first.</summary>
    SplitEvenly,
}

/// <summary>One step of a stock plan; it is done at every location, with all the units there.</summary>
/// <param name="From">The variant that holds the units, as it was before.</param>
/// <param name="Fate">What becomes of the units.</param>
/// <param name="To">The variants that they go to, by their new values; the first keeps its share of a split.</param>
/// <param name="Why">The reason that the movement carries.</param>
/// <param name="MustBeFree">Whether no unit may be allocated to an order.</param>
public sealed record StockStep(VariantStake From, StockFate Fate, ImmutableArray<Combination> To, string Why, bool MustBeFree);

/// <summary>Where every unit goes when options change.</summary>
public static class OptionStockPlan
{
    /// <summary>The steps, in the order in which they are done.</summary>
    /// <param name="before">The variant options before the change.</param>
    /// <param name="difference">What changes.</param>
    /// <param name="decisions">What was decided about what is at stake.</param>
    public static IEnumerable<StockStep> Of(IReadOnlyList<Option> before, MatrixDifference difference, OptionDecisions decisions)
    {
        foreach (var stake in difference.Retired.Concat(difference.Deleted).Where(s => s.OnHand > 0))
            yield return decisions.MoveTo.TryGetValue(stake.Variant.Values.Text, out var to)
                ? new StockStep(stake, StockFate.Move, [to], "A value was removed", MustBeFree: true)
                : new StockStep(stake, StockFate.WriteOff, [], "A value was removed", MustBeFree: true);
        foreach (var merge in difference.Merged)
            foreach (var absorbed in merge.Absorbed)
                yield return new StockStep(absorbed, StockFate.Move, [merge.Values], "Variants were merged", MustBeFree: false);
        foreach (var join in difference.Joined)
            foreach (var joining in join.Joining)
                yield return new StockStep(joining.Stake, StockFate.Move, [join.Holder.Values], "Variants share one SKU", MustBeFree: true);
        if (before.Count == 0 && difference.Kept is [var holder] && ShareOut(holder, difference, decisions.Stock) is { } share)
            yield return share;
    }

    /// <summary>Whether any unit moves at all.</summary>
    /// <param name="before">As they are.</param>
    /// <param name="difference">What changes.</param>
    /// <param name="decisions">What was decided about what is at stake.</param>
    /// <param name="onHand">Units on hand of the whole product.</param>
    public static bool MovesUnits(IReadOnlyList<Option> before, MatrixDifference difference, OptionDecisions decisions, long onHand) =>
        difference.UnitsAtStake > 0
        || difference.Merged.Any(m => m.Absorbed.Any(a => a.OnHand > 0))
        || difference.Joined.Any(j => j.Joining.Any(k => k.Stake.OnHand > 0))
        || (decisions.Stock != StockBeforeOptions.OneValue && before.Count == 0 && onHand > 0);

    private static StockStep? ShareOut(KeptVariant holder, MatrixDifference difference, StockBeforeOptions decision) =>
        decision switch
        {
            StockBeforeOptions.CountLater => new StockStep(
                holder.Stake,
                StockFate.CountLater,
                [],
                "To be counted by variant",
                MustBeFree: false
            ),
            StockBeforeOptions.SplitEvenly => new StockStep(
                holder.Stake,
                StockFate.SplitEvenly,
                [holder.Values, .. difference.New],
                "Stock was split evenly over the variants",
                MustBeFree: false
            ),
            _ => null,
        };
}
