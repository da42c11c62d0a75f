namespace Unicus.Core.Pricing;

/// <summary>A stretch of time in which a variant has one public price.</summary>
/// <remarks>The public price is that of a unit after stage 3 at quantity 1, without answers, group, coupon or page.</remarks>
/// <param name="From">Its first moment; it lasts until the next stretch begins.</param>
/// <param name="List">The list price, in minor units.</param>
/// <param name="Price">The public price, in minor units; null where it was not on sale.</param>
public readonly record struct PublicPrice(DateTimeOffset From, long List, long? Price)
{
    /// <summary>Whether rules bring it below the list price.</summary>
    public bool IsReduced => Price < List;
}

/// <summary>The was price: the lowest public price of the 30 days before a reduction began.</summary>
/// <remarks>
/// A reduction is an unbroken stretch of time in which the public price is below the list price and does not rise, so that one that
/// grows step by step keeps the was price of its first step (Directive 98/6/EC, Article 6a, inserted by Directive (EU) 2019/2161).
/// Stretches are told from the newest backwards, as long as <see cref="IsOpen"/>.
/// </remarks>
public sealed class PriorPrice
{
    /// <summary>So long before a reduction prices are looked at.</summary>
    public static readonly TimeSpan Before = TimeSpan.FromDays(30);

    /// <summary>The earliest stretch of the reduction that was told so far.</summary>
    private PublicPrice? _reduced;
    private bool _isBefore;

    /// <summary>Whether an earlier stretch may still change what is found.</summary>
    public bool IsOpen { get; private set; } = true;

    /// <summary>The lowest price in minor units; null where nothing is reduced, or it was not on sale before.</summary>
    public long? Found { get; private set; }

    /// <summary>The was price of stretches that follow each other.</summary>
    /// <param name="newestFirst">The first is the one that lasts now.</param>
    public static long? Of(IEnumerable<PublicPrice> newestFirst)
    {
        var prior = new PriorPrice();
        foreach (var stretch in newestFirst)
        {
            prior.Take(stretch);
            if (!prior.IsOpen)
                break;
        }
        return prior.Found;
    }

    /// <summary>Takes the stretch before those that were told.</summary>
    public void Take(PublicPrice stretch)
    {
        if (_reduced is not { } reduced)
        {
            IsOpen = stretch.IsReduced;
            _reduced = stretch;
            return;
        }
        if (!_isBefore && stretch.IsReduced && stretch.Price >= reduced.Price)
        {
            _reduced = stretch;
            return;
        }
        _isBefore = true;
        if (stretch.Price is { } price)
            Found = Math.Min(Found ?? price, price);
        IsOpen = stretch.From > reduced.From - Before;
    }
}
