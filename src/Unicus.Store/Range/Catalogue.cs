namespace Unicus.Store;

/// <summary>What is on sale, and all that goes with it, kept in memory and told of every change: the one source of the shop's pages,
/// baskets, orders and the HTTP interface.</summary>
public sealed class Catalogue : IDisposable
{
    private readonly SlotFills _fills;

    /// <summary>Makes a catalogue that hears of changes.</summary>
    public Catalogue(Telling telling)
    {
        Terms = new ShopTerms(telling);
        Board = new StockBoard(telling);
        Stamps = new RangeStamps(telling);
        _fills = new SlotFills(telling, Stamps);
        Editions = new Editions(telling, Terms, Stamps, _fills);
        Stamps.Listen();
    }

    /// <summary>Settings, keys, shared sets, price rules.</summary>
    public ShopTerms Terms { get; }

    /// <summary>Compiled editions and working copies, and the range that they make.</summary>
    public Editions Editions { get; }

    /// <summary>Stock levels.</summary>
    public StockBoard Board { get; }

    /// <summary>What tells whether the range may be another.</summary>
    public RangeStamps Stamps { get; }

    /// <summary>Everything that is kept, with what it is forgotten by.</summary>
    public IEnumerable<IKept> Kept => [.. Editions.Kept, .. Terms.Kept, .. Board.Kept, .. _fills.Kept];

    /// <inheritdoc/>
    public void Dispose()
    {
        Editions.Dispose();
        _fills.Dispose();
        Stamps.Dispose();
        Board.Dispose();
        Terms.Dispose();
    }
}
