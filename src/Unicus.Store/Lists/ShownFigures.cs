using Microsoft.Extensions.Caching.Memory;

namespace Unicus.Store;

/// <summary>What lists show of a product that hangs on prices, stock and day.</summary>
/// <param name="Changes">When it may be another; null: only when something is changed.</param>
/// <param name="Offers">For each of its offers whether it can be bought; null where only rules of prices were looked at.</param>
internal sealed record ShownFigures(int Product, ListFigures Figures, string NoneWords, DateTimeOffset? Changes, bool[]? Offers)
{
    /// <summary>What is kept of it, so that rules of prices alone can be looked at the next time; null for nothing.</summary>
    public KeptBasis? Basis { get; init; }

    public string Badge { get; init; } = "";
    public bool IsListed { get; init; }
    public bool IsFound { get; init; }
    public bool IsFeatured { get; init; }

    public void Write(RangeEntryRow entry)
    {
        var figures = entry.Figures;
        (figures.FromPrice, figures.Varies, figures.Once) = (Figures.From?.Amount, Figures.Varies, Figures.Once?.Amount);
        (figures.NoneWords, figures.ChangesAt, figures.Badge) = (NoneWords, Changes, Badge);
        (entry.Listed, entry.Searchable, entry.Featured) = (IsListed, IsFound, IsListed && IsFeatured);
    }
}

/// <summary>What is written of a product's offers.</summary>
/// <param name="Buyable">By their places.</param>
internal sealed record KnownOffers(int Product, bool[] Buyable);

/// <summary>A product whose figures are to be worked out anew.</summary>
/// <param name="Edition">The newest; one that is published since has figures of its own.</param>
/// <param name="Last">What was last written down as due of it or its parts; 0 for nothing.</param>
/// <param name="Come">The moment that came, where one did.</param>
/// <param name="Moved">Whether more than rules of prices changed.</param>
internal sealed record DueFigures(int Product, int? Edition, long Last, DateTimeOffset? Come, bool Moved);

/// <summary>A row of what is due.</summary>
internal sealed record DueRow(int Product, bool PricesOnly);

/// <summary>Keeps what pages worked out of products that are due, until the keeper has written it: of thousands at once each is worked out
/// for pages once.</summary>
public sealed class FiguresMeanwhile : IDisposable
{
    private readonly MemoryCache _kept = new(new MemoryCacheOptions { SizeLimit = 5_000 });

    /// <summary>What was worked out since it became due; null where nothing was.</summary>
    internal ShownFigures? Find(DueFigures due) => _kept.Get<ShownFigures>(due);

    /// <summary>Keeps it.</summary>
    internal void Keep(DueFigures due, ShownFigures figures) =>
        _kept.Set(due, figures, new MemoryCacheEntryOptions { Size = 1, AbsoluteExpirationRelativeToNow = TimeSpan.FromMinutes(1) });

    /// <inheritdoc/>
    public void Dispose() => _kept.Dispose();
}
