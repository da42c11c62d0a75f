namespace Unicus.Core.Rules;

/// <summary>Puts questions that rules tie together near each other, since the size of a diagram depends on that.</summary>
/// <remarks>
/// FORCE (Aloul, Markov, Sakallah, “FORCE: a fast and easy-to-implement variable-ordering heuristic”, 2003, from memory): every question
/// moves to the mean of the centres of the ties it is in, again and again; the arrangement with the smallest sum of spans is taken, the
/// page's own order among them.
/// </remarks>
internal static class QuestionOrder
{
    private const int Rounds = 60;

    /// <param name="count">How many questions there are.</param>
    /// <param name="ties">The questions that each rule looks at or acts on, two at least.</param>
    /// <returns>The questions in the order of their levels.</returns>
    public static int[] Of(int count, IReadOnlyList<int[]> ties)
    {
        var order = Enumerable.Range(0, count).ToArray();
        var (best, span) = (order, Span(order, ties));
        for (var round = 0; round < Rounds; round++)
        {
            var place = Places(order);
            var (sum, weight) = (new double[count], new int[count]);
            foreach (var tie in ties)
            {
                var centre = tie.Average(q => place[q]);
                foreach (var q in tie)
                {
                    sum[q] += centre;
                    weight[q]++;
                }
            }
            var next = order.OrderBy(q => weight[q] == 0 ? place[q] : sum[q] / weight[q]).ToArray();
            if (next.SequenceEqual(order))
                break;
            order = next;
            if (Span(order, ties) is var s && s < span)
                (best, span) = (order, s);
        }
        return best;
    }

    private static long Span(int[] order, IReadOnlyList<int[]> ties)
    {
        var place = Places(order);
        return ties.Sum(t => (long)t.Max(q => place[q]) - t.Min(q => place[q]));
    }

    private static int[] Places(int[] order)
    {
        var place = new int[order.Length];
        for (var i = 0; i < order.Length; i++)
            place[order[i]] = i;
        return place;
    }
}
