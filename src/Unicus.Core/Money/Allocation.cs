namespace Unicus.Core.Money;

/// <summary>Sharing a total out so that the shares always add up to it exactly.</summary>
public static class Allocation
{
    /// <summary>Shares <paramref name="total"/> over lines in proportion to their weights.</summary>
    /// <param name="total">May be negative.</param>
    /// <param name="weights">One a line, none negative, at least one line. Where all are 0, every weight counts as 1.</param>
    /// <returns>One share a line, in the order of the weights; they add up to <paramref name="total"/>.</returns>
    /// <remarks>
    /// Each exact share is rounded toward zero; the missing smallest units go one each to the lines with the largest
    /// remainders, the earlier line first on a tie.
    /// </remarks>
    /// <exception cref="ArgumentException">There is no line, or a weight is negative.</exception>
    public static IReadOnlyList<Money> Share(Money total, IReadOnlyList<decimal> weights)
    {
        if (weights.Count == 0)
            throw new ArgumentException("A total is shared over at least one line.", nameof(weights));
        if (weights.Any(w => w < 0))
            throw new ArgumentException("A weight is not negative.", nameof(weights));
        var sum = weights.Sum();
        var even = sum == 0;
        if (even)
            sum = weights.Count;

        // In smallest units, as whole numbers and exact remainders over the common denominator.
        var smallest = total.Currency.SmallestUnit;
        var units = total.Amount / smallest;
        var sign = units < 0 ? -1 : 1;
        var shares = new decimal[weights.Count];
        var remainders = new decimal[weights.Count];
        for (var i = 0; i < shares.Length; i++)
        {
            var scaled = Math.Abs(units) * (even ? 1 : weights[i]);
            shares[i] = decimal.Truncate(scaled / sum);
            remainders[i] = scaled - shares[i] * sum;
        }
        var missing = (int)(Math.Abs(units) - shares.Sum());
        foreach (var i in Enumerable.Range(0, shares.Length).OrderByDescending(i => remainders[i]).ThenBy(i => i).Take(missing))
            shares[i] += 1;
        return [.. shares.Select(s => new Money(s * sign * smallest, total.Currency))];
    }

    /// <summary>Splits whole units as evenly as can be; the remainder goes to the first.</summary>
    /// <remarks>Common practice, no source: 10 over 3 is 4, 3, 3 with the remainder of 1 at the first; 11 is 5, 3, 3.</remarks>
    /// <exception cref="ArgumentOutOfRangeException"><paramref name="ways"/> is below 1.</exception>
    public static IReadOnlyList<long> SplitEvenly(long units, int ways)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(ways, 1);
        var each = units / ways;
        return [.. Enumerable.Range(0, ways).Select(i => i == 0 ? units - each * (ways - 1) : each)];
    }
}
