namespace Unicus.Core.Assembling;

using System.Collections.Immutable;
using Unicus.Core.Options;
using Unicus.Core.Parts;

/// <summary>What the options of a slot come to by candidate, and a set with one more slot.</summary>
internal static class SlotFronts
{
    /// <summary>The cheapest and the dearest of each candidate, whose options stand together.</summary>
    public static List<(long Cheapest, long Dearest)> SumsByCandidate(IEnumerable<SlotOption> options)
    {
        var (ends, last) = (new List<(long Cheapest, long Dearest)>(), default(Key?));
        foreach (var option in options)
        {
            var (low, high) = (option.Low[0].Sum, option.High[0].Sum);
            if (last == option.Candidate)
                ends[^1] = (Math.Min(low, ends[^1].Cheapest), Math.Max(high, ends[^1].Dearest));
            else
                ends.Add((low, high));
            last = option.Candidate;
        }
        return ends;
    }

    /// <summary>An end with one more slot, filled with different candidates.</summary>
    /// <param name="before">As they are.</param>
    /// <param name="candidates">The options of each.</param>
    /// <param name="counts">How many may be picked.</param>
    /// <param name="end">What each candidate comes to.</param>
    /// <param name="front">Makes one of points.</param>
    public static PriceFront Filled(
        PriceFront before,
        List<List<SlotOption>> candidates,
        PickCounts counts,
        Func<SlotOption, ImmutableArray<FrontPoint>> end,
        Func<IEnumerable<FrontPoint>, bool, PriceFront> front
    )
    {
        var isExact = before.IsExact && candidates.TrueForAll(c => c.TrueForAll(o => o.IsExact));
        var ends = candidates.Select(c => front(c.SelectMany(o => end(o)), isExact)).ToList();
        PriceFront With(PriceFront one, PriceFront more) =>
            front(one.Points.SelectMany(p => more.Points.Select(p.With)), one.IsExact && more.IsExact);
        if (counts is { MayBeNone: false, Most: 1 })
        {
            var only = front(ends.SelectMany(e => e.Points), ends.TrueForAll(e => e.IsExact));
            return before.Points is [{ Sum: 0, Gross: 0 }] && before.IsExact ? only : With(before, only);
        }
        // By how many candidates are picked so far.
        var byCount = new PriceFront?[Math.Min(counts.Most, candidates.Count) + 1];
        byCount[0] = before with { IsExact = isExact };
        foreach (var candidate in ends)
            for (var count = byCount.Length - 1; count >= 1; count--)
                if (byCount[count - 1] is { } fewer)
                {
                    var more = With(fewer, candidate);
                    byCount[count] = byCount[count] is { } same
                        ? front([.. same.Points, .. more.Points], same.IsExact && more.IsExact)
                        : more;
                }
        var filled = byCount.Where((_, count) => counts.Allows(count)).OfType<PriceFront>().ToList();
        return front(filled.SelectMany(f => f.Points), filled.TrueForAll(f => f.IsExact));
    }

    /// <summary>The options of each candidate, which stand together.</summary>
    public static List<List<SlotOption>> ByCandidate(IEnumerable<SlotOption> options)
    {
        var candidates = new List<List<SlotOption>>();
        foreach (var option in options)
            if (candidates.Count == 0 || candidates[^1][0].Candidate != option.Candidate)
                candidates.Add([option]);
            else
                candidates[^1].Add(option);
        return candidates;
    }
}
