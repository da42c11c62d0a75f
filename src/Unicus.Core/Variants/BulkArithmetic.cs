namespace Unicus.Core.Variants;

using System.Collections.Immutable;
using Unicus.Core.Money;

/// <summary>What is done to a figure of many variants.</summary>
public enum BulkOperation
{
    /// <summary>Every variant gets the amount.</summary>
    Set,

    /// <summary>The amount is added.</summary>
    Add,

    /// <summary>The amount is subtracted.</summary>
    Subtract,

    /// <summary>The percentage of the figure is added; below 0 it falls.</summary>
    Percent,

    /// <summary>Another figure of the same variant is taken.</summary>
    Copy,

    /// <summary>The figure is rounded to the ending alone.</summary>
    Round,

    /// <summary>A total is split evenly, the remainder with the first.</summary>
    Split,

    /// <summary>The variant's own figure is taken out, so that it is inherited again.</summary>
    Clear,
}

/// <summary>The ending that amounts are brought to.</summary>
/// <param name="Amount">At least 0 and below 100: 0.50 ends units, 9.99 tens, 49.00 hundreds.</param>
/// <param name="Down">Whether it is reached downwards.</param>
public readonly record struct PriceEnding(decimal Amount, bool Down)
{
    /// <summary>The next amount, at or above this one, that ends so: 178.00 up to 0.50 is 178.50; 183.60 up to 9.99 is 189.99.</summary>
    /// <returns>Downwards never below 0, where the amount stays as it is.</returns>
    public decimal Of(decimal amount)
    {
        var step =
            Amount < 1 ? 1m
            : Amount < 10 ? 10m
            : 100m;
        var near = Math.Floor(amount / step) * step + Amount;
        if (!Down)
            return near >= amount ? near : near + step;
        if (near <= amount)
            return near;
        return near >= step ? near - step : amount;
    }
}

/// <summary>A change of one figure of many variants.</summary>
/// <param name="Operation">What is done to each figure.</param>
/// <param name="Amount">An amount, a percentage, or a total to split; not looked at by a copy, a rounding and a clearing.</param>
/// <param name="Ending">Null: amounts stay as reckoned.</param>
/// <param name="Decimals">Places to which a percentage and shares are rounded.</param>
public sealed record BulkArithmetic(BulkOperation Operation, decimal Amount, PriceEnding? Ending, int Decimals)
{
    /// <summary>The new figure of one variant.</summary>
    /// <param name="old">The figure in force; null: none.</param>
    /// <param name="source">The figure to copy.</param>
    /// <param name="share">The variant's share of a total.</param>
    /// <returns>Null: none of its own. May be below 0, which nobody should take.</returns>
    public decimal? Of(decimal? old, decimal? source, decimal share)
    {
        var changed = Operation switch
        {
            BulkOperation.Set => Amount,
            BulkOperation.Add => old + Amount,
            BulkOperation.Subtract => old - Amount,
            BulkOperation.Percent => old + Math.Round((old ?? 0) * Amount / 100, Decimals, MidpointRounding.AwayFromZero),
            BulkOperation.Copy => source,
            BulkOperation.Round => old,
            BulkOperation.Split => share,
            _ => null,
        };
        return changed is { } c && Ending is { } ending ? ending.Of(c) : changed;
    }

    /// <summary>The shares of a total that is split evenly over so many variants; they add up to it.</summary>
    public ImmutableArray<decimal> Shares(int count)
    {
        var unit = new decimal(1, 0, 0, false, (byte)Decimals);
        return [.. Allocation.SplitEvenly((long)(Amount / unit), count).Select(s => s * unit)];
    }
}
