namespace Unicus.Store;

/// <summary>Numbers that become others whenever something of the range may have, to keep under them what was made from it.</summary>
public sealed class RangeStamps : IDisposable
{
    private readonly Telling _telling;
    private long _skuNames;
    private long _lists;
    private long _products;
    private long _stock;

    internal RangeStamps(Telling telling) => _telling = telling;

    /// <summary>Hears of changes from now on; after all that is kept does, so that who sees a new stamp finds nothing old under
    /// it.</summary>
    internal void Listen() => _telling.Heard += Hear;

    /// <summary>Another number whenever lists may show something else.</summary>
    public string Lists => $"{_telling.Generation}.{Interlocked.Read(ref _lists)}";

    /// <summary>Another number whenever any product may be another.</summary>
    public string Products => $"{_telling.Generation}.{Interlocked.Read(ref _products)}";

    /// <summary>Another number whenever any stock may be another.</summary>
    public string Stock => $"{_telling.Generation}.{Interlocked.Read(ref _stock)}";

    /// <summary>Another number whenever SKUs may be called otherwise.</summary>
    internal long SkuNames => Interlocked.Read(ref _skuNames);

    /// <summary>Whether they can be relied on, since every change is heard of.</summary>
    public bool AreTold => _telling.IsHearing;

    /// <inheritdoc/>
    public void Dispose() => _telling.Heard -= Hear;

    private void Hear(News news)
    {
        if (news.Kind == NewsKind.Product)
            Interlocked.Increment(ref _products);
        if (news.Kind == NewsKind.Stock)
            Interlocked.Increment(ref _stock);
        if (news.Kind == NewsKind.Skus)
            Interlocked.Increment(ref _skuNames);
        if (news.Kind is NewsKind.Shop or NewsKind.Prices or NewsKind.Names or NewsKind.Lists)
            Interlocked.Increment(ref _lists);
    }
}
