namespace Unicus.Store;

/// <summary>Leave to take some goods in the database; given back when it is disposed of.</summary>
/// <remarks>
/// So many orders of one process are in the database at once for the same goods. Whoever waits there for the same stock is woken with each
/// order before it; waiting here costs nothing, and takes nothing from orders for other goods, whoever holds those: another process, or a
/// sheet. To be taken before anything is locked; goods are waited for in one order by all, so that nobody waits in a circle.
/// </remarks>
internal sealed class OrderTurn : IDisposable
{
    private const int AtOnce = 2;

    /// <summary>Goods are told apart by so many places, which bounds what is kept.</summary>
    private const int Places = 4096;

    /// <summary>Of one order no more goods are waited for here; the database orders the others.</summary>
    private const int MostGoods = 24;

    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    private static readonly SemaphoreSlim[] Turns = [.. Enumerable.Range(0, Places).Select(_ => new SemaphoreSlim(AtOnce))];

    private readonly List<SemaphoreSlim> _taken = [];

    private OrderTurn() { }

    /// <summary>Waits for a turn.</summary>
    /// <param name="goods">Product codes, in capitals.</param>
    /// <exception cref="TimeoutException">None came, as when the database hangs.</exception>
    public static async Task<OrderTurn> Take(IEnumerable<string> goods)
    {
        var turn = new OrderTurn();
        try
        {
            foreach (
                var place in goods
                    .Take(MostGoods)
                    .Select(g => (int)((uint)g.GetHashCode(StringComparison.Ordinal) % Places))
                    .Distinct()
                    .Order()
            )
            {
                if (!await Turns[place].WaitAsync(Patience))
                    throw new TimeoutException("No turn came to place an order.");
                turn._taken.Add(Turns[place]);
            }
            return turn;
        }
        catch
        {
            turn.Dispose();
            throw;
        }
    }

    /// <summary>The products of lines, with those that may fill the slots of sets, by their codes.</summary>
    public static async Task<IReadOnlyCollection<string>> GoodsOf(UnicusContext db, Catalogue catalogue, IEnumerable<LineRequest> lines)
    {
        var goods = new HashSet<string>();
        foreach (var line in lines.Take(MostGoods))
        {
            var edition =
                line.Product is { } code ? await catalogue.Editions.Latest(db, code)
                : line.Sku is { } sku ? (await catalogue.Editions.OfSku(db, sku))?.Edition
                : null;
            if (edition is null)
                continue;
            goods.Add(edition.Product.Code.Text);
            goods.UnionWith(edition.Slots.SelectMany(s => s.Candidates).Select(c => c.Product).OfType<string>());
        }
        return goods;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var taken in _taken)
            taken.Release();
        _taken.Clear();
    }
}
