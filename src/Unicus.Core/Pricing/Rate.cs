namespace Unicus.Core.Pricing;

/// <summary>A reduction of a percentage, on whole minor units: round(x·(100−p)/100), half up, without fractions in between.</summary>
/// <remarks>A percentage off is computed as what remains (domain.md, section 1).</remarks>
internal readonly struct Rate
{
    private readonly long _keeps;
    private readonly long _of;

    /// <summary>Most amounts are below this and leave room for the product in 64 bits.</summary>
    private readonly long _small;

    /// <param name="percent">Above 0 and at most 100, with at most 12 decimal places.</param>
    public Rate(decimal percent)
    {
        var (keeps, of) = (100 - percent, 100m);
        while (keeps != decimal.Truncate(keeps))
            (keeps, of) = (keeps * 10, of * 10);
        (_keeps, _of) = ((long)keeps, (long)of);
        _small = long.MaxValue / 4 / _of;
    }

    /// <summary>What remains of an amount of 0 or more.</summary>
    public long Remains(long amount)
    {
        // Most percentages are whole, and dividing by a number that is known beforehand takes a fraction of the time.
        if (amount < _small)
            return _of == 100 ? (2 * amount * _keeps + 100) / 200 : (2 * amount * _keeps + _of) / (2 * _of);
        return (long)((2 * (Int128)amount * _keeps + _of) / (2 * (Int128)_of));
    }
}
