namespace Unicus.Core.Pricing;

/// <summary>Allocation of whole minor units (domain.md, section 1), for reckoning inside.</summary>
internal static class Sharing
{
    /// <summary>Shares a total of 0 or more over weights of 0 or more by largest remainders, the earlier first on a tie.</summary>
    /// <returns>They add up to the total. Where all weights are 0, every weight counts as 1.</returns>
    public static long[] Of(long total, long[] weights)
    {
        var sum = weights.Sum();
        if (sum == 0)
            return Of(total, [.. weights.Select(_ => 1L)]);
        var shares = new long[weights.Length];
        var remainders = new long[weights.Length];
        var missing = total;
        for (var i = 0; i < weights.Length; i++)
        {
            var exact = (Int128)total * weights[i];
            shares[i] = (long)(exact / sum);
            remainders[i] = (long)(exact % sum);
            missing -= shares[i];
        }
        if (missing > 0)
            foreach (var i in Enumerable.Range(0, weights.Length).OrderByDescending(i => remainders[i]).Take((int)missing))
                shares[i]++;
        return shares;
    }
}
