namespace Unicus.Store;

/// <summary>Leave to place an order in the database; given back when it is disposed of.</summary>
/// <remarks>So many orders of one process are in the database at once. Whoever waits there for the same stock is woken with each order
/// before it; waiting here costs nothing. To be taken before anything is locked.</remarks>
internal readonly struct OrderTurn : IDisposable
{
    private const int AtOnce = 3;

    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    private static readonly SemaphoreSlim Turns = new(AtOnce);

    /// <summary>Waits for a turn.</summary>
    /// <exception cref="TimeoutException">None came, as when the database hangs.</exception>
    public static async Task<OrderTurn> Take()
    {
        return await Turns.WaitAsync(Patience) ? default(OrderTurn) : throw new TimeoutException("No turn came to place an order.");
    }

    /// <inheritdoc/>
    public void Dispose() => Turns.Release();
}
